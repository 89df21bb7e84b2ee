use actix_web::post;
use actix_web::web::{Data, Json, Path};
use lawn::measure::result::TestResult;
use lawn::measure::sprinkler::SprinklerTest;
use lawn::measure::unlikely::Unlikely;
use serde::Serialize;
use utoipa::ToSchema;

use super::tested;
use crate::api::access::{Access, Record};
use crate::api::changed::newest_programme;
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::water_book;

/// What a test says so far.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SoFar {
    /// `null` before any can is read.
    result: Option<TestResult>,
    /// A can to look at again.
    odd: Option<Unlikely>,
}

/// What a test says so far; nothing is written.
#[utoipa::path(tag = "sprinklers", operation_id = "reckon_sprinkler_test", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = SprinklerTest, responses(
    (status = 200, description = "The result so far", body = SoFar),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/sprinkler-test-results")]
pub(in crate::api) async fn reckon(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(test): Body<SprinklerTest>,
) -> Result<Json<SoFar>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let zone = zones::get(&mut *db, access.site, ZoneId(path.1))
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    test.validate()?;
    let site = sites::get(&mut *db, access.site).await?;
    let site = water_book::with_next_price(&mut db, site).await?;
    let programme = newest_programme(&mut db, access.site).await?;
    Ok(Json(SoFar {
        result: test.result(&tested(&site, &zone, &programme)),
        odd: test.odd_can(),
    }))
}
