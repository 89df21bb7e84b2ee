//! Tests of what the sprinklers really put down.

use jiff::civil::Date;
use lawn::measure::result::{TestResult, Tested};
use lawn::measure::sprinkler::{HeadFault, Outdated, SprinklerTest, outdated};
use lawn::measure::unevenness::WeekNeed;
use lawn::record::programme::Programme;
use lawn::site::counting::Standing;
use serde::Serialize;
use utoipa::ToSchema;

use crate::clock;
use crate::db::ZoneId;
use crate::db::sites::SiteRow;
use crate::db::sprinkler_tests::{Counting, TestRow};
use crate::db::zones::ZoneRow;

mod add;
mod cans;
mod export;
mod lay_out;
mod list;
mod reckon;
mod standing;

pub(super) use add::*;
pub(super) use cans::*;
pub(super) use export::*;
pub(super) use lay_out::*;
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
    test: SprinklerTest,
    result: TestResult,
    pinned: bool,
    voided: bool,
    /// Whether plans use its rate.
    counts: bool,
    /// Whether plans use its evenness.
    counts_for_evenness: bool,
    /// Why it may no longer hold.
    outdated: Option<Outdated>,
}

impl TestView {
    fn of(row: TestRow, counting: &[Counting], today: Date, faults: &[HeadFault]) -> Self {
        let of_zone = counting.iter().find(|c| c.zone == row.zone);
        Self {
            counts: of_zone.is_some_and(|c| c.rate.id == row.id),
            counts_for_evenness: of_zone
                .is_some_and(|c| c.evenness.is_some_and(|t| t.id == row.id)),
            outdated: outdated(row.date, today, faults),
            id: row.id,
            zone: row.zone,
            date: row.date,
            who: row.who,
            test: row.test,
            result: row.result,
            pinned: row.standing == Standing::Pinned,
            voided: row.standing == Standing::Void,
        }
    }
}

/// What a test of a zone is made on today; what its turf uses in the week is as the newest plan expects, from today on.
fn tested(site: &SiteRow, zone: &ZoneRow, programme: &Programme) -> Tested {
    let date = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let kind = zone.zone.sprinkler;
    let uses = programme.uses_from(&zone.id.0.to_string(), date);
    let week = uses.map(|uses| WeekNeed {
        need_mm: uses.mm(),
        area_m2: zone.zone.area_m2.m2(),
        spray_loss: zone
            .zone
            .spray_loss
            .as_ref()
            .map_or(kind.defaults().spray_loss[1], |loss| loss.value),
        price_per_m3: site.site.price_per_m3,
    });
    Tested { kind, date, week }
}
