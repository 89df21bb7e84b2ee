//! A catch-can test as it was done: where the cans stood, what they caught. What it says is in [`crate::measure::result`].

pub mod depth_map;
pub mod file;
pub mod layout;
pub mod pattern;

use science::catch_can::{Can, depth_mm};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::measure::outline::{Outline, Point};
use crate::ranges;

/// What catches the water.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Container {
    /// Straight sides: the depth is read off, mm.
    Straight {
        /// How deep it is, mm.
        deep_mm: f64,
    },
    /// Any other: the volume is read, mL.
    Volume {
        /// Area of its mouth, cm².
        throat_cm2: f64,
        /// What it holds, mL.
        holds_ml: f64,
    },
    /// A round one, its mouth measured across: the volume is read, mL.
    Round {
        /// Diameter of its mouth, mm.
        mouth_mm: f64,
        /// What it holds, mL.
        holds_ml: f64,
    },
}

impl Container {
    /// Area of its mouth, cm²; `None` where the depth is read.
    #[must_use]
    pub fn throat_cm2(&self) -> Option<f64> {
        match self {
            Self::Straight { .. } => None,
            Self::Volume { throat_cm2, .. } => Some(*throat_cm2),
            Self::Round { mouth_mm, .. } => Some(std::f64::consts::PI * (mouth_mm / 20.0).powi(2)),
        }
    }

    /// The most that can be read in it, and the unit.
    ///
    /// # Errors
    /// A measure of it that does not hold.
    fn holds(&self) -> Result<(f64, &'static str), Invalid> {
        match self {
            Self::Straight { deep_mm } => {
                Invalid::unless_within("container.deep_mm", ranges::CAN_DEPTH, *deep_mm)?;
                return Ok((*deep_mm, "mm"));
            }
            Self::Volume { throat_cm2, .. } => {
                Invalid::unless_within("container.throat_cm2", ranges::THROAT, *throat_cm2)?;
            }
            Self::Round { mouth_mm, .. } => {
                Invalid::unless_within("container.mouth_mm", ranges::MOUTH, *mouth_mm)?;
            }
        }
        let (Self::Volume { holds_ml, .. } | Self::Round { holds_ml, .. }) = self else {
            return Ok((f64::INFINITY, "mL"));
        };
        Invalid::unless_within("container.holds_ml", ranges::CAN_VOLUME, *holds_ml)?;
        Ok((*holds_ml, "mL"))
    }
}

/// What became of a can.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fate {
    /// Not read yet.
    Unread,
    /// Read.
    Read,
    /// Left out.
    Skipped,
    /// Tipped over: what it says says nothing.
    TippedOver,
}

/// A can of the test.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TestCan {
    /// Its number, from 1.
    pub number: u16,
    /// Where it stood.
    pub place: Point,
    /// What became of it.
    pub fate: Fate,
    /// What was read, mm or mL by the container; of cans that were read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub reading: Option<f64>,
}

/// A test as it was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CanTest {
    /// Corners of the zone, in order.
    pub corners: Vec<Point>,
    /// Heads.
    #[serde(default)]
    pub heads: Vec<Point>,
    /// Numbers, from 1, of heads that did not run.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub idle_heads: Vec<u16>,
    /// What caught the water.
    pub container: Container,
    /// How long the zone ran, min.
    pub minutes: f64,
    /// Wind, m/s.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wind_m_s: Option<f64>,
    /// Pressure at the heads, kPa.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pressure_kpa: Option<f64>,
    /// The cans.
    pub cans: Vec<TestCan>,
}

/// How far outside of the outline a can may stand, m: edges are not straight, and tapes sag.
const OUTSIDE_M: f64 = 0.5;
/// Most cans and heads of a test.
const MOST: usize = 400;

impl CanTest {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold, such as `cans[3].reading`.
    pub fn validate(&self) -> Result<(), Invalid> {
        Invalid::unless_within("minutes", ranges::TEST_MINUTES, self.minutes)?;
        if let Some(wind) = self.wind_m_s {
            Invalid::unless_within("wind_m_s", ranges::WIND, wind)?;
        }
        if let Some(pressure) = self.pressure_kpa {
            Invalid::unless_within("pressure_kpa", ranges::PRESSURE, pressure)?;
        }
        let (holds, unit) = self.container.holds()?;
        self.validate_plan()?;
        let outline = self.outline();
        for (i, can) in self.cans.iter().enumerate() {
            let at = |field: &str| format!("cans[{i}].{field}");
            Invalid::unless_within(at("place"), ranges::PLAN, can.place.x_m)?;
            Invalid::unless_within(at("place"), ranges::PLAN, can.place.y_m)?;
            if let Some(other) = self.cans[..i]
                .iter()
                .find(|c| c.number == can.number || c.place == can.place)
            {
                let message = if other.number == can.number {
                    format!("can {} stands twice", can.number)
                } else {
                    format!("can {} stands where can {} does", can.number, other.number)
                };
                return Err(Invalid::new(at("place"), message));
            }
            if !outline.contains(&can.place) && outline.edge_m(&can.place) > OUTSIDE_M {
                let message = format!("can {} stands outside of the zone", can.number);
                return Err(Invalid::new(at("place"), message));
            }
            match (can.fate, can.reading) {
                (Fate::Read, None) => {
                    return Err(Invalid::new(
                        at("reading"),
                        "a can that was read has a reading",
                    ));
                }
                (Fate::Read, Some(value)) if !value.is_finite() || value < 0.0 => {
                    return Err(Invalid::new(
                        at("reading"),
                        format!("{value} {unit} is below 0"),
                    ));
                }
                (Fate::Read, Some(value)) if value > holds => {
                    let message =
                        format!("{value} {unit} is more than the can holds, {holds} {unit}");
                    return Err(Invalid::new(at("reading"), message));
                }
                _ => {}
            }
        }
        Ok(())
    }

    fn validate_plan(&self) -> Result<(), Invalid> {
        if self.corners.len() < 3 || self.corners.len() > MOST {
            return Err(Invalid::new("corners", "a plan has at least three corners"));
        }
        if self.cans.is_empty() || self.cans.len() > MOST || self.heads.len() > MOST {
            return Err(Invalid::new("cans", format!("a test has 1 to {MOST} cans")));
        }
        let places = self
            .corners
            .iter()
            .map(|p| ("corners", p))
            .chain(self.heads.iter().map(|p| ("heads", p)));
        for (what, place) in places {
            Invalid::unless_within(what, ranges::PLAN, place.x_m)?;
            Invalid::unless_within(what, ranges::PLAN, place.y_m)?;
        }
        if !self.outline().is_simple() {
            return Err(Invalid::new("corners", "the sides of the plan cross"));
        }
        let heads = self.heads.len();
        if let Some(idle) = self
            .idle_heads
            .iter()
            .find(|n| **n == 0 || usize::from(**n) > heads)
        {
            return Err(Invalid::new(
                "idle_heads",
                format!("there is no head {idle} on the plan"),
            ));
        }
        if heads > 0 && self.idle_heads.len() >= heads {
            return Err(Invalid::new(
                "idle_heads",
                "no head ran: nothing was measured",
            ));
        }
        Ok(())
    }

    /// The zone's outline.
    #[must_use]
    pub fn outline(&self) -> Outline {
        Outline::of(&self.corners)
    }

    /// The cans that were read, with their depths.
    #[must_use]
    pub fn read(&self) -> Vec<(&TestCan, Can)> {
        self.cans
            .iter()
            .filter(|can| can.fate == Fate::Read)
            .filter_map(|can| {
                let reading = can.reading?;
                let depth_mm = self
                    .container
                    .throat_cm2()
                    .map_or(reading, |throat| depth_mm(reading, throat));
                let place_m = Some((can.place.x_m, can.place.y_m));
                Some((can, Can { depth_mm, place_m }))
            })
            .collect()
    }
}
