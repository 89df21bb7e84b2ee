use std::collections::BTreeMap;

use actix_web::get;
use actix_web::web::{Data, Json};
use lawn::site::soil_counting::{ZoneSoilTest, counting_on};

use super::SoilTestView;
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::soil_tests::{self, SoilTestRow};
use crate::db::{Db, ZoneId, sites};
use crate::http::error::{ApiError, Problem};

/// Tests of the soil of all zones, newest first, and which of them count.
#[utoipa::path(tag = "soil", operation_id = "list_soil_tests", params(("site" = i64, Path)), responses(
    (status = 200, description = "The tests", body = Vec<SoilTestView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/soil-tests")]
pub(in crate::api) async fn list_soil_tests(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<SoilTestView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let tests = soil_tests::of_site(db.pool(), access.site).await?;
    let mut by_zone: BTreeMap<ZoneId, Vec<SoilTestRow>> = BTreeMap::new();
    for test in tests {
        by_zone.entry(test.zone).or_default().push(test);
    }
    let mut views = Vec::new();
    for tests in by_zone.into_values() {
        let kept: Vec<ZoneSoilTest> = tests.iter().map(|t| t.kept.clone()).collect();
        let counting = counting_on(&kept, today);
        let of = tests.into_iter().enumerate();
        views.extend(of.map(|(i, row)| SoilTestView::of(row, counting.counts(i))));
    }
    views.sort_by_key(|view| std::cmp::Reverse((view.date, view.id)));
    Ok(Json(views))
}
