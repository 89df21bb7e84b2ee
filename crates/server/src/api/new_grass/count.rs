use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, post};
use lawn::new_grass::stand::Count;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::{Db, ZoneId, sites, stand_counts, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};

/// Seedlings that were counted today.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Counted {
    /// Side of the square frame, mm.
    frame_mm: u32,
    /// Seedlings in each place where it was laid down, 3 to 50 of them.
    counts: Vec<u32>,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// Keeps a count of seedlings, on the site's day. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "new grass", operation_id = "count_stand", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = Counted, responses(
    (status = 201, description = "Kept"),
    (status = 200, description = "Kept before"),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/stand-counts")]
pub(in crate::api) async fn count_stand(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(counted): Body<Counted>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&counted.idempotency_key)?;
    let id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let zone = zones::get(&mut *tx, access.site, id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let site = sites::get(&mut *tx, access.site).await?;
    let count = Count {
        date: clock::local_date(clock::now(site.simulated_now), &site.site.time_zone),
        frame_mm: counted.frame_mm,
        counts: counted.counts,
    };
    count.validate()?;
    let key = &counted.idempotency_key;
    if !stand_counts::add(&mut *tx, id, &count, access.account, key).await? {
        return Ok(HttpResponse::Ok().finish());
    }
    let event = Event::StandCounted {
        zone: zone.zone.name,
        frames: count.counts.len(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().finish())
}

/// Takes back a count that was noted by mistake.
#[utoipa::path(tag = "new grass", operation_id = "undo_count", params(("site" = i64, Path), ("count" = i64, Path)), responses(
    (status = 204, description = "Taken back"),
    (status = 404, description = "No such count here", body = Problem)))]
#[delete("/sites/{site}/stand-counts/{count}")]
pub(in crate::api) async fn undo_count(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let zone = stand_counts::undo(&mut *tx, access.site, path.1).await?;
    let zone = zone.ok_or(ApiError::NotFound("count"))?;
    let event = Event::CountUndone { zone };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
