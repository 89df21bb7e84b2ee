//! Radiation and day length: FAO-56 (Allen and others 1998), chapter 3, equations 21 to 50.
//!
//! Symbols: Ra extraterrestrial, Rs solar, Rso clear-sky, Rns and Rnl net short and long wave, all MJ/m² a day;
//! J day of the year; φ latitude, south negative; ωs sunset hour angle.

use std::f64::consts::PI;

/// Solar constant, MJ/m² a minute (FAO-56 eq. 21).
const GSC: f64 = 0.0820;
/// Stefan–Boltzmann constant, MJ/K⁴/m² a day (FAO-56 eq. 39).
const SIGMA: f64 = 4.903e-9;
/// Reflection of the reference grass (FAO-56 eq. 38).
const ALBEDO: f64 = 0.23;
/// Bounds of Rs/Rso: below 0.3 a day is overcast, above 1 it is clear (ASCE-EWRI 2005, eq. 18).
const CLEARNESS: (f64, f64) = (0.3, 1.0);
/// Rs/Rso where the sun does not rise and cloud cannot be told from it: the middle of the bounds.
const CLEARNESS_IN_POLAR_NIGHT: f64 = 0.65;

/// Inverse relative distance of earth and sun on day of year `j` (FAO-56 eq. 23).
fn inverse_distance(j: f64) -> f64 {
    1.0 + 0.033 * (2.0 * PI * j / 365.0).cos()
}

/// Solar declination, radians (FAO-56 eq. 24).
fn declination(j: f64) -> f64 {
    0.409 * (2.0 * PI * j / 365.0 - 1.39).sin()
}

/// Sunset hour angle, radians, 0 where the sun stays down and π where it stays up (FAO-56 eq. 25, its argument kept within ±1).
fn sunset_angle(latitude_rad: f64, declination: f64) -> f64 {
    (-latitude_rad.tan() * declination.tan())
        .clamp(-1.0, 1.0)
        .acos()
}

/// Extraterrestrial radiation Ra, MJ/m² a day (FAO-56 eq. 21), for a latitude in degrees and a day of the year (1 to 366).
///
/// # Example
/// FAO-56 example 8: 20°S on 3 September (day 246) gives 32.2.
/// ```
/// assert!((science::radiation::extraterrestrial_mj_m2(-20.0, 246) - 32.2).abs() < 0.05);
/// ```
#[must_use]
pub fn extraterrestrial_mj_m2(latitude_deg: f64, day_of_year: u16) -> f64 {
    let (phi, j) = (latitude_deg.to_radians(), f64::from(day_of_year));
    let delta = declination(j);
    let omega = sunset_angle(phi, delta);
    let ra = 24.0 * 60.0 / PI
        * GSC
        * inverse_distance(j)
        * (omega * phi.sin() * delta.sin() + phi.cos() * delta.cos() * omega.sin());
    ra.max(0.0)
}

/// Day length N, hours, 0 in the polar night and 24 in the polar day (FAO-56 eq. 34).
///
/// # Example
/// FAO-56 example 9: the same place and day as example 8 give 11.7 hours.
/// ```
/// assert!((science::radiation::day_length_h(-20.0, 246) - 11.7).abs() < 0.05);
/// ```
#[must_use]
pub fn day_length_h(latitude_deg: f64, day_of_year: u16) -> f64 {
    let delta = declination(f64::from(day_of_year));
    24.0 / PI * sunset_angle(latitude_deg.to_radians(), delta)
}

/// Solar radiation Rs, MJ/m² a day, from hours of bright sunshine by Ångström with a 0.25 and b 0.50 (FAO-56 eq. 35).
/// Hours beyond the day length count as the day length; 0 in the polar night.
#[must_use]
pub fn solar_from_sunshine_mj_m2(ra_mj_m2: f64, sunshine_h: f64, day_length_h: f64) -> f64 {
    if day_length_h <= 0.0 {
        return 0.0;
    }
    (0.25 + 0.50 * (sunshine_h / day_length_h).min(1.0)) * ra_mj_m2
}

/// Solar radiation Rs, MJ/m² a day, from the day's temperature range by Hargreaves, interior places (kRs 0.16), not above
/// the clear sky's (FAO-56 eq. 50).
#[must_use]
pub fn solar_from_temperature_mj_m2(
    ra_mj_m2: f64,
    rso_mj_m2: f64,
    tmin_c: f64,
    tmax_c: f64,
) -> f64 {
    (0.16 * (tmax_c - tmin_c).max(0.0).sqrt() * ra_mj_m2).min(rso_mj_m2)
}

/// Clear-sky radiation Rso, MJ/m² a day, at an elevation in metres (FAO-56 eq. 37).
#[must_use]
pub fn clear_sky_mj_m2(ra_mj_m2: f64, elevation_m: f64) -> f64 {
    (0.75 + 2e-5 * elevation_m) * ra_mj_m2
}

/// Net short-wave radiation Rns of the reference grass, MJ/m² a day (FAO-56 eq. 38).
#[must_use]
pub fn net_shortwave_mj_m2(rs_mj_m2: f64) -> f64 {
    (1.0 - ALBEDO) * rs_mj_m2
}

/// Net outgoing long-wave radiation Rnl, MJ/m² a day (FAO-56 eq. 39), with Rs/Rso kept within 0.3 and 1 as ASCE-EWRI 2005 does;
/// where Rso is 0 (polar night) the ratio is taken as 0.65.
#[must_use]
pub fn net_longwave_mj_m2(
    tmin_c: f64,
    tmax_c: f64,
    ea_kpa: f64,
    rs_mj_m2: f64,
    rso_mj_m2: f64,
) -> f64 {
    let clearness = if rso_mj_m2 > 0.0 {
        (rs_mj_m2 / rso_mj_m2).clamp(CLEARNESS.0, CLEARNESS.1)
    } else {
        CLEARNESS_IN_POLAR_NIGHT
    };
    let emission = SIGMA * f64::midpoint((tmax_c + 273.16).powi(4), (tmin_c + 273.16).powi(4));
    emission * (0.34 - 0.14 * ea_kpa.max(0.0).sqrt()) * (1.35 * clearness - 0.35)
}
