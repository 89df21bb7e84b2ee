//! What ran: assumed from the plan in force, until a person says ran, did not run, or other minutes; and runs by hand and hose.

use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::runs::RunRow;

mod add;
mod answer;
mod export;
mod list;

pub(super) use add::*;
pub(super) use answer::*;
pub(super) use export::*;
pub(super) use list::*;

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
    /// `assumed`, `confirmed`, `changed`, `denied`, `hand`, `hose`.
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
            seconds: i64::from(row.passes) * i64::from(row.pass_s),
            source: row.source,
            who: row.who,
        }
    }
}
