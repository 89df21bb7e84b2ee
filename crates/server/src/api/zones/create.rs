use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::{MOST_ZONES, Zone};

use super::{ZoneView, replanned};
use crate::api::access::{Access, Manage};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::{Db, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Adds a zone and replans. The identifier and tests in the body are not read; without a first day it begins today.
#[utoipa::path(tag = "zones", operation_id = "create_zone", params(("site" = i64, Path)), request_body = Zone, responses(
    (status = 201, description = "The new zone", body = ZoneView),
    (status = 409, description = "The site has 200 zones", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones")]
pub(in crate::api) async fn create(
    access: Access<Manage>,
    db: Data<Db>,
    Body(mut zone): Body<Zone>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    zone.active_from.get_or_insert(today);
    zone.active_to = None;
    zone.tests.clear();
    zone.soil_tests.clear();
    zone.seen.clear();
    let zone = zone.with_typed_ranges();
    zone.validate("")?;
    zone.validate_ahead("", today)?;
    if zones::of_site(&mut *tx, access.site).await?.len() >= MOST_ZONES {
        return Err(ApiError::Conflict(format!(
            "a site has at most {MOST_ZONES} zones; make a second site"
        )));
    }
    let id = zones::insert(&mut *tx, access.site, &zone).await?;
    let event = Event::ZoneAdded { name: zone.name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    replanned(tx, access.site, id, HttpResponse::Created()).await
}
