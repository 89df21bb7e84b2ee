//! What a plan changes against an earlier one, day by day: nothing changes behind a person's back.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::reason::Reason;
use crate::week_plan::{WeekPlan, ZonePlan};

/// A change of one zone's watering. Why is in the newer plan's reasons of the day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "change", rename_all = "snake_case")]
pub enum Change {
    /// It waters on a day on which it would not have.
    Added {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long.
        run_s: i64,
    },
    /// It no longer waters on a day.
    Dropped {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long it would have.
        run_s: i64,
    },
    /// Its one watering moved to another day.
    Moved {
        /// The zone's identifier.
        zone: String,
        /// The day before.
        from: Date,
        /// The day now.
        to: Date,
        /// How long now.
        run_s: i64,
    },
    /// It waters longer or shorter, or in more or fewer passes.
    Minutes {
        /// The zone's identifier.
        zone: String,
        /// The day.
        date: Date,
        /// How long before.
        from_s: i64,
        /// How long now.
        to_s: i64,
        /// In how many passes before; `None` in changes written before passes were kept.
        #[serde(default)]
        from_passes: Option<u32>,
        /// In how many passes now.
        #[serde(default)]
        to_passes: Option<u32>,
    },
}

/// Changes on the days that both plans cover and that are not over: by zone in the newer plan's order, then by day.
#[must_use]
pub fn changes(before: &WeekPlan, after: &WeekPlan) -> Vec<Change> {
    let last = before.days.last().map_or(after.today, |d| d.date);
    after
        .zones
        .iter()
        .filter_map(|zone| {
            let earlier = before.zones.iter().find(|z| z.zone == zone.zone)?;
            Some(of_zone(earlier, zone, after.today, last))
        })
        .flatten()
        .collect()
}

fn of_zone(before: &ZonePlan, after: &ZonePlan, today: Date, last: Date) -> Vec<Change> {
    let runs = |zone: &ZonePlan, date: Date| {
        zone.cells
            .iter()
            .find(|c| c.date == date)
            .and_then(|c| c.run.as_ref())
            .map(|r| (r.run_s, r.passes))
    };
    let (mut found, mut added, mut dropped) = (Vec::new(), Vec::new(), Vec::new());
    for cell in &after.cells {
        // What ran in the meantime is no change of the plan.
        let ran = cell.reasons.iter().any(|r| matches!(r, Reason::Ran { .. }));
        if cell.date < today || cell.date > last || ran {
            continue;
        }
        let (zone, date) = (after.zone.clone(), cell.date);
        match (runs(before, date), runs(after, date)) {
            (None, Some((run_s, _))) => added.push(Change::Added { zone, date, run_s }),
            (Some((run_s, _)), None) => dropped.push(Change::Dropped { zone, date, run_s }),
            (Some(from), Some(to)) if from != to => found.push(Change::Minutes {
                zone,
                date,
                from_s: from.0,
                to_s: to.0,
                from_passes: Some(from.1),
                to_passes: Some(to.1),
            }),
            _ => {}
        }
    }
    if let (
        [
            Change::Added {
                date: to, run_s, ..
            },
        ],
        [Change::Dropped { date: from, .. }],
    ) = (added.as_slice(), dropped.as_slice())
    {
        found.push(Change::Moved {
            zone: after.zone.clone(),
            from: *from,
            to: *to,
            run_s: *run_s,
        });
    } else {
        found.extend(added);
        found.extend(dropped);
    }
    found.sort_by_key(Change::date);
    found
}

impl Change {
    /// The day it is about; where it moved, the day now.
    #[must_use]
    pub const fn date(&self) -> Date {
        match self {
            Self::Added { date, .. } | Self::Dropped { date, .. } | Self::Minutes { date, .. } => {
                *date
            }
            Self::Moved { to, .. } => *to,
        }
    }
}
