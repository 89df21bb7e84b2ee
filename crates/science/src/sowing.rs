//! Turf from seed: how much of it, how warm it must be until it stands, and which grasses close a gap by themselves.
//!
//! Warmth is thermal time, Σ max(0, (Tmax + Tmin)/2 − base): the middle of the trade's ranges of days at a mean of 15 °C for cool-season grasses and of 25 °C for
//! warm-season ones (common practice, no source). Amounts of seed are the middle of what extension services print for new lawns, from memory of them.

use crate::turf::{Grass, Season};

/// Seed of a grass.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Seed {
    /// For bare ground, g/m².
    pub rate_g_m2: f64,
    /// Air temperature that counts nothing, °C.
    pub base_c: f64,
    /// Thermal time from sowing until it is up, °C·d.
    pub up_c_d: f64,
    /// Thermal time from sowing until it fills in: half of the ground is covered, °C·d.
    pub filling_c_d: f64,
    /// Thermal time from sowing to the first mowing: nine tenths of the ground are covered, °C·d.
    pub mown_c_d: f64,
}

/// Share of the ground that is covered when it fills in.
const FILLING_COVER: f64 = 0.5;
/// Share of the ground that is covered at the first mowing.
pub const MOWN_COVER: f64 = 0.9;

impl Seed {
    /// Share of the ground that seedlings cover after a thermal time, 0 to 0.9: none until they are up, then linear to a half and to nine tenths (common practice, no source).
    ///
    /// # Example
    /// ```
    /// use science::turf::Grass;
    /// let cover = |c_d| Grass::TallFescue.seed().map(|seed| seed.cover(c_d));
    /// assert_eq!([cover(105.0), cover(205.0), cover(355.0), cover(900.0)], [Some(0.0), Some(0.5), Some(0.9), Some(0.9)]);
    /// ```
    #[must_use]
    pub fn cover(&self, warmth_c_d: f64) -> f64 {
        let along = |from: f64, to: f64| ((warmth_c_d - from) / (to - from)).clamp(0.0, 1.0);
        let filling = along(self.up_c_d, self.filling_c_d);
        let mown = along(self.filling_c_d, self.mown_c_d);
        FILLING_COVER * filling + (MOWN_COVER - FILLING_COVER) * mown
    }

    /// What a day counts towards it, °C·d.
    ///
    /// # Example
    /// ```
    /// use science::turf::Grass;
    /// let warmth = |tmin_c, tmax_c| Grass::TallFescue.seed().map(|seed| seed.warmth(tmin_c, tmax_c));
    /// assert_eq!(warmth(9.0, 21.0), Some(10.0));
    /// assert_eq!(warmth(-4.0, 6.0), Some(0.0));
    /// ```
    #[must_use]
    pub fn warmth(&self, tmin_c: f64, tmax_c: f64) -> f64 {
        (f64::midpoint(tmin_c, tmax_c) - self.base_c).max(0.0)
    }
}

/// Seeds in a gram of a grass (middle of the ranges that extension services print, from memory); 0: it has no seed.
#[must_use]
pub const fn seeds_per_g(grass: Grass) -> f64 {
    match grass {
        Grass::KentuckyBluegrass => 3500.0,
        Grass::PerennialRyegrass | Grass::TallFescue => 500.0,
        Grass::FineFescue => 1100.0,
        Grass::CreepingBentgrass => 13_000.0,
        Grass::CommonBermudagrass | Grass::HybridBermudagrass => 3900.0,
        Grass::Zoysiagrass => 3000.0,
        Grass::Centipedegrass => 900.0,
        Grass::Bahiagrass => 370.0,
        Grass::Buffalograss => 110.0,
        Grass::Kikuyugrass => 400.0,
        Grass::SeashorePaspalum => 2600.0,
        Grass::StAugustinegrass => 0.0,
    }
}

impl Grass {
    /// Its seed; `None`: it is planted as plugs, sprigs or sod.
    #[must_use]
    pub fn seed(self) -> Option<Seed> {
        // Amount g/m², thermal time until it is up.
        let (rate_g_m2, up_c_d) = match self {
            Self::KentuckyBluegrass => (15.0, 220.0),
            Self::PerennialRyegrass => (35.0, 75.0),
            Self::TallFescue => (40.0, 105.0),
            Self::FineFescue => (20.0, 105.0),
            Self::CreepingBentgrass => (5.0, 105.0),
            Self::CommonBermudagrass | Self::HybridBermudagrass => (7.5, 210.0),
            Self::Zoysiagrass => (10.0, 260.0),
            Self::Centipedegrass => (2.5, 315.0),
            Self::Bahiagrass => (40.0, 315.0),
            Self::Buffalograss => (12.0, 210.0),
            Self::Kikuyugrass | Self::SeashorePaspalum => (5.0, 210.0),
            Self::StAugustinegrass => return None,
        };
        let (base_c, to_filling, to_mowing) = match self.profile().season {
            Season::Cool => (5.0, 100.0, 250.0),
            Season::Warm => (10.0, 150.0, 375.0),
        };
        Some(Seed {
            rate_g_m2,
            base_c,
            up_c_d,
            filling_c_d: up_c_d + to_filling,
            mown_c_d: up_c_d + to_mowing,
        })
    }

    /// Whether most of its kinds set no seed that comes true: only kinds that are named as seeded are sown (common practice, no source).
    #[must_use]
    pub const fn is_seldom_seeded(self) -> bool {
        matches!(self, Self::HybridBermudagrass)
    }

    /// Thermal times of new grass of any kind: of what is planted as plugs or sprigs those of bermudagrass, which roots about as fast as it comes up (common practice, no
    /// source).
    #[must_use]
    pub fn planted(self) -> Seed {
        self.seed().unwrap_or(Seed {
            rate_g_m2: 0.0,
            base_c: 10.0,
            up_c_d: 210.0,
            filling_c_d: 360.0,
            mown_c_d: 585.0,
        })
    }

    /// Whether it closes gaps by rhizomes or stolons; others grow in bunches and must be sown again.
    #[must_use]
    pub const fn spreads(self) -> bool {
        !matches!(
            self,
            Self::PerennialRyegrass | Self::TallFescue | Self::FineFescue
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The trade's days until it is up, at the season's mean temperature (common practice, no source).
    #[test]
    fn seed_is_up_within_the_days_that_practitioners_name() {
        for (grass, days) in [
            (Grass::PerennialRyegrass, 5.0..=10.0),
            (Grass::TallFescue, 7.0..=14.0),
            (Grass::FineFescue, 7.0..=14.0),
            (Grass::KentuckyBluegrass, 14.0..=30.0),
            (Grass::CommonBermudagrass, 7.0..=21.0),
            (Grass::Zoysiagrass, 14.0..=21.0),
            (Grass::Centipedegrass, 14.0..=28.0),
        ] {
            let seed = grass.seed().unwrap();
            let mean = match grass.profile().season {
                Season::Cool => 15.0,
                Season::Warm => 25.0,
            };
            let takes = seed.up_c_d / seed.warmth(mean - 6.0, mean + 6.0);
            assert!(days.contains(&takes), "{grass:?}: {takes}");
        }
    }

    #[test]
    fn bunch_grasses_have_seed_to_close_their_gaps_with() {
        for grass in Grass::ALL {
            assert!(grass.spreads() || grass.seed().is_some(), "{grass:?}");
        }
    }
}
