//! Catch-can tests: what the sprinklers really put down.

use jiff::civil::Date;
use lawn::can_test::{CanTest, TestResult};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::can_tests::TestRow;

mod add;
mod list;
mod reckon;
mod standing;

pub(super) use add::*;
pub(super) use list::*;
pub(super) use reckon::*;
pub(super) use standing::*;

/// A test with what it says.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct TestView {
    id: i64,
    zone: ZoneId,
    date: Date,
    who: Option<String>,
    test: CanTest,
    result: TestResult,
    pinned: bool,
    voided: bool,
    /// Whether plans use it.
    counts: bool,
}

impl TestView {
    fn of(row: TestRow, counts: bool) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            date: row.date,
            who: row.who,
            test: row.test,
            result: row.result,
            pinned: row.pinned,
            voided: row.voided,
            counts,
        }
    }
}
