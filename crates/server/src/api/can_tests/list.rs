use actix_web::get;
use actix_web::web::{Data, Json};
use sqlx::PgPool;

use super::TestView;
use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::db::can_tests;

/// Tests of all zones, newest first, and which of them count.
#[utoipa::path(tag = "sprinklers", operation_id = "list_can_tests", params(("site" = i64, Path)), responses(
    (status = 200, description = "The tests", body = Vec<TestView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/can-tests")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    pool: Data<PgPool>,
) -> Result<Json<Vec<TestView>>, ApiError> {
    let tests = can_tests::of_site(pool.as_ref(), access.site).await?;
    let counting: Vec<i64> = can_tests::counting(&tests).iter().map(|t| t.id).collect();
    Ok(Json(
        tests
            .into_iter()
            .map(|row| {
                let counts = counting.contains(&row.id);
                TestView::of(row, counts)
            })
            .collect(),
    ))
}
