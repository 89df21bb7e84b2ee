//! Tests of the soil of a zone: its texture, how fast it drinks, how deep the roots go and what lies below, whether it repels water.

mod core_sample;
mod drops;
mod result;
mod ring;
mod runoff;
mod shares;
mod texture;

use jiff::civil::Date;
use science::soil::Texture;
use science::water_drop::Repellency;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::measure::squeeze::{Ball, Feel};
use crate::quantity::{Depth, Rate};
use crate::sourced::{Source, Sourced};

pub use core_sample::{CoreSample, Layer, Lies, validate_layers};
pub use drops::Drops;
pub use result::{SoilResult, TextureResult};
pub use ring::{CurvePoint, Fitted, Ring, RingLaw, RingReading, RingResult, RingTest, Walls};
pub use runoff::Runoff;
pub use shares::SoilShares;
pub use texture::{Jar, Lab};

/// A test as it was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "method", rename_all = "snake_case")]
pub enum SoilTest {
    /// Soil shaken up in a jar of water and left to settle.
    Jar(Jar),
    /// Shares by a laboratory.
    Lab(Lab),
    /// A handful pressed between thumb and finger.
    Squeeze(Squeeze),
    /// Rings with water, and a watch.
    Ring(RingTest),
    /// How long the zone's own sprinklers run until water stands or runs.
    Runoff(Runoff),
    /// Drops of water on dry soil.
    Drops(Drops),
    /// Cores pulled out of the turf.
    Core(CoreSample),
}

/// A handful pressed between thumb and finger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Squeeze {
    /// How the ball behaves.
    pub ball: Ball,
    /// How it feels.
    pub feel: Feel,
}

/// What a test says of the soil's texture.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TextureTold {
    /// The class.
    pub texture: Texture,
    /// The shares, where the test measures them.
    pub shares: Option<SoilShares>,
    /// How far the storage that follows from it could be off, share.
    pub storage_off: f64,
    /// Of several tests the one with the highest rank counts, whatever came later: 0 by hand, 1 a jar, 2 a laboratory.
    pub rank: u8,
}

/// What a test says; each part `None` where it says nothing of it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Says {
    /// Texture, and shares of sand, silt and clay.
    pub texture: Option<TextureTold>,
    /// Steady intake rate.
    pub intake: Option<Sourced<Rate>>,
    /// Minutes to the first puddle or runoff.
    pub minutes_to_runoff: Option<Sourced<f64>>,
    /// Minutes until it had gone in.
    pub soak_minutes: Option<Sourced<f64>>,
    /// Depth of the roots.
    pub root_depth: Option<Sourced<Depth>>,
    /// What lies below; `Some` of none: the same soil all down.
    pub layers: Option<Vec<Layer>>,
    /// Whether the ground repels water.
    pub repellency: Option<Repellency>,
}

impl SoilTest {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold, such as `rings[0].readings[3].minutes`.
    pub fn validate(&self) -> Result<(), Invalid> {
        match self {
            Self::Jar(test) => test.validate(),
            Self::Lab(test) => test.validate(),
            Self::Squeeze(_) => Ok(()),
            Self::Ring(test) => test.validate(),
            Self::Runoff(test) => test.validate(),
            Self::Drops(test) => test.validate(),
            Self::Core(test) => test.validate(),
        }
    }

    /// What it was, in words that stand beside its figures.
    #[must_use]
    pub fn name(&self) -> String {
        match self {
            Self::Jar(_) => "jar test".to_owned(),
            Self::Lab(_) => "laboratory".to_owned(),
            Self::Squeeze(_) => "squeeze test".to_owned(),
            Self::Ring(test) => test.name(),
            Self::Runoff(test) => test.name(),
            Self::Drops(_) => "drop test".to_owned(),
            Self::Core(test) => test.name(),
        }
    }

    /// What it says, done on a date; of a valid test.
    #[must_use]
    pub fn says(&self, date: Date) -> Says {
        let source = Source::Measured {
            test: self.name(),
            date,
        };
        match self {
            Self::Jar(test) => Says {
                texture: Some(test.told()),
                ..Says::default()
            },
            Self::Lab(test) => Says {
                texture: Some(test.told()),
                ..Says::default()
            },
            Self::Squeeze(test) => Says {
                texture: Some(texture::of_squeeze(test.ball, test.feel)),
                ..Says::default()
            },
            Self::Ring(test) => Says {
                intake: test.steady(source),
                ..Says::default()
            },
            Self::Runoff(test) => test.says(source),
            Self::Drops(test) => Says {
                repellency: test.class(),
                ..Says::default()
            },
            Self::Core(test) => test.says(source),
        }
    }
}

/// A figure measured here that could be off by a share either way, kept within what plans work in.
fn measured(value: f64, off: f64, range: crate::ranges::Range, source: Source) -> Sourced<f64> {
    let within = |x: f64| x.clamp(range.min, range.max);
    Sourced {
        value: within(value),
        low: within(value * (1.0 - off)),
        high: within(value * (1.0 + off)),
        source,
    }
}
