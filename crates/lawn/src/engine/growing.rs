//! What grows in a zone, as its balance uses it: roots, crop coefficients, and the share of the water that may be used.

use science::trees;
use science::turf::{Season, crop_coefficient};

use crate::site::{DepletionRule, Plants, Zone};

/// First figures of what grows, where nothing was measured.
pub(crate) struct Growing {
    /// What the handbook calls it.
    pub name: &'static str,
    /// Its season.
    pub season: Season,
    /// Root depth low, middle, high, mm.
    pub roots_mm: [f64; 3],
    /// Crop coefficient by month, with how green it is kept, before site factor and growth state.
    pub kc: [f64; 12],
    /// Share of the available water that may be used, before the day's demand.
    pub allowable: f64,
}

impl Growing {
    /// Of a zone at a latitude, in degrees.
    pub fn of(zone: &Zone, latitude: f64) -> Self {
        match zone.plants {
            Plants::Turf => Self::turf(zone, latitude),
            Plants::Trees => Self::trees(zone),
        }
    }

    /// Cold as for grass of a cool season: bare trees hardly drink.
    fn trees(zone: &Zone) -> Self {
        Self {
            name: "trees",
            season: Season::Cool,
            roots_mm: trees::ROOTS_MM,
            kc: [trees::CROP_COEFFICIENT * how_green(zone); 12],
            allowable: trees::ALLOWABLE_DEPLETION,
        }
    }

    fn turf(zone: &Zone, latitude: f64) -> Self {
        let grass = zone.grass.profile();
        let mut kc = [0.0; 12];
        for (month, kc) in (1..=12).zip(&mut kc) {
            *kc = crop_coefficient(zone.crop_coefficients, grass.season, month, latitude)
                * how_green(zone);
        }
        Self {
            name: grass.name,
            season: grass.season,
            roots_mm: grass.root_depth_mm,
            kc,
            allowable: starting_fraction(zone, grass.season),
        }
    }
}

/// The factor on the crop coefficient for how green a zone is kept; of trees 1.
pub(crate) fn how_green(zone: &Zone) -> f64 {
    match zone.plants {
        Plants::Turf => zone.how_green.factor(),
        Plants::Trees => 1.0,
    }
}

fn starting_fraction(zone: &Zone, season: Season) -> f64 {
    match (zone.depletion_rule, season) {
        (DepletionRule::Half, _) => 0.50,
        // FAO-56 table 22, turf grass, from memory.
        (DepletionRule::ByGrass, Season::Cool) => 0.40,
        (DepletionRule::ByGrass, Season::Warm) => 0.50,
        (DepletionRule::BySoil, _) => zone.soil.allowable_depletion(),
    }
}
