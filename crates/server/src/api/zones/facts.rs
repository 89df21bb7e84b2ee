use actix_web::get;
use actix_web::web::{Data, Json, Path};
use lawn::engine::history::ZoneHistory;
use lawn::view::zone_facts::{ZoneFact, zone_facts};

use crate::api::access::{Access, Read};
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// The figures that plans use of a zone today: where each comes from, how far it could be off, and what would sharpen it.
#[utoipa::path(tag = "zones", operation_id = "zone_facts", params(("site" = i64, Path), ("zone" = i64, Path)), responses(
    (status = 200, description = "The figures", body = Vec<ZoneFact>),
    (status = 404, description = "No such zone here", body = Problem)))]
#[get("/sites/{site}/zones/{zone}/facts")]
pub(in crate::api) async fn facts(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<Json<Vec<ZoneFact>>, ApiError> {
    let mut connection = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut connection, access.site).await?;
    let id = path.1.to_string();
    let zone = document.zones.iter().find(|zone| zone.id == id);
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let history = ZoneHistory::of(&document, zone);
    Ok(Json(zone_facts(&history.on(today).model, today)))
}
