use std::collections::BTreeMap;

use actix_web::post;
use actix_web::web::{Data, Json, Path};
use lawn::site::School;
use lawn::view::consequence::consequence;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::api::changed::{Follows, followed, newest_programme, week_of};
use crate::clock;
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// The school that a zone might be watered by.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct TriedSchool {
    school: School,
}

/// What would follow from watering a zone by another school from today on; keeps nothing.
#[utoipa::path(tag = "zones", operation_id = "try_school", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = TriedSchool, responses(
    (status = 200, description = "What would follow", body = Follows),
    (status = 404, description = "No such zone here, or no plan", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/school-preview")]
pub(in crate::api) async fn try_school(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(tried): Body<TriedSchool>,
) -> Result<Json<Follows>, ApiError> {
    let (site, id) = (access.site, ZoneId(path.1));
    let mut tx = db.write(site).await?;
    let row = sites::get(&mut *tx, site).await?;
    let today = clock::local_date(clock::now(row.simulated_now), &row.site.time_zone);
    let current = zones::get(&mut *tx, site, id).await?;
    let current = current.ok_or(ApiError::NotFound("zone"))?.zone;
    let mut zone = current.clone();
    zone.school = tried.school;
    zone.validate("")?;
    let was = week_of(&mut tx, site, id).await?;
    let before = newest_programme(&mut tx, site).await?;
    let zone = current.changed(zone, &BTreeMap::new(), today)?;
    zones::update(&mut *tx, id, &zone, today).await?;
    let (changes, is) = followed(&mut tx, site, id, &before, today).await?;
    // Dropped, the transaction changes nothing.
    drop(tx);
    Ok(Json(Follows {
        before: consequence(&was),
        after: consequence(&is),
        changes,
        warnings: Vec::new(),
    }))
}
