use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::Zone;
use sqlx::PgPool;

use super::{ZoneView, replanned};
use crate::api::access::{Access, Manage};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::{sites, zones};

/// Adds a zone and replans. The identifier in the body is not read; without a first day it begins today.
#[utoipa::path(tag = "zones", operation_id = "create_zone", params(("site" = i64, Path)), request_body = Zone, responses(
    (status = 201, description = "The new zone", body = ZoneView),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones")]
pub(in crate::api) async fn create(
    access: Access<Manage>,
    pool: Data<PgPool>,
    Body(mut zone): Body<Zone>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = pool.begin().await?;
    sites::lock(&mut *tx, access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    zone.active_from.get_or_insert(today);
    zone.active_to = None;
    zone.validate("")?;
    let id = zones::insert(&mut *tx, access.site, &zone).await?;
    let event = Event::ZoneAdded { name: zone.name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    replanned(tx, access.site, id, HttpResponse::Created()).await
}
