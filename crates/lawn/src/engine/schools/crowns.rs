//! Turf that was let go through a drought is not watered by its school: its crowns alone are kept alive.

use jiff::ToSpan;
use jiff::civil::Date;

use super::School;
use crate::engine::lately::CROWN_WATERING_MM;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::site::{CrownWatering, Zone};
use science::turf::Grass;

/// Net depth of a light crown watering, mm (common practice, no source).
const LIGHT_MM: f64 = 6.0;
/// Days from one wetting to the next.
const DAYS: u8 = 14;
/// The same of grasses that hold out longer.
const HARDY_DAYS: u8 = 21;

/// How the crowns of a zone are kept alive.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Crowns {
    /// Net depth of a watering.
    pub depth: Depth,
    /// Days from one wetting to the next.
    pub every_days: u8,
}

impl Crowns {
    /// Of a zone, whether it is let go or not.
    #[must_use]
    pub fn of(zone: &Zone) -> Self {
        let often = matches!(
            zone.grass,
            Grass::TallFescue
                | Grass::FineFescue
                | Grass::PerennialRyegrass
                | Grass::CreepingBentgrass
        );
        let (mm, every_days) = match zone.crown_watering {
            CrownWatering::Light => (LIGHT_MM, DAYS),
            CrownWatering::Seldom if often => (CROWN_WATERING_MM, DAYS),
            CrownWatering::Seldom => (CROWN_WATERING_MM, HARDY_DAYS),
        };
        Self {
            depth: Depth::from_mm(mm),
            every_days,
        }
    }

    /// The day on which they are due again, by the day on which they were last wetted; `None`: nothing is known of that: now.
    #[must_use]
    pub fn due(&self, wetted: Option<Date>) -> Option<Date> {
        Some(wetted?.saturating_add(i64::from(self.every_days).days()))
    }
}

/// How a zone is watered.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Keeping {
    /// By its school.
    School(School),
    /// For its crowns alone: it is let go.
    Crowns(Crowns),
    /// By its surface: it is new grass.
    NewGrass,
}

impl Keeping {
    /// Of a zone with its figures.
    #[must_use]
    pub fn of(zone: &Zone, model: &ZoneModel) -> Self {
        if zone.regime.is_new_grass() {
            Self::NewGrass
        } else if model.is_asleep() {
            Self::Crowns(Crowns::of(zone))
        } else {
            Self::School(zone.school)
        }
    }

    /// Whether it goes by the balance of the root zone.
    #[must_use]
    pub const fn is_water_balance(&self) -> bool {
        matches!(self, Self::School(School::WaterBalance))
    }

    /// Whether a school says how it is watered.
    #[must_use]
    pub const fn is_by_school(&self) -> bool {
        matches!(self, Self::School(_))
    }

    /// Whether crowns alone are watered.
    #[must_use]
    pub const fn is_crowns(&self) -> bool {
        matches!(self, Self::Crowns(_))
    }
}
