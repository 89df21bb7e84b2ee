//! Budgets that water offices hold a landscape to: EPA WaterSense's allowance and California's MAWA and ETWU.
//!
//! All take depths in mm and areas in m², and give litres: 1 mm on 1 m² is 1 L, where the sources multiply inches and square feet by 0.623
//! (0.62 in California's rule).
//!
//! # References
//! - U.S. EPA, *WaterSense Water Budget Approach*, version 1.02, 2014, from memory.
//! - California Code of Regulations, title 23, division 2, chapter 2.7, Model Water Efficient Landscape Ordinance (2015), §§ 491, 492.4,
//!   492.13, from memory.
//! - Plant factors of turf: University of California Cooperative Extension, from memory.

use crate::sprinkler::Kind;
use crate::turf::Season;

/// Share of the peak month's reference ET that WaterSense allows a landscape.
pub const WATERSENSE_SHARE: f64 = 0.70;
/// ET adjustment factor of homes.
pub const ETAF_HOME: f64 = 0.55;
/// ET adjustment factor of other landscapes.
pub const ETAF_OTHER: f64 = 0.45;

/// WaterSense's landscape water allowance of a month, L.
///
/// # Formula
/// 0.70 · ET0 · A, of the peak month: the one with the greatest ET0 − rain.
///
/// # Units
/// `et0_mm` of the month, mm; `area_m2`, m².
///
/// # Example
/// 6 in of ET0 on 5000 ft²: 0.70 · 6 · 5000 · 0.623 = 13 083 gal (worked from the formula).
/// ```
/// use science::units::{L_PER_GALLON, M2_PER_FT2, MM_PER_INCH};
/// let litres = science::water_budget::watersense_allowance_l(6.0 * MM_PER_INCH, 5000.0 * M2_PER_FT2);
/// assert!((litres / L_PER_GALLON / 13_083.0 - 1.0).abs() < 1e-3);
/// ```
#[must_use]
pub fn watersense_allowance_l(et0_mm: f64, area_m2: f64) -> f64 {
    WATERSENSE_SHARE * et0_mm * area_m2
}

/// California's maximum applied water allowance, L.
///
/// # Formula
/// ET0 · (ETAF · LA + (1 − ETAF) · SLA)
///
/// # Units
/// `et0_mm`, mm, of the span that is budgeted (the rule's is a year); `landscape_m2` all that is planted, `special_m2` that part of it
/// which is for play or food, or watered with recycled water, m²; `etaf` 0 to 1.
///
/// # Example
/// The rule of 2009, with ETAF 0.7: 51.1 in of ET0 on 50 000 ft² without special areas, 51.1 · 0.62 · 0.7 · 50 000 = 1 108 870 gal (§ 492.4
/// as it stood then, from memory).
/// ```
/// use science::units::{L_PER_GALLON, M2_PER_FT2, MM_PER_INCH};
/// let litres = science::water_budget::mawa_l(51.1 * MM_PER_INCH, 0.7, 50_000.0 * M2_PER_FT2, 0.0);
/// // The rule rounds 0.6234 to 0.62.
/// assert!((litres / L_PER_GALLON / 1_108_870.0 - 0.6234 / 0.62).abs() < 1e-4);
/// ```
#[must_use]
pub fn mawa_l(et0_mm: f64, etaf: f64, landscape_m2: f64, special_m2: f64) -> f64 {
    et0_mm * (etaf * landscape_m2 + (1.0 - etaf) * special_m2)
}

/// One hydrozone's part of California's estimated total water use, L.
///
/// # Formula
/// ET0 · PF · HA / IE
///
/// # Units
/// `et0_mm`, mm; `plant_factor` and `efficiency` above 0 to 1; `area_m2`, m².
#[must_use]
pub fn etwu_l(et0_mm: f64, plant_factor: f64, area_m2: f64, efficiency: f64) -> f64 {
    et0_mm * plant_factor * area_m2 / efficiency
}

/// Plant factor of turf: 0.8 cool-season, 0.6 warm-season.
#[must_use]
pub const fn plant_factor(season: Season) -> f64 {
    match season {
        Season::Cool => 0.8,
        Season::Warm => 0.6,
    }
}

/// Irrigation efficiency that the rule gives a kind: 0.75 overhead, 0.81 drip.
#[must_use]
pub const fn efficiency(kind: Kind) -> f64 {
    match kind {
        Kind::Drip => 0.81,
        Kind::FixedSpray | Kind::Rotor | Kind::MultiStream | Kind::Impact | Kind::Portable => 0.75,
    }
}
