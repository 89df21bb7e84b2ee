//! Texture from a jar, a laboratory or the hand.

use science::soil_triangle::texture;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::TextureTold;
use super::shares::SoilShares;
use crate::invalid::Invalid;
use crate::measure::squeeze::{self, Ball, Feel};
use crate::ranges;

/// How far storage could be off that follows from a texture by hand, by a jar, by a laboratory, share (common practice, no source).
const BY_HAND_OFF: f64 = 0.20;
const BY_JAR_OFF: f64 = 0.15;
const BY_LAB_OFF: f64 = 0.10;

/// How far shares may miss 100 % in all, points.
const MAY_MISS_PCT: f64 = 2.0;

/// Soil shaken up in a jar of water with a drop of dish soap and left to settle. Sand is down after a minute, silt after two hours, clay after a
/// day: the heights are those from the jar's bottom, read then, or in the end by the layers that one sees (common practice, no source).
/// The heights' shares count as shares by weight.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Jar {
    /// Top of the sand, mm from the bottom: what has settled after 1 minute.
    pub sand_to_mm: f64,
    /// Top of the silt: what has settled after 2 hours.
    pub silt_to_mm: f64,
    /// Top of the clay: what has settled after 24 hours.
    pub clay_to_mm: f64,
    /// Organic matter, % by weight, where known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub organic_pct: Option<f64>,
}

/// Least height that a jar can be read by, mm.
const LEAST_SETTLED_MM: f64 = 10.0;

impl Jar {
    pub(super) fn validate(&self) -> Result<(), Invalid> {
        for (field, height) in [
            ("sand_to_mm", self.sand_to_mm),
            ("silt_to_mm", self.silt_to_mm),
            ("clay_to_mm", self.clay_to_mm),
        ] {
            Invalid::unless_within(field, ranges::JAR_LAYER, height)?;
        }
        if let Some(organic) = self.organic_pct {
            Invalid::unless_within("organic_pct", ranges::ORGANIC, organic)?;
        }
        if self.silt_to_mm < self.sand_to_mm {
            return Err(Invalid::new(
                "silt_to_mm",
                "what has settled only grows: this is below the sand's top",
            ));
        }
        if self.clay_to_mm < self.silt_to_mm {
            return Err(Invalid::new(
                "clay_to_mm",
                "what has settled only grows: this is below the silt's top",
            ));
        }
        if self.clay_to_mm < LEAST_SETTLED_MM {
            return Err(Invalid::new(
                "clay_to_mm",
                "too little soil to read: a third of a jar tells more",
            ));
        }
        Ok(())
    }

    pub(super) fn told(&self) -> TextureTold {
        let pct = |from: f64, to: f64| 100.0 * (to - from) / self.clay_to_mm;
        let shares = SoilShares {
            sand_pct: pct(0.0, self.sand_to_mm),
            clay_pct: pct(self.silt_to_mm, self.clay_to_mm),
            organic_pct: self.organic_pct,
        };
        of_shares(shares, BY_JAR_OFF, 1)
    }
}

/// Shares by a laboratory, %; they add to 100, give or take 2 for its rounding.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Lab {
    /// Sand, %.
    pub sand_pct: f64,
    /// Silt, %.
    pub silt_pct: f64,
    /// Clay, %.
    pub clay_pct: f64,
    /// Organic matter, % by weight.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub organic_pct: Option<f64>,
}

impl Lab {
    fn sum(&self) -> f64 {
        self.sand_pct + self.silt_pct + self.clay_pct
    }

    pub(super) fn validate(&self) -> Result<(), Invalid> {
        Invalid::unless_within("sand_pct", ranges::SAND, self.sand_pct)?;
        Invalid::unless_within("silt_pct", ranges::SILT, self.silt_pct)?;
        Invalid::unless_within("clay_pct", ranges::CLAY, self.clay_pct)?;
        if let Some(organic) = self.organic_pct {
            Invalid::unless_within("organic_pct", ranges::ORGANIC, organic)?;
        }
        let sum = self.sum();
        if (sum - 100.0).abs() > MAY_MISS_PCT + 1e-9 {
            return Err(Invalid::new(
                "clay_pct",
                format!(
                    "sand, silt and clay add to {sum:.1} %, not to 100 % (give or take {MAY_MISS_PCT})"
                ),
            ));
        }
        Ok(())
    }

    pub(super) fn told(&self) -> TextureTold {
        let shares = SoilShares {
            sand_pct: 100.0 * self.sand_pct / self.sum(),
            clay_pct: 100.0 * self.clay_pct / self.sum(),
            organic_pct: self.organic_pct,
        };
        of_shares(shares, BY_LAB_OFF, 2)
    }
}

/// What a squeeze tells.
pub(super) const fn of_squeeze(ball: Ball, feel: Feel) -> TextureTold {
    TextureTold {
        texture: squeeze::texture(ball, feel),
        shares: None,
        storage_off: BY_HAND_OFF,
        rank: 0,
    }
}

fn of_shares(shares: SoilShares, storage_off: f64, rank: u8) -> TextureTold {
    // Quotients of heights may miss the triangle by a hair.
    let clay_pct = shares.clay_pct.min(100.0 - shares.sand_pct).max(0.0);
    let shares = SoilShares { clay_pct, ..shares };
    TextureTold {
        texture: texture(shares.sand_pct, shares.clay_pct).unwrap_or(shares.texture()),
        shares: Some(shares),
        storage_off,
        rank,
    }
}
