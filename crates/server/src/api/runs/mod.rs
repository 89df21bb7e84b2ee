//! What ran: assumed from the plan in force, until a person says ran, did not run, or other minutes; and runs by hand and hose.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::record::watered::Watered;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::runs::RunRow;

mod add;
mod answer;
mod confirm;
mod export;
mod list;
mod take_back;

pub(super) use add::*;
pub(super) use answer::*;
pub(super) use confirm::*;
pub(super) use export::*;
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
    /// `assumed`, `confirmed`, `changed`, `denied`, `hand`, `hose`, `controller`.
    source: String,
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
