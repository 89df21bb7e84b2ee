//! What was seen of a zone, or read off a probe, at a glance: it corrects the balance or asks for advice, and is no test.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::ranges;

/// What was seen.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "seen", rename_all = "snake_case", deny_unknown_fields)]
#[schema(as = Observation)]
pub enum Seen {
    /// Whether steps stay pressed in.
    Footprints {
        /// How long they stay; absent: some minutes.
        #[serde(default, skip_serializing_if = "Stay::is_minutes")]
        stay: Stay,
    },
    /// The lawn has gone dull and bluish: it wilts.
    DullColour,
    /// Blades are folded, tips straw-coloured: it wilts.
    Tips,
    /// Patches have turned brown: it wilts, sleeps or is dead.
    Patches,
    /// A handful of grass that was pulled at.
    Tug {
        /// Whether it held.
        holds: bool,
    },
    /// The crowns, where blades grow out of the roots, with the blades parted.
    Crowns {
        /// Whether they are green, or white and firm; else brown and brittle.
        alive: bool,
    },
    /// Water stands.
    Puddles,
    /// Water runs off while the sprinklers run.
    Runoff,
    /// A dry spot in a lawn that is not.
    DrySpot,
    /// Dead stems and roots between grass and soil.
    Thatch {
        /// How thick, mm.
        mm: f64,
    },
    /// Trodden hard.
    Compaction,
    /// A screwdriver or a rod pushed in by hand.
    Screwdriver {
        /// How deep it went, mm.
        depth_mm: f64,
        /// What stopped it.
        stopped: StoppedBy,
    },
    /// A moisture probe at root depth.
    Moisture(Moisture),
    /// How far new grass has come.
    Grown {
        /// What is to be seen of it.
        grown: Grown,
    },
}

/// What is to be seen of new grass.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Grown {
    /// First blades stand.
    FirstBlades,
    /// It fills in: half of the ground is covered.
    FillingIn,
    /// It was mown for the first time.
    MownOnce,
}

/// How long footprints stay in grass.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = FootprintsStay)]
pub enum Stay {
    /// Not at all: blades rise at once, and have water.
    Rise,
    /// Some minutes: it begins to wilt.
    #[default]
    Minutes,
    /// Half an hour or longer.
    HalfHour,
}

impl Stay {
    /// Whether it is what is meant where nobody says.
    #[must_use]
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde asks for a reference
    pub const fn is_minutes(&self) -> bool {
        matches!(self, Self::Minutes)
    }
}

/// How far grass has wilted.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Wilt {
    /// It begins to.
    Begins,
    /// It has for some time.
    Far,
}

/// What stopped a screwdriver.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StoppedBy {
    /// Dry soil.
    Dry,
    /// Hard soil, though moist: it is compacted, or there is a stone.
    Hard,
    /// Nothing: it went in all the way.
    Nothing,
}

/// A reading of a moisture probe at root depth.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "scale", rename_all = "snake_case", deny_unknown_fields)]
pub enum Moisture {
    /// In per cent of the soil's volume.
    Percent {
        /// What it shows, %.
        reading: f64,
        /// What it showed here a day or two after a soaking, at field capacity, %: then it is calibrated.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        at_field_capacity: Option<f64>,
    },
    /// On a scale of its own from dry to wet.
    Own {
        /// What it shows.
        reading: f64,
        /// What it showed here at field capacity.
        at_field_capacity: f64,
        /// What it shows where grass wilts for good: in dry soil of the same kind.
        at_wilting: f64,
    },
}

impl Moisture {
    fn validate(&self) -> Result<(), Invalid> {
        match *self {
            Self::Percent {
                reading,
                at_field_capacity,
            } => {
                Invalid::unless_within("reading", ranges::MOISTURE, reading)?;
                at_field_capacity.map_or(Ok(()), |at| {
                    Invalid::unless_within("at_field_capacity", ranges::MOISTURE, at)
                })
            }
            Self::Own {
                reading,
                at_field_capacity,
                at_wilting,
            } => {
                Invalid::unless_within("reading", ranges::PROBE_SCALE, reading)?;
                Invalid::unless_within(
                    "at_field_capacity",
                    ranges::PROBE_SCALE,
                    at_field_capacity,
                )?;
                Invalid::unless_within("at_wilting", ranges::PROBE_SCALE, at_wilting)?;
                if (at_field_capacity - at_wilting).abs() < 1e-6 {
                    return Err(Invalid::new(
                        "at_wilting",
                        "the probe must show something else in dry soil than at field capacity",
                    ));
                }
                Ok(())
            }
        }
    }

    /// Whether it was calibrated in this soil.
    #[must_use]
    pub const fn is_calibrated(&self) -> bool {
        match self {
            Self::Percent {
                at_field_capacity, ..
            } => at_field_capacity.is_some(),
            Self::Own { .. } => true,
        }
    }
}

impl Seen {
    /// Checks every figure.
    ///
    /// # Errors
    /// The field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        match self {
            Self::Thatch { mm } => Invalid::unless_within("mm", ranges::SOIL_DEPTH, *mm),
            Self::Screwdriver { depth_mm, .. } => {
                Invalid::unless_within("depth_mm", ranges::SOIL_DEPTH, *depth_mm)
            }
            Self::Moisture(moisture) => moisture.validate(),
            _ => Ok(()),
        }
    }

    /// How far grass shows that it has wilted; `None`: it shows nothing of it.
    #[must_use]
    pub const fn wilt(&self) -> Option<Wilt> {
        match self {
            Self::Footprints {
                stay: Stay::Minutes,
            }
            | Self::DullColour
            | Self::Tips => Some(Wilt::Begins),
            Self::Footprints {
                stay: Stay::HalfHour,
            }
            | Self::Patches => Some(Wilt::Far),
            _ => None,
        }
    }

    /// Whether it shows that the soil is moist down to the roots or that water stands on it: what looks like thirst is something else then.
    #[must_use]
    pub const fn is_moist(&self) -> bool {
        matches!(
            self,
            Self::Puddles
                | Self::Screwdriver {
                    stopped: StoppedBy::Hard | StoppedBy::Nothing,
                    ..
                }
        )
    }
}
