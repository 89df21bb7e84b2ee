//! Humidity of the air: FAO Irrigation and Drainage Paper 56 (Allen and others 1998), chapter 3, equations 7 to 19.

/// Atmospheric pressure, kPa, at an elevation in metres above sea level (FAO-56 eq. 7).
///
/// # Example
/// FAO-56 example 2: at 1800 m the pressure is 81.8 kPa.
/// ```
/// assert!((science::humidity::pressure_kpa(1800.0) - 81.8).abs() < 0.05);
/// ```
#[must_use]
pub fn pressure_kpa(elevation_m: f64) -> f64 {
    101.3 * ((293.0 - 0.0065 * elevation_m) / 293.0).powf(5.26)
}

/// Psychrometric constant, kPa/°C, at a pressure in kPa (FAO-56 eq. 8).
#[must_use]
pub fn psychrometric_kpa_c(pressure_kpa: f64) -> f64 {
    0.665e-3 * pressure_kpa
}

/// Saturation vapour pressure, kPa, at an air temperature in °C (FAO-56 eq. 11).
///
/// # Example
/// FAO-56 example 3: 24.5 °C gives 3.075 kPa.
/// ```
/// assert!((science::humidity::saturation_kpa(24.5) - 3.075).abs() < 0.0005);
/// ```
#[must_use]
pub fn saturation_kpa(t_c: f64) -> f64 {
    0.6108 * (17.27 * t_c / (t_c + 237.3)).exp()
}

/// Mean saturation vapour pressure of a day, kPa: the mean of that at the two extremes (FAO-56 eq. 12).
#[must_use]
pub fn mean_saturation_kpa(tmin_c: f64, tmax_c: f64) -> f64 {
    f64::midpoint(saturation_kpa(tmin_c), saturation_kpa(tmax_c))
}

/// Slope of the saturation vapour pressure curve, kPa/°C (FAO-56 eq. 13).
#[must_use]
pub fn slope_kpa_c(t_c: f64) -> f64 {
    4098.0 * saturation_kpa(t_c) / (t_c + 237.3).powi(2)
}

/// Actual vapour pressure, kPa, from relative humidity in per cent, by the best equation that the data allow:
/// both extremes (FAO-56 eq. 17), the greatest alone (eq. 18), or the least alone (the other half of eq. 17).
/// `None` without either.
///
/// # Example
/// FAO-56 example 5: 18 and 25 °C, 54 and 82 % give 1.70 kPa.
/// ```
/// let ea = science::humidity::actual_from_relative_kpa(18.0, 25.0, Some(54.0), Some(82.0)).unwrap();
/// assert!((ea - 1.70).abs() < 0.005);
/// ```
#[must_use]
pub fn actual_from_relative_kpa(
    tmin_c: f64,
    tmax_c: f64,
    rh_min_pct: Option<f64>,
    rh_max_pct: Option<f64>,
) -> Option<f64> {
    actual_from_saturation_kpa(
        saturation_kpa(tmin_c),
        saturation_kpa(tmax_c),
        rh_min_pct,
        rh_max_pct,
    )
}

/// As [`actual_from_relative_kpa`], from the saturation vapour pressures at the day's extremes.
pub(crate) fn actual_from_saturation_kpa(
    es_min_kpa: f64,
    es_max_kpa: f64,
    rh_min_pct: Option<f64>,
    rh_max_pct: Option<f64>,
) -> Option<f64> {
    let at_dawn = rh_max_pct.map(|rh| es_min_kpa * rh / 100.0);
    let at_noon = rh_min_pct.map(|rh| es_max_kpa * rh / 100.0);
    match (at_dawn, at_noon) {
        (Some(dawn), Some(noon)) => Some(f64::midpoint(dawn, noon)),
        (one, other) => one.or(other),
    }
}
