//! What ran: assumed from the plan in force, until a person says ran, did not run, or other minutes; and runs by hand and hose.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::record::runs_file::Filed;
use lawn::record::said::Said;
use lawn::record::watered::{Passes, Watered};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::runs::RunRow;

mod add;
mod answer;
mod confirm;
mod export;
mod import;
mod list;
mod take_back;

pub(super) use add::*;
pub(super) use answer::*;
pub(super) use confirm::*;
pub(super) use export::*;
pub(super) use import::*;
pub(super) use list::*;
pub(super) use take_back::*;

/// A run in the record.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct RunView {
    id: i64,
    zone: ZoneId,
    zone_name: String,
    date: Date,
    started_at: Timestamp,
    passes: i32,
    /// Time that water ran, s.
    seconds: i64,
    /// Time that the plan asked for, s; `None` for runs that none did.
    planned_s: Option<i32>,
    /// What it watered, and by what.
    watered: Watered,
    /// Whose word it is.
    source: Said,
    /// Who said so.
    who: Option<String>,
}

impl From<RunRow> for RunView {
    fn from(row: RunRow) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            zone_name: row.zone_name,
            date: row.date,
            started_at: row.started_at,
            passes: row.passes,
            seconds: i64::from(row.run_s),
            planned_s: row.planned.map(|p| p.run_s),
            watered: row.watered,
            source: row.source,
            who: row.who,
        }
    }
}

/// A run as files have it.
fn filed(row: &RunRow) -> Filed {
    let passes = |p: i32| u32::try_from(p).unwrap_or(0);
    Filed {
        date: row.date,
        started_at: Some(row.started_at),
        zone: row.zone.0.to_string(),
        name: row.zone_name.clone(),
        passes: passes(row.passes),
        run_s: i64::from(row.run_s),
        watered: row.watered,
        said: row.source,
        who: row.who.clone(),
        planned: row.planned.map(|planned| Passes {
            passes: passes(planned.passes),
            run_s: i64::from(planned.run_s),
        }),
    }
}
