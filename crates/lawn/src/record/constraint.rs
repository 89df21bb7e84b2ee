//! What people, or the care of a zone, ask of its watering for some hours: keep it dry, or water something in.

use std::ops::Range;

use jiff::Timestamp;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::slot::{HORIZON, Opening};
use crate::invalid::Invalid;
use crate::quantity::Depth;
use crate::ranges;

/// What is asked of a zone for some hours.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Constraint {
    /// The zone's identifier.
    pub zone: String,
    /// From when on.
    pub from: Timestamp,
    /// Until when.
    pub until: Timestamp,
    /// What.
    pub asks: Asks,
}

/// What is asked.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[schema(as = ConstraintAsks)]
pub enum Asks {
    /// No water: leaves must stay dry, or the ground firm.
    KeepDry,
    /// So much water by then: what was put down must be washed in.
    WaterIn {
        /// Net depth.
        net_mm: Depth,
    },
}

/// Most entries of a zone that are not over.
pub const MOST_OF_A_ZONE: i64 = 50;

/// Checks what is to be asked for some hours.
///
/// # Errors
/// The field that does not hold.
pub fn check(asks: Asks, hours: f64) -> Result<(), Invalid> {
    match asks {
        Asks::WaterIn { net_mm } => {
            Invalid::unless_within("hours", ranges::WATER_IN_HOURS, hours)?;
            Invalid::unless_within("asks.net_mm", ranges::WATER_IN, net_mm.mm())
        }
        Asks::KeepDry => Invalid::unless_within("hours", ranges::KEEP_DRY_HOURS, hours),
    }
}

impl Constraint {
    /// Its hours on the site's clock.
    #[must_use]
    pub fn local(&self, time_zone: &TimeZone) -> Range<DateTime> {
        let local = |at: Timestamp| at.to_zoned(time_zone.clone()).datetime();
        local(self.from)..local(self.until)
    }

    /// Whether an opening lies within its hours, in part or all; windows are cut at their ends.
    fn holds(&self, opening: &Opening) -> bool {
        let window = opening.window;
        self.from.as_second() < window.end_s && window.start_s < self.until.as_second()
    }

    /// The openings of the plan that lie within its hours, by their place.
    #[must_use]
    pub fn openings(&self, openings: &[Opening]) -> Vec<usize> {
        let all = openings.iter().enumerate();
        let within = all.filter(|(_, o)| o.day < HORIZON && self.holds(o));
        within.map(|(place, _)| place).collect()
    }
}

/// The instants at which windows are cut, so that each lies within the hours of an entry or outside: in time order.
#[must_use]
pub fn cuts(constraints: &[Constraint]) -> Vec<i64> {
    let ends = constraints.iter().flat_map(|c| [c.from, c.until]);
    let mut cuts: Vec<i64> = ends.map(Timestamp::as_second).collect();
    cuts.sort_unstable();
    cuts.dedup();
    cuts
}
