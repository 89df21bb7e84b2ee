//! What became of a published week since: what the newest plan changes of it and why, what each comes to, what has become harmful.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::record::published::Published;
use crate::view::changes::{Cause, Change, Deed, ZoneChanges, changes_with_causes};
use crate::view::plan::Plan;
use crate::view::published::{PublishedDrains, WeekSums};

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

/// The waterings of zones that there were not yet when the week was published: nothing of them is in force.
fn of_new_zones(week: &Published, plan: &Plan) -> impl Iterator<Item = ZoneChanges> {
    let zones = plan.week.zones.iter().map(|z| &z.zone);
    let new = zones.filter(|zone| !week.programme.knows(zone));
    new.filter_map(|zone| {
        let days = plan.programme.days.iter().map(|d| d.date);
        let days = days.filter(|date| *date <= week.last);
        let added = days.filter_map(|date| {
            let (run_s, _) = plan.programme.runs_on(zone, date)?;
            let zone = zone.clone();
            Some(Change::Added { zone, date, run_s })
        });
        let changes: Vec<Change> = added.collect();
        (!changes.is_empty()).then(|| ZoneChanges {
            zone: zone.clone(),
            changes,
            causes: vec![Cause::ZoneChanged],
        })
    })
}

/// What a plan that knows of a published week changes of it, on days up to its last; `deeds`: what people did since. `None`: the plan knows of none.
#[must_use]
pub fn since_published(week: &Published, plan: &Plan, deeds: &[Deed]) -> Option<SincePublished> {
    let as_published = plan.as_published.clone()?;
    let mut changes = changes_with_causes(&week.in_force(), plan, deeds);
    for of_zone in &mut changes {
        of_zone.changes.retain(|c| c.date() <= week.last);
    }
    changes.retain(|of_zone| !of_zone.changes.is_empty());
    changes.extend(of_new_zones(week, plan));
    Some(SincePublished {
        changes,
        published: as_published.published,
        newest: as_published.newest,
        drains: as_published.drains,
    })
}
