//! Tests of what the soil is, holds and drinks.

use jiff::civil::Date;
use lawn::measure::soil::{SoilResult, SoilTest};
use lawn::site::counting::Standing;
use lawn::view::advice::{self, Advice};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::soil_tests::SoilTestRow;

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
pub(super) struct SoilTestView {
    id: i64,
    zone: ZoneId,
    date: Date,
    /// The day from which it holds; `null`: it was always so, but for repellency, which holds from the test.
    holds_from: Option<Date>,
    who: Option<String>,
    test: SoilTest,
    result: SoilResult,
    /// What to do about what it says.
    advice: Vec<Advice>,
    pinned: bool,
    voided: bool,
    /// Whether plans use what it says today.
    counts: bool,
}

impl SoilTestView {
    fn of(row: SoilTestRow, counts: bool) -> Self {
        let result = SoilResult::of(&row.kept.test, row.kept.date);
        let advice = result.repellency.map(advice::about_repellency);
        Self {
            id: row.id,
            zone: row.zone,
            date: row.kept.date,
            holds_from: row.kept.holds_from,
            who: row.who,
            test: row.kept.test,
            advice: advice.unwrap_or_default(),
            result,
            pinned: row.kept.standing == Standing::Pinned,
            voided: row.kept.standing == Standing::Void,
            counts,
        }
    }
}
