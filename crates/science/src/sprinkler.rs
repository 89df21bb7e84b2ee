//! Sprinklers: what each kind usually puts down, and the formulas that turn unevenness and flow into minutes.
//!
//! The default figures are common practice, written down from memory; a catch-can test replaces them.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::units::{KPA_PER_PSI, MM_PER_INCH};

/// What waters a zone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// Fixed spray heads.
    FixedSpray,
    /// Gear-driven rotors.
    Rotor,
    /// Multi-stream rotating nozzles.
    MultiStream,
    /// Impact sprinklers.
    Impact,
    /// One portable sprinkler on a hose, moved by hand.
    Portable,
    /// Drip line.
    Drip,
}

/// Usual figures of a sprinkler kind; triples are low, middle, high.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Defaults {
    /// English name as shown to people.
    pub name: &'static str,
    /// Precipitation rate, mm/h.
    pub rate_mm_h: [f64; 3],
    /// Distribution uniformity of the low quarter, 0 to 1; for drip the emission uniformity.
    pub evenness: [f64; 3],
    /// Share of the water lost to spray and drift at dawn, 0 to 0.4.
    pub spray_loss: [f64; 3],
    /// Pressure at the head that it is made for, kPa.
    pub pressure_kpa: f64,
    /// Wind above which it should not run, m/s; `None`: wind does not touch it.
    pub wind_limit_m_s: Option<f64>,
    /// Least useful pass, min: 2 for sprays, about one full turn for what rotates.
    pub least_pass_min: f64,
}

impl Kind {
    /// All kinds.
    pub const ALL: [Self; 6] = [
        Self::FixedSpray,
        Self::Rotor,
        Self::MultiStream,
        Self::Impact,
        Self::Portable,
        Self::Drip,
    ];

    /// Whether its streams turn, or the whole of it.
    #[must_use]
    pub const fn rotates(self) -> bool {
        !matches!(self, Self::FixedSpray | Self::Drip)
    }

    /// Usual figures of this kind.
    #[must_use]
    pub fn defaults(self) -> Defaults {
        let (name, rate_in_h, evenness, spray_loss, psi, wind_limit_m_s, least_pass_min) =
            match self {
                Self::FixedSpray => (
                    "Fixed spray",
                    [1.3, 1.6, 2.0],
                    [0.40, 0.55, 0.75],
                    [0.04, 0.08, 0.15],
                    30.0,
                    Some(4.0),
                    2.0,
                ),
                Self::Rotor => (
                    "Rotor",
                    [0.3, 0.45, 0.8],
                    [0.50, 0.65, 0.80],
                    [0.03, 0.05, 0.10],
                    45.0,
                    Some(5.0),
                    3.0,
                ),
                Self::MultiStream => (
                    "Multi-stream nozzle",
                    [0.35, 0.45, 0.6],
                    [0.60, 0.70, 0.85],
                    [0.03, 0.05, 0.08],
                    40.0,
                    Some(5.0),
                    3.0,
                ),
                Self::Impact => (
                    "Impact",
                    [0.3, 0.5, 0.8],
                    [0.50, 0.65, 0.80],
                    [0.03, 0.06, 0.12],
                    50.0,
                    Some(5.0),
                    3.0,
                ),
                Self::Portable => (
                    "Portable on a hose",
                    [0.3, 0.5, 1.0],
                    [0.35, 0.50, 0.70],
                    [0.05, 0.10, 0.20],
                    40.0,
                    Some(4.0),
                    5.0,
                ),
                Self::Drip => (
                    "Drip line",
                    [0.2, 0.6, 1.0],
                    [0.75, 0.85, 0.95],
                    [0.0, 0.0, 0.0],
                    25.0,
                    None,
                    5.0,
                ),
            };
        Defaults {
            name,
            rate_mm_h: rate_in_h.map(|x: f64| x * MM_PER_INCH),
            evenness,
            spray_loss,
            pressure_kpa: psi * KPA_PER_PSI,
            wind_limit_m_s,
            least_pass_min,
        }
    }
}

/// Uniformity below which plans do not follow it: the sprinklers want repair first (common practice, no source).
pub const LEAST_UNIFORMITY: f64 = 0.40;

/// Run-time multiplier M = 1 / (0.4 + 0.6 DUlq) (Irrigation Association 2005, from memory), with DUlq not taken below 0.40.
///
/// # Example
/// ```
/// assert!((science::sprinkler::run_time_multiplier(0.5) - 1.0 / 0.7).abs() < 1e-12);
/// assert_eq!(science::sprinkler::run_time_multiplier(1.0), 1.0);
/// ```
#[must_use]
pub fn run_time_multiplier(du_lq: f64) -> f64 {
    1.0 / (0.4 + 0.6 * du_lq.clamp(LEAST_UNIFORMITY, 1.0))
}

/// Precipitation rate, mm/h, from the mean volume caught (mL) over a throat (cm²) in some minutes: 600 · mL / (cm² · min).
#[must_use]
pub fn rate_from_volume_mm_h(mean_ml: f64, throat_cm2: f64, minutes: f64) -> f64 {
    // 1 mL on 1 cm² is 10 mm deep; 60 minutes to the hour.
    10.0 * mean_ml / throat_cm2 * (60.0 / minutes)
}

/// Precipitation rate, mm/h, from a flow (L/min) over an area (m²): 1 L on 1 m² is 1 mm.
#[must_use]
pub fn rate_from_flow_mm_h(flow_l_min: f64, area_m2: f64) -> f64 {
    flow_l_min / area_m2 * 60.0
}

/// Rows of heads set in triangles stand this share of the heads' spacing apart: √3 / 2.
pub const TRIANGULAR_ROWS: f64 = 0.866_025_403_784_438_6;

/// Flow, L/min, of a nozzle at another pressure than the one its flow is known for: flow goes with √pressure (Bernoulli).
///
/// # Example
/// ```
/// assert!((science::sprinkler::flow_at_pressure_l_min(10.0, 200.0, 300.0) - 10.0 * 1.5f64.sqrt()).abs() < 1e-12);
/// ```
#[must_use]
pub fn flow_at_pressure_l_min(flow_l_min: f64, known_at_kpa: f64, at_kpa: f64) -> f64 {
    flow_l_min * (at_kpa / known_at_kpa).sqrt()
}

/// Precipitation rate, mm/h, of overlapping heads from one nozzle's flow (L/min), the arc it waters (degrees) and the spacing of heads
/// and rows (m): what a full circle of it would give, over the rectangle that each head has. In inches, gallons and feet the factor
/// 60 is 96.25 (Irrigation Association, from memory).
///
/// # Example
/// A quarter circle of 1 gpm on 15 ft by 15 ft: 96.25 · 4 / 225 = 1.711 in/h.
/// ```
/// use science::units::{L_PER_GALLON, MM_PER_INCH};
/// let side_m = 15.0 * 0.3048;
/// let rate = science::sprinkler::rate_from_nozzle_mm_h(L_PER_GALLON, 90.0, side_m, side_m);
/// assert!((rate / MM_PER_INCH - 1.711).abs() < 0.001);
/// ```
#[must_use]
pub fn rate_from_nozzle_mm_h(
    flow_l_min: f64,
    arc_degrees: f64,
    head_spacing_m: f64,
    row_spacing_m: f64,
) -> f64 {
    let full_circle = flow_l_min * 360.0 / arc_degrees;
    rate_from_flow_mm_h(full_circle, head_spacing_m * row_spacing_m)
}
