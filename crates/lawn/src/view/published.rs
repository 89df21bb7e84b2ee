//! A published week beside the newest plan: what changed since, what each comes to, and what has become harmful of what was published.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::morning::{self, Ahead, Facts, ZoneState};
use crate::quantity::{Depth, Volume};
use crate::record::edit::{Edit, standings};
use crate::record::known::Known;
use crate::view::changes::ZoneChanges;
use crate::view::consequence::consequence;
use crate::view::planned::Planned;
use crate::view::site_view::SiteView;
use crate::view::verdict::Warning;
use crate::view::week_plan::ZonePlan;

/// What a week comes to from today on, all zones together, if no rain comes.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct WeekSums {
    /// Time that water runs, s.
    pub run_s: i64,
    /// Litres out of the sprinklers.
    pub volume_l: Volume,
    /// Zones' days that end beyond what may be used.
    pub days_too_dry: u32,
}

/// A watering of the published week that would drain below the roots by now.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PublishedDrains {
    /// The zone's identifier.
    pub zone: String,
    /// The day.
    pub date: Date,
    /// How much.
    pub drains_mm: Depth,
}

/// The published week as it looks today.
#[derive(Debug, Clone, PartialEq)]
pub struct AsPublished {
    /// What it comes to; on days after its last one the plan goes on from it.
    pub sums: WeekSums,
    /// What of it would drain.
    pub drains: Vec<PublishedDrains>,
}

/// What became of a published week since.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SincePublished {
    /// What the newest plan changes of it, by zone, with what may have brought it about.
    pub changes: Vec<ZoneChanges>,
    /// What comes of it if it stays in force.
    pub published: WeekSums,
    /// What the newest plan comes to.
    pub newest: WeekSums,
    /// What of it would drain.
    pub drains: Vec<PublishedDrains>,
}

/// What zones' weeks come to.
#[must_use]
pub fn sums(zones: &[ZonePlan]) -> WeekSums {
    let mut sums = WeekSums::default();
    for of_zone in zones.iter().map(consequence) {
        sums.run_s += of_zone.run_s;
        sums.volume_l = sums.volume_l + of_zone.volume_l;
        sums.days_too_dry += of_zone.days_too_dry;
    }
    sums
}

/// The week with a published one's waterings as they are, decided by the same planner: `edits` are what still runs of it.
pub(super) fn as_published<C: Fn(usize, i64) -> Depth + Copy>(
    known: &Known,
    edits: &[Edit],
    facts: &Facts<C>,
    state: &[ZoneState],
    weather: &Ahead,
    zones: &[Planned],
    site: &SiteView,
) -> AsPublished {
    let mut facts = facts.clone();
    for (of, z) in facts.zones.iter_mut().zip(zones) {
        let own = edits.iter().filter(|e| e.zone == z.zone.id);
        of.fixed = standings(
            own,
            z.model,
            of.by_hand,
            site.calendar,
            site.openings,
            &of.barred,
        );
    }
    let week = morning::decide(&facts, state, weather);
    let known = Known { edits, ..*known };
    let site = SiteView {
        known: &known,
        week: &week,
        by_balance: None,
        ..site.clone()
    };
    let zones: Vec<ZonePlan> = zones
        .iter()
        .enumerate()
        .map(|(index, zone)| site.zone_plan(index, zone))
        .collect();
    AsPublished {
        sums: sums(&zones),
        drains: zones.iter().flat_map(drains).collect(),
    }
}

fn drains(zone: &ZonePlan) -> Vec<PublishedDrains> {
    let days = zone.cells.iter().flat_map(|cell| {
        let warnings = cell.warnings.iter();
        warnings.filter_map(|warning| match warning {
            Warning::EditDrains { drains_mm } => Some((cell.date, *drains_mm)),
            _ => None,
        })
    });
    days.map(|(date, drains_mm)| PublishedDrains {
        zone: zone.zone.clone(),
        date,
        drains_mm,
    })
    .collect()
}
