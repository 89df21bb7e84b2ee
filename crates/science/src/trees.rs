//! Trees in a lawn, watered deep, slowly and seldom. All figures are common practice, from memory of the trade's handbooks and of the University of California's
//! WUCOLS, whose plants of moderate use are watered at 0.4 to 0.6 of reference ET.

/// Depth that a deep watering reaches, low, middle, high, mm: most roots that drink lie above it.
pub const ROOTS_MM: [f64; 3] = [450.0, 600.0, 900.0];
/// Crop coefficient of established trees, all year.
pub const CROP_COEFFICIENT: f64 = 0.5;
/// Share of the available water that may be used.
pub const ALLOWABLE_DEPLETION: f64 = 0.5;
