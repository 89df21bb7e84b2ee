//! A published week beside the newest plan: what each comes to, and what has become harmful of what was published.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::morning::{self, Ahead, Facts, ZoneState};
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::Opening;
use crate::quantity::{Depth, Volume};
use crate::record::edit::{Edit, standings};
use crate::site::calendar::CalendarDay;
use crate::view::edited::fixed_drains;
use crate::view::planned::Planned;

/// What a week comes to from today up to the last day that is published, all zones together, if no rain comes.
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

/// The published week as it looks today, beside the newest plan.
#[derive(Debug, Clone, PartialEq)]
pub struct AsPublished {
    /// What it comes to.
    pub published: WeekSums,
    /// What the newest plan comes to.
    pub newest: WeekSums,
    /// What of it would drain.
    pub drains: Vec<PublishedDrains>,
}

/// The zones of a plan and their days.
#[derive(Clone, Copy)]
pub(super) struct Zones<'a> {
    pub(super) planned: &'a [Planned<'a>],
    pub(super) calendar: &'a [CalendarDay],
    pub(super) openings: &'a [Opening],
}

impl Zones<'_> {
    /// What a week comes to up to a day.
    fn sums(&self, week: &SiteWeek, last: Date) -> WeekSums {
        let mut sums = WeekSums::default();
        for (of, zone_week) in self.planned.iter().zip(&week.zones) {
            let counts = |day: usize| {
                let date = self.calendar[day].date;
                date <= last && of.zone.is_active(date)
            };
            let doses = zone_week.proposals.iter().filter(|p| counts(p.slot.day));
            for dose in doses.filter_map(|p| p.dose()) {
                sums.run_s += dose.run_s() * i64::from(of.model.settings);
                sums.volume_l = sums.volume_l + dose.irrigation.gross * of.zone.area_m2;
            }
            let dry = zone_week.balances.iter().enumerate();
            let dry = dry.filter(|(day, b)| counts(*day) && b.end - b.raw > WORTH_COUNTING);
            sums.days_too_dry += u32::try_from(dry.count()).unwrap_or(u32::MAX);
        }
        sums
    }

    /// What of fixed waterings would drain.
    fn drains(&self, week: &SiteWeek) -> Vec<PublishedDrains> {
        let zones = self.planned.iter().zip(&week.zones);
        let drains = zones.flat_map(|(of, zone_week)| {
            zone_week.proposals.iter().filter_map(|proposal| {
                Some(PublishedDrains {
                    zone: of.zone.id.clone(),
                    date: self.calendar[proposal.slot.day].date,
                    drains_mm: fixed_drains(proposal)?,
                })
            })
        });
        drains.collect()
    }
}

/// Less beyond what may be used is not counted.
const WORTH_COUNTING: Depth = Depth::from_mm(0.05);

/// The week with a published one's waterings as they are, decided by the same planner, beside the newest: `edits` are what still runs of it, up to `last`.
pub(super) fn as_published<C: Fn(usize, i64) -> Depth + Copy>(
    edits: &[Edit],
    last: Date,
    newest: &SiteWeek,
    facts: &Facts<C>,
    state: &[ZoneState],
    weather: &Ahead,
    zones: Zones,
) -> AsPublished {
    let mut facts = facts.clone();
    // New grass goes by its top, whatever was published.
    let rooted = facts.zones.iter_mut().zip(zones.planned);
    for (of, z) in rooted.filter(|(_, z)| z.bed.is_none()) {
        let own = edits.iter().filter(|e| e.zone == z.zone.id);
        of.fixed = standings(
            own,
            z.model,
            of.by_hand,
            zones.calendar,
            zones.openings,
            &of.barred,
        );
    }
    // All days that count are fixed: no rain has to be weighed.
    let dry = Ahead {
        outlook: None,
        ..*weather
    };
    let mut week = morning::decide(&facts, state, &dry);
    // What is not published is the same in both.
    let beds = zones.planned.iter().enumerate();
    for (at, _) in beds.filter(|(_, z)| z.bed.is_some()) {
        week.zones[at] = newest.zones[at].clone();
    }
    AsPublished {
        published: zones.sums(&week, last),
        newest: zones.sums(newest, last),
        drains: zones.drains(&week),
    }
}
