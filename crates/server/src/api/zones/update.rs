use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::Zone;
use sqlx::PgPool;

use super::{ZoneView, for_edit, replanned};
use crate::api::access::{Access, Manage};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::api::etag::if_match;
use crate::db::history::{self, Event};
use crate::db::{ZoneId, zones};

/// Replaces a zone's description and replans. Its last day is set by ending it.
#[utoipa::path(tag = "zones", operation_id = "update_zone",
    params(("site" = i64, Path), ("zone" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = Zone, responses(
    (status = 200, description = "The zone now", body = ZoneView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[put("/sites/{site}/zones/{zone}")]
pub(in crate::api) async fn update(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    request: HttpRequest,
    pool: Data<PgPool>,
    Body(zone): Body<Zone>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let id = ZoneId(path.1);
    zone.validate("")?;
    let mut tx = pool.begin().await?;
    for_edit(&mut tx, access.site, id, edited).await?;
    zones::update(&mut *tx, id, &zone).await?;
    let event = Event::ZoneChanged { name: zone.name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    replanned(tx, access.site, id, HttpResponse::Ok()).await
}
