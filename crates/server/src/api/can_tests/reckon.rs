use actix_web::post;
use actix_web::web::{Data, Json, Path};
use lawn::can_test::{CanTest, TestResult};
use serde::Serialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::clock;
use crate::db::{ZoneId, sites, zones};

/// What a test says so far.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SoFar {
    /// `null` before any can is read.
    result: Option<TestResult>,
}

/// What a test says so far; nothing is written.
#[utoipa::path(tag = "sprinklers", operation_id = "reckon_can_test", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = CanTest, responses(
    (status = 200, description = "The result so far", body = SoFar),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/can-test-results")]
pub(in crate::api) async fn reckon(
    access: Access<Record>,
    path: Path<(String, i64)>,
    pool: Data<PgPool>,
    Body(test): Body<CanTest>,
) -> Result<Json<SoFar>, ApiError> {
    let zone = zones::get(pool.as_ref(), access.site, ZoneId(path.1))
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    test.validate()?;
    let site = sites::get(pool.as_ref(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    Ok(Json(SoFar {
        result: test.result(zone.zone.sprinkler, today),
    }))
}
