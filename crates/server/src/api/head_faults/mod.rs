//! What is wrong with heads: noted while walking, repaired, remembered.

use jiff::civil::Date;
use lawn::measure::head_fault::Fault;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::head_faults::FaultRow;

mod add;
mod export;
mod list;
mod mend;

pub(super) use add::*;
pub(super) use export::*;
pub(super) use list::*;
pub(super) use mend::*;

/// A fault of a head.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct HeadFaultView {
    id: i64,
    zone: ZoneId,
    head: u16,
    fault: Fault,
    note: Option<String>,
    noted_on: Date,
    who: Option<String>,
    due_on: Option<Date>,
    mended_on: Option<Date>,
    mended_by: Option<String>,
}

impl From<FaultRow> for HeadFaultView {
    fn from(row: FaultRow) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            head: row.head,
            fault: row.fault,
            note: row.note,
            noted_on: row.noted_on,
            who: row.who,
            due_on: row.due_on,
            mended_on: row.mended_on,
            mended_by: row.mended_by,
        }
    }
}
