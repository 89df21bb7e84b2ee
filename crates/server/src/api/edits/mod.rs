//! What people change of the plan: a day of a zone skipped, kept as it is, moved, given other minutes, or left to the plan again. What follows is shown before
//! it is kept.

use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::edits::{DayBecomes, EditRow};

mod act;
mod change;
mod list;
mod undo;

pub(super) use change::*;
pub(super) use list::*;
pub(super) use undo::*;

/// An edit that holds.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct EditView {
    id: i64,
    zone: ZoneId,
    zone_name: String,
    date: Date,
    becomes: DayBecomes,
    /// What the person did: `skip`, `lock`, `minutes`, `move`, `release`.
    act: String,
    /// Why, in the person's words.
    reason: Option<String>,
    /// Who.
    who: Option<String>,
    made_at: Timestamp,
}

impl From<EditRow> for EditView {
    fn from(row: EditRow) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            zone_name: row.zone_name,
            date: row.date,
            becomes: row.becomes,
            act: row.act,
            reason: row.reason,
            who: row.who,
            made_at: row.made_at,
        }
    }
}
