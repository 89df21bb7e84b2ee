use actix_web::get;
use actix_web::web::{Data, Json};

use super::{TestRow, TestView};
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::{Db, head_faults, sites, sprinkler_tests};
use crate::http::error::{ApiError, Problem};

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
    let mended = head_faults::last_mended(db.pool(), access.site).await?;
    let counting = sprinkler_tests::counting(&tests);
    let view = |row: &TestRow| {
        let last_mended = mended.iter().find(|m| m.0 == row.zone).map(|m| m.1);
        TestView::of(row.clone(), &counting, today, last_mended)
    };
    Ok(Json(tests.iter().map(view).collect()))
}
