//! What people, or the care of a zone, ask of its watering for some hours: keep it dry, or water something in.

use std::ops::Range;

use jiff::Timestamp;
use jiff::civil::DateTime;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::morning::WaterIn;
use crate::engine::slot::{HORIZON, Opening};
use crate::engine::zone_model::ZoneModel;
use crate::invalid::Invalid;
use crate::quantity::Depth;
use crate::ranges;
use crate::record::known::Run;
use crate::site::Zone;

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

/// Water that is asked in, as a plan finds it.
#[derive(Debug, Clone, PartialEq)]
pub struct Asked {
    /// By when, on the site's clock.
    pub by: DateTime,
    /// What is still to be given.
    pub net: Depth,
    /// The openings within its hours.
    pub openings: Vec<usize>,
}

impl From<&Asked> for WaterIn {
    fn from(asked: &Asked) -> Self {
        Self {
            openings: asked.openings.clone(),
            net: asked.net,
        }
    }
}

/// What of a zone's entries is to be watered in still: runs of the record that began within their hours count.
#[must_use]
pub fn asked<'a>(
    constraints: impl Iterator<Item = &'a Constraint>,
    zone: &Zone,
    model: &ZoneModel,
    runs: &[Run],
    time_zone: &TimeZone,
    openings: &[Opening],
) -> Vec<Asked> {
    let of_entry = |entry: &'a Constraint| {
        let Asks::WaterIn { net_mm } = entry.asks else {
            return None;
        };
        let hours = entry.local(time_zone);
        let given: Depth = runs
            .iter()
            .filter(|run| run.zone == zone.id && hours.contains(&run.began()))
            // What a hose gave without measuring is taken to have done it.
            .map(|run| run.irrigation(zone, model, net_mm).net)
            .sum();
        Some(Asked {
            by: hours.end,
            net: (net_mm - given).max(Depth::ZERO),
            openings: entry.openings(openings),
        })
    };
    constraints.filter_map(of_entry).collect()
}
