use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, post};
use jiff::civil::Date;
use lawn::site::Invalid;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::{ZoneView, for_edit, replanned};
use crate::api::access::{Access, Manage};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::api::etag::if_match;
use crate::db::history::{self, Event};
use crate::db::{ZoneId, zones};

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
    let current = for_edit(&mut tx, access.site, id, edited).await?;
    if let Some(first) = current.zone.active_from
        && body.last_day < first
    {
        return Err(ApiError::Invalid(Invalid {
            field: "last_day".to_owned(),
            message: format!("{} is before the zone's first day, {first}", body.last_day),
        }));
    }
    zones::end(&mut *tx, id, body.last_day).await?;
    let event = Event::ZoneEnded {
        name: current.zone.name,
        last_day: body.last_day,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    replanned(tx, access.site, id, HttpResponse::Ok()).await
}
