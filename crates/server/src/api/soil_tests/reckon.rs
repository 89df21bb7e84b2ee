use actix_web::post;
use actix_web::web::{Data, Json, Path};
use lawn::measure::soil::{SoilResult, SoilTest};
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// What a soil test says so far.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SoilSoFar {
    result: SoilResult,
    /// The first field that does not hold yet; `null`: it can be kept.
    field: Option<String>,
    /// Why.
    problem: Option<String>,
}

/// What a soil test says so far, finished or not; nothing is written.
#[utoipa::path(tag = "soil", operation_id = "reckon_soil_test", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = SoilTest, responses(
    (status = 200, description = "The result so far", body = SoilSoFar),
    (status = 404, description = "No such zone here", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/soil-test-results")]
pub(in crate::api) async fn reckon_soil_test(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(test): Body<SoilTest>,
) -> Result<Json<SoilSoFar>, ApiError> {
    let found = zones::get(db.pool(), access.site, ZoneId(path.1)).await?;
    found.ok_or(ApiError::NotFound("zone"))?;
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let problem = test.validate().err();
    Ok(Json(SoilSoFar {
        result: SoilResult::of(&test, today),
        field: problem.as_ref().map(|p| p.field.clone()),
        problem: problem.map(|p| p.message),
    }))
}
