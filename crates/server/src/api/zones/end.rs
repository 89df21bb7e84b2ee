use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, post};
use jiff::civil::Date;
use lawn::days;
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use super::{ZoneView, for_edit, replanned};
use crate::api::access::{Access, Manage};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::if_match;

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
    db: Data<Db>,
    Body(body): Body<ZoneEnd>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let current = for_edit(&mut tx, access.site, id, edited).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    days::check("last_day", body.last_day, days::last_to_plan(today))?;
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
