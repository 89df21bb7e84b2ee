//! Water that a soil holds, by its shares of sand, clay and organic matter.
//!
//! # References
//! Saxton and Rawls (2006), "Soil water characteristic estimates by texture and organic matter for hydrologic solutions", Soil Science
//! Society of America Journal 70:1569–1578, equations 1 to 5, 15 and 16 (from memory); for at most 60 % clay and 8 % organic matter.

/// Greatest share of clay for which the equations hold, %.
pub const MOST_CLAY_PCT: f64 = 60.0;
/// Greatest share of organic matter for which they hold, %.
pub const MOST_ORGANIC_PCT: f64 = 8.0;
/// Organic matter of a soil of which nobody says, %: that of the paper's table of classes.
pub const USUAL_ORGANIC_PCT: f64 = 2.5;

/// Water contents, as shares of the soil's volume, and how fast water passes it when full.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct SoilWater {
    /// At 1500 kPa, where plants get no more.
    pub wilting_point: f64,
    /// At 33 kPa, after drainage.
    pub field_capacity: f64,
    /// All pores full; `None` in the corner of heavy soil with much organic matter where the equations put it below field capacity.
    pub saturation: Option<f64>,
    /// Saturated conductivity, mm/h; `None` with [`Self::saturation`].
    pub ks_mm_h: Option<f64>,
}

impl SoilWater {
    /// Available water, mm per mm: field capacity less wilting point.
    #[must_use]
    pub fn available_mm_per_mm(&self) -> f64 {
        self.field_capacity - self.wilting_point
    }
}

/// The water contents of a soil of these shares, per cent by weight; sand and clay of the mineral part. `None` outside of what the equations
/// hold for: clay above 60, organic matter above 8, shares that are none, and pure sand without organic matter, for which they give less than no water.
///
/// # Formula
/// Each content is a first estimate, linear in sand S, clay C (0 to 1), organic matter OM (%) and their products, and a correction of it
/// (equations 1 to 5). Ks = 1930 (θS − θ33)^(3 − λ), λ = (ln θ33 − ln θ1500) / (ln 1500 − ln 33) (equations 15 and 16).
///
/// # Example
/// Their table 3: loam, 40 % sand and 20 % clay, 2.5 % organic matter: 14, 28 and 46 % of the volume, 15.5 mm/h.
/// ```
/// let loam = science::saxton_rawls::soil_water(40.0, 20.0, 2.5).unwrap();
/// assert!((loam.field_capacity - 0.28).abs() < 0.005);
/// assert!((loam.ks_mm_h.unwrap() - 15.5).abs() < 0.5);
/// ```
#[must_use]
pub fn soil_water(sand_pct: f64, clay_pct: f64, organic_pct: f64) -> Option<SoilWater> {
    let shares = sand_pct >= 0.0 && clay_pct >= 0.0 && sand_pct + clay_pct <= 100.0 + 1e-9;
    let organic = (0.0..=MOST_ORGANIC_PCT).contains(&organic_pct);
    if !(shares && organic && clay_pct <= MOST_CLAY_PCT) {
        return None;
    }
    let (s, c, om) = (sand_pct / 100.0, clay_pct / 100.0, organic_pct);

    let t1500 = -0.024 * s + 0.487 * c + 0.006 * om + 0.005 * s * om - 0.013 * c * om
        + 0.068 * s * c
        + 0.031;
    let wilting_point = t1500 + (0.14 * t1500 - 0.02);

    let t33 = -0.251 * s + 0.195 * c + 0.011 * om + 0.006 * s * om - 0.027 * c * om
        + 0.452 * s * c
        + 0.299;
    let field_capacity = t33 + (1.283 * t33 * t33 - 0.374 * t33 - 0.015);

    let drained_t =
        0.278 * s + 0.034 * c + 0.022 * om - 0.018 * s * om - 0.027 * c * om - 0.584 * s * c
            + 0.078;
    let drained = drained_t + (0.636 * drained_t - 0.107);
    let saturation = field_capacity + drained - 0.097 * s + 0.043;

    if wilting_point <= 0.0 || field_capacity <= wilting_point {
        return None;
    }
    let saturation = (saturation > field_capacity).then_some(saturation);
    let lambda = (field_capacity / wilting_point).ln() / (1500.0_f64 / 33.0).ln();
    Some(SoilWater {
        wilting_point,
        field_capacity,
        saturation,
        ks_mm_h: saturation.map(|full| 1930.0 * (full - field_capacity).powf(3.0 - lambda)),
    })
}
