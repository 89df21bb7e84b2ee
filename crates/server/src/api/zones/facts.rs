use actix_web::get;
use actix_web::web::{Data, Json, Path};
use lawn::engine::history::ZoneHistory;
use lawn::view::zone_facts::{ZoneFact, zone_facts};

use crate::api::access::{Access, Read};
use crate::db::{Db, measured, sites, zones};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

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
    let site = sites::get(db.pool(), access.site).await?;
    let zones = zones::of_site(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let mut document = planning::document(&site, &zones);
    let mut connection = db.pool().acquire().await?;
    let mut measured = measured::of_sites(&mut connection, &[access.site]).await?;
    measured.put_into(&mut document);
    let id = path.1.to_string();
    let zone = document.zones.iter().find(|zone| zone.id == id);
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let history = ZoneHistory::new(zone, &document.controller, document.site.latitude);
    Ok(Json(zone_facts(&history.on(today).model, today)))
}
