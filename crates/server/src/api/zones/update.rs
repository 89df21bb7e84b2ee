use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, put};
use jiff::civil::Date;
use lawn::site::draft::answered;
use lawn::site::facts::first_difference;
use lawn::site::soil_counting::{ZoneSoilTest, counting_on};
use lawn::site::{Invalid, Zone};
use sqlx::PgConnection;

use super::holds::HoldsQuery;
use super::{ZoneView, for_edit, replanned};
use crate::api::access::{Access, Manage};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::{Db, SiteId, ZoneId, sites, soil_tests, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::if_match;
use crate::http::query::Asked;

/// Replaces a zone's description and replans; days before what changed holds keep their balance. Its last day is set by ending it; its facts and tests
/// are not read from the body.
#[utoipa::path(tag = "zones", operation_id = "update_zone",
    params(("site" = i64, Path), ("zone" = i64, Path), ("If-Match" = String, Header, description = "The version edited"), HoldsQuery),
    request_body = Zone, responses(
    (status = 200, description = "The zone now", body = ZoneView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[put("/sites/{site}/zones/{zone}")]
pub(in crate::api) async fn update(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    request: HttpRequest,
    Asked(holds): Asked<HoldsQuery>,
    db: Data<Db>,
    Body(mut zone): Body<Zone>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let id = ZoneId(path.1);
    zone.facts.clear();
    zone.tests.clear();
    zone.soil_tests.clear();
    zone.seen.clear();
    zone.validate("")?;
    let holds = holds.by_key()?;
    let mut tx = db.write(access.site).await?;
    let current = for_edit(&mut tx, access.site, id, edited).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    zone.validate_ahead("", today)?;
    if let (Some(first), Some(last)) = (zone.active_from, current.zone.active_to)
        && first > last
    {
        return Err(Invalid::new(
            "active_from",
            format!("{first} is after the zone's last day, {last}"),
        )
        .into());
    }
    if zone.soil != current.zone.soil {
        texture_is_told(&mut tx, access.site, id, today).await?;
    }
    let zone = answered(&current.zone, zone.with_typed_ranges());
    let zone = current.zone.changed(zone, &holds, today)?;
    let touched = first_difference(&current.zone, &zone);
    zones::update(&mut *tx, id, &zone, touched.unwrap_or(today)).await?;
    let event = Event::ZoneChanged { name: zone.name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    replanned(tx, access.site, id, HttpResponse::Ok()).await
}

/// Refuses another texture by hand while a test of the soil tells it: it would change nothing.
async fn texture_is_told(
    db: &mut PgConnection,
    site: SiteId,
    zone: ZoneId,
    today: Date,
) -> Result<(), ApiError> {
    let tests = soil_tests::of_site(db, site).await?;
    let own = tests.into_iter().filter(|test| test.zone == zone);
    let own: Vec<ZoneSoilTest> = own.map(|test| test.kept).collect();
    let Some(told) = counting_on(&own, today).texture.and_then(|i| own.get(i)) else {
        return Ok(());
    };
    Err(Invalid::new(
        "soil",
        format!(
            "the {} of {} tells the texture; set it aside on Soil first",
            told.test.name(),
            told.date
        ),
    )
    .into())
}
