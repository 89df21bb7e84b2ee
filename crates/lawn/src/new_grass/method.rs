//! The ways in which new grass is made, and which grass takes which.

use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::site::NewGrassAs;

/// A way to make new grass.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingMethod)]
pub enum Method {
    /// Seed on bare ground that was loosened.
    Seed,
    /// Seed into a thin lawn that was opened by aerating or raking.
    Overseed,
    /// Seed into slits that a machine cuts into a thin lawn.
    SlitSeed,
    /// Rolls of grown turf.
    Sod,
    /// Small pieces of turf, set apart.
    Plugs,
    /// Shredded stolons, pressed in.
    Sprigs,
    /// Ryegrass over turf of a warm season that sleeps through the winter.
    WinterRye,
}

impl Method {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::Seed,
        Self::Overseed,
        Self::SlitSeed,
        Self::Sod,
        Self::Plugs,
        Self::Sprigs,
        Self::WinterRye,
    ];

    /// The ways in which a grass is made, the usual one first.
    #[must_use]
    pub fn of(grass: Grass) -> Vec<Self> {
        let mut ways: Vec<Self> = Self::ALL
            .into_iter()
            .filter(|way| way.suits(grass))
            .collect();
        if grass.is_seldom_seeded() {
            // Sprigs, plugs and sod before seed; stable: otherwise in their order.
            let rank = |way: &Self| match way {
                Self::Sprigs => 0,
                Self::Plugs => 1,
                Self::Sod => 2,
                _ => 3,
            };
            ways.sort_by_key(rank);
        }
        ways
    }

    /// Whether a grass is made in this way; winter rye is sown over it.
    #[must_use]
    pub fn suits(self, grass: Grass) -> bool {
        let is_warm = grass.profile().season == Season::Warm;
        match self {
            Self::Seed | Self::Overseed | Self::SlitSeed => grass.seed().is_some(),
            Self::Sod => true,
            Self::Plugs => is_warm && grass.spreads() && grass != Grass::Bahiagrass,
            Self::Sprigs => {
                is_warm
                    && !matches!(grass, Grass::Bahiagrass | Grass::Buffalograss)
                    && grass.spreads()
            }
            Self::WinterRye => is_warm,
        }
    }

    /// The grass that is sown or planted.
    #[must_use]
    pub const fn sows(self, grass: Grass) -> Grass {
        match self {
            Self::WinterRye => Grass::PerennialRyegrass,
            _ => grass,
        }
    }

    /// What new grass is then made of.
    #[must_use]
    pub const fn made(self) -> NewGrassAs {
        match self {
            Self::Seed | Self::Sprigs => NewGrassAs::Seed,
            Self::Overseed | Self::SlitSeed | Self::WinterRye => NewGrassAs::Overseed,
            Self::Sod => NewGrassAs::Sod,
            Self::Plugs => NewGrassAs::Plugs,
        }
    }

    /// Whether seed is sown.
    #[must_use]
    pub const fn is_seed(self) -> bool {
        matches!(
            self,
            Self::Seed | Self::Overseed | Self::SlitSeed | Self::WinterRye
        )
    }

    /// Share of the rate for bare ground that is sown: half of it into a lawn that stands (common practice, no source).
    #[must_use]
    pub const fn share_of_rate(self) -> f64 {
        match self {
            Self::Overseed | Self::SlitSeed => 0.5,
            _ => 1.0,
        }
    }
}
