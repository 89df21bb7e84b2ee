//! Available water and stress: FAO-56 (Allen and others 1998), chapter 8, equations 82 to 84 and the note under table 22.

/// Bounds of the depletion fraction once adjusted for the day's demand (FAO-56, note under table 22).
pub const FRACTION_BOUNDS: (f64, f64) = (0.1, 0.8);

/// Total available water TAW, mm: 1000 (θFC − θWP) Zr (FAO-56 eq. 82), with the storage given as mm of water per mm of soil.
///
/// # Example
/// FAO-56 example 36: silt (0.17 mm/mm) under tomato roots of 0.8 m holds 136 mm.
/// ```
/// assert!((science::depletion::total_available_mm(0.17, 800.0) - 136.0).abs() < 1e-9);
/// ```
#[must_use]
#[inline]
pub fn total_available_mm(available_mm_per_mm: f64, root_depth_mm: f64) -> f64 {
    available_mm_per_mm * root_depth_mm
}

/// The fraction p of TAW that may be used without stress on a day of crop evapotranspiration ETc (mm a day):
/// p0 + 0.04 (5 − ETc), kept within 0.1 and 0.8 (FAO-56, note under table 22).
#[must_use]
#[inline]
pub fn fraction_without_stress(p0: f64, etc_mm: f64) -> f64 {
    (p0 + 0.04 * (5.0 - etc_mm)).clamp(FRACTION_BOUNDS.0, FRACTION_BOUNDS.1)
}

/// By how much Ks grows with each mm left beyond RAW, which lies below TAW: 1 / (TAW − RAW), the slope of FAO-56 eq. 84.
#[must_use]
#[inline]
pub fn stress_slope(taw_mm: f64, raw_mm: f64) -> f64 {
    1.0 / (taw_mm - raw_mm)
}

/// The stress coefficient Ks, 0 to 1 (FAO-56 eq. 84): 1 up to RAW, then falling to 0 at TAW.
///
/// # Example
/// FAO-56 example 37: TAW 136, RAW 54, Dr 55 give 0.99.
/// ```
/// assert!((science::depletion::stress_coefficient(55.0, 54.0, 136.0) - 0.99).abs() < 0.005);
/// ```
#[must_use]
#[inline]
pub fn stress_coefficient(depletion_mm: f64, raw_mm: f64, taw_mm: f64) -> f64 {
    // Up to RAW, which lies below TAW, the quotient is at least 1.
    ((taw_mm - depletion_mm) * stress_slope(taw_mm, raw_mm)).clamp(0.0, 1.0)
}
