use actix_web::get;
use actix_web::web::{Data, Json};

use lawn::measure::sprinkler::HeadFault;

use super::{TestRow, TestView, tested};
use crate::api::access::{Access, Read};
use crate::api::changed::newest_programme;
use crate::db::{Db, head_faults, sites, sprinkler_tests, zones};
use crate::http::error::{ApiError, Problem};
use crate::{clock, water_book};

/// Tests of all zones, newest first, and which of them count.
#[utoipa::path(tag = "sprinklers", operation_id = "list_sprinkler_tests", params(("site" = i64, Path)), responses(
    (status = 200, description = "The tests", body = Vec<TestView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/sprinkler-tests")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<TestView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let tests = sprinkler_tests::of_site(db.pool(), access.site).await?;
    let faults = head_faults::of_site(db.pool(), access.site, None).await?;
    let counting = sprinkler_tests::counting(&tests);
    // What unevenness costs is told of the same week for all: this one.
    let mut db_now = db.pool().acquire().await?;
    let site = water_book::with_next_price(&mut db_now, site).await?;
    let programme = newest_programme(&mut db_now, access.site).await?;
    let zones = zones::of_site(&mut *db_now, access.site).await?;
    let view = |row: &TestRow| {
        let of_zone: Vec<_> = faults
            .iter()
            .filter(|f| f.zone == row.zone)
            .map(HeadFault::from)
            .collect();
        let mut row = row.clone();
        if let Some(zone) = zones.iter().find(|z| z.id == row.zone) {
            row.result.week_cost = tested(&site, zone, &programme).week_cost(&row.result);
        }
        TestView::of(row, &counting, today, &of_zone)
    };
    Ok(Json(tests.iter().map(view).collect()))
}
