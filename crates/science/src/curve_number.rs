//! Rain that runs off, by curve number: USDA Natural Resources Conservation Service, TR-55 (1986), eqs 2-1 to 2-4 and table 2-2a
//! ("open space"); the figures are from memory of that table.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Hydrologic soil group, A (drinks fast) to D (slowly).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub enum HydrologicGroup {
    /// Sand, loamy sand, sandy loam.
    A,
    /// Silt loam, loam.
    B,
    /// Sandy clay loam.
    C,
    /// Clay loam, silty clay loam and the clays.
    D,
}

/// How well grass covers the ground.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Cover {
    /// Grass on more than three quarters of the ground.
    #[default]
    Good,
    /// Grass on less than half of it.
    Poor,
}

/// Curve number of open space, 0 to 100.
#[must_use]
pub const fn curve_number(group: HydrologicGroup, cover: Cover) -> f64 {
    match (cover, group) {
        (Cover::Good, HydrologicGroup::A) => 39.0,
        (Cover::Good, HydrologicGroup::B) => 61.0,
        (Cover::Good, HydrologicGroup::C) => 74.0,
        (Cover::Good, HydrologicGroup::D) => 80.0,
        (Cover::Poor, HydrologicGroup::A) => 68.0,
        (Cover::Poor, HydrologicGroup::B) => 79.0,
        (Cover::Poor, HydrologicGroup::C) => 86.0,
        (Cover::Poor, HydrologicGroup::D) => 89.0,
    }
}

/// Runoff of a day's rain, mm: Q = (P − Ia)² / (P − Ia + S), Ia = 0.2 S, S = 25 400/CN − 254; 0 up to Ia.
///
/// # Example
/// TR-55's own chart (figure 2-1): 4 in of rain on CN 80 runs off 2.04 in.
/// ```
/// let q = science::curve_number::runoff_mm(4.0 * 25.4, 80.0) / 25.4;
/// assert!((q - 2.04).abs() < 0.01);
/// ```
#[must_use]
#[inline]
pub fn runoff_mm(rain_mm: f64, curve_number: f64) -> f64 {
    let s = 25_400.0 / curve_number - 254.0;
    let excess = rain_mm - 0.2 * s;
    let excess = if excess > 0.0 { excess } else { 0.0 };
    // Above 0 even on a curve number of 100 without rain.
    excess * excess / (excess + s + f64::MIN_POSITIVE)
}
