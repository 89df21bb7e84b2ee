//! Days on which a zone must stay dry because a person says so: a match, a product just sprayed. Each day comes back by itself.

use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, get, put};
use jiff::civil::Date;
use lawn::days;
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::api::access::{Access, Read, Record};
use crate::db::dry_days::{self, DryDayRow};
use crate::db::history::{self, Event};
use crate::db::zones::ZoneRow;
use crate::db::{Db, SiteWrite, ZoneId, sites, zones};
use crate::http::body::{Body, note};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// Longest note, characters.
const LONGEST_NOTE: usize = 200;

/// A day on which a zone stays dry.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct DryDayView {
    zone: ZoneId,
    zone_name: String,
    date: Date,
    /// Why, in the person's words.
    note: Option<String>,
    /// Who said so.
    who: Option<String>,
}

impl From<DryDayRow> for DryDayView {
    fn from(row: DryDayRow) -> Self {
        Self {
            zone: row.zone,
            zone_name: row.zone_name,
            date: row.date,
            note: row.note,
            who: row.who,
        }
    }
}

/// Why a zone stays dry.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct DryDayNote {
    /// In the person's words, at most 200 characters.
    #[serde(default)]
    note: Option<String>,
}

/// Days from today on, on which zones stay dry.
#[utoipa::path(tag = "zones", operation_id = "list_dry_days", params(("site" = i64, Path)), responses(
    (status = 200, description = "The days", body = Vec<DryDayView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/dry-days")]
pub(super) async fn list_dry_days(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<DryDayView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let rows = dry_days::of_site(db.pool(), access.site, today).await?;
    Ok(Json(rows.into_iter().map(DryDayView::from).collect()))
}

/// The zone, and whether the day may be set: from today to a year ahead.
async fn zone_and_day(
    tx: &mut SiteWrite,
    access: &Access<Record>,
    path: &(String, i64, Date),
) -> Result<ZoneRow, ApiError> {
    let site = sites::get(&mut **tx, access.site).await?;
    let zone = zones::get(&mut **tx, access.site, ZoneId(path.1))
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    if path.2 < today {
        return Err(Invalid::new("date", "this day is past").into());
    }
    days::check("date", path.2, days::last_to_plan(today))?;
    Ok(zone)
}

/// Keeps a zone dry on a day, and replans. Said again it changes the note.
#[utoipa::path(tag = "zones", operation_id = "keep_dry", params(("site" = i64, Path), ("zone" = i64, Path), ("date" = Date, Path)),
    request_body = DryDayNote, responses(
    (status = 204, description = "Kept dry"),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "The day or the note does not hold", body = Problem)))]
#[put("/sites/{site}/zones/{zone}/dry-days/{date}")]
pub(super) async fn keep_dry(
    access: Access<Record>,
    path: Path<(String, i64, Date)>,
    db: Data<Db>,
    Body(body): Body<DryDayNote>,
) -> Result<HttpResponse, ApiError> {
    let note = note(body.note.as_deref(), LONGEST_NOTE)?;
    let mut tx = db.write(access.site).await?;
    let zone = zone_and_day(&mut tx, &access, &path).await?;
    dry_days::keep(&mut *tx, zone.id, path.2, note, access.account).await?;
    let event = Event::DryDaySet {
        zone: zone.zone.name,
        date: path.2,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Lets a zone be watered on a day again, and replans. Said again it changes nothing.
#[utoipa::path(tag = "zones", operation_id = "lift_dry_day", params(("site" = i64, Path), ("zone" = i64, Path), ("date" = Date, Path)), responses(
    (status = 204, description = "It may be watered"),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "The day does not hold", body = Problem)))]
#[delete("/sites/{site}/zones/{zone}/dry-days/{date}")]
pub(super) async fn lift_dry_day(
    access: Access<Record>,
    path: Path<(String, i64, Date)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let zone = zone_and_day(&mut tx, &access, &path).await?;
    if dry_days::lift(&mut *tx, zone.id, path.2).await? {
        let event = Event::DryDayLifted {
            zone: zone.zone.name,
            date: path.2,
        };
        history::note(&mut *tx, access.site, access.account, &event).await?;
        planning::replan(&mut tx, access.site).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
