use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, post};
use jiff::civil::Date;
use lawn::site::Invalid;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::ZoneView;
use crate::api::access::{Access, Manage};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::api::etag::{check, etag, if_match};
use crate::db::{ZoneId, sites, zones};
use crate::planning;

/// A zone's last day.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct ZoneEnd {
    last_day: Date,
}

/// Ends a zone at a date and replans; its records stay.
#[utoipa::path(tag = "zones", operation_id = "end_zone",
    params(("site" = i64, Path), ("zone" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = ZoneEnd, responses(
    (status = 200, description = "The zone now", body = ZoneView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "The date does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/end")]
pub(in crate::api) async fn end(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    request: HttpRequest,
    pool: Data<PgPool>,
    Body(body): Body<ZoneEnd>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let id = ZoneId(path.1);
    let mut tx = pool.begin().await?;
    sites::lock(&mut *tx, access.site).await?;
    let current = zones::get(&mut *tx, access.site, id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    if let Some(first) = current.zone.active_from
        && body.last_day < first
    {
        return Err(ApiError::Invalid(Invalid {
            field: "last_day".to_owned(),
            message: format!("{} is before the zone's first day, {first}", body.last_day),
        }));
    }
    let version = current.version;
    check(edited, version, &ZoneView::from(current))?;
    zones::end(&mut *tx, id, body.last_day).await?;
    planning::replan(&mut tx, access.site).await?;
    let row = zones::get(&mut *tx, access.site, id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(ZoneView::from(row)))
}
