//! What is asked of zones for some hours: keep dry what was sprayed, water in what was put down.

use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, get, post};
use jiff::civil::DateTime;
use jiff::{SignedDuration, Timestamp};
use lawn::days;
use lawn::record::constraint::{self, Asks, MOST_OF_A_ZONE};
use lawn::site::Invalid;
use lawn::view::changes::Change;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::api::access::{Access, Read, Record};
use crate::api::changed::{newest_programme, replanned_from};
use crate::clock;
use crate::db::constraints::{self, ConstraintRow, NewConstraint};
use crate::db::history::{self, Event};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Longest note, characters.
const LONGEST_NOTE: usize = 200;

/// What is asked of a zone for some hours.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct ConstraintView {
    id: i64,
    zone: ZoneId,
    zone_name: String,
    from: Timestamp,
    until: Timestamp,
    asks: Asks,
    /// Why, in the person's words.
    note: Option<String>,
    /// Who said so.
    who: Option<String>,
}

impl From<ConstraintRow> for ConstraintView {
    fn from(row: ConstraintRow) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            zone_name: row.zone_name,
            from: row.from,
            until: row.until,
            asks: row.asks,
            note: row.note,
            who: row.who,
        }
    }
}

/// What is to be asked of a zone.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct NewEntry {
    asks: Asks,
    /// From when on, on the site's clock, `YYYY-MM-DDTHH:MM`; absent: now.
    #[serde(default)]
    #[schema(value_type = Option<String>)]
    from: Option<DateTime>,
    /// For how many hours, or within how many.
    hours: f64,
    /// Why, in the person's words, at most 200 characters.
    #[serde(default)]
    note: Option<String>,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// What was kept, and what it changes in the plan.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Asked {
    id: i64,
    /// `null` where it was kept before: what it changed was answered then.
    changes: Option<Vec<Change>>,
}

/// What is asked of the site's zones and is not over.
#[utoipa::path(tag = "zones", operation_id = "list_constraints", params(("site" = i64, Path)), responses(
    (status = 200, description = "The entries, in order of time", body = Vec<ConstraintView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/constraints")]
pub(super) async fn list_constraints(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<ConstraintView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let now = clock::now(site.simulated_now);
    let rows = constraints::of_site(db.pool(), access.site, now).await?;
    Ok(Json(rows.into_iter().map(ConstraintView::from).collect()))
}

/// Asks something of a zone for some hours, and replans. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "zones", operation_id = "add_constraint", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = NewEntry, responses(
    (status = 201, description = "Kept", body = Asked),
    (status = 200, description = "Kept before", body = Asked),
    (status = 409, description = "The zone has 50 such entries that are not over", body = Problem),
    (status = 422, description = "A figure or the time does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/constraints")]
pub(super) async fn add_constraint(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NewEntry>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&new.idempotency_key)?;
    constraint::check(new.asks, new.hours)?;
    let note = new.note.as_deref().map(str::trim);
    let note = note.filter(|n| !n.is_empty());
    if note.is_some_and(|n| n.chars().count() > LONGEST_NOTE) {
        let message = format!("at most {LONGEST_NOTE} characters");
        return Err(Invalid::new("note", message).into());
    }
    let zone_id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let zone = zones::get(&mut *tx, access.site, zone_id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let now = clock::now(site.simulated_now);
    let local = clock::local(now, &site.site.time_zone);
    let from = match new.from {
        Some(civil) => {
            days::check("from", civil.date(), days::last_to_plan(local.date()))?;
            // Of an hour that the clock repeats the first, of one that it skips the hour after.
            let zoned = civil.to_zoned(local.time_zone().clone());
            zoned
                .map_err(|_| Invalid::new("from", "not a time of the site's clock"))?
                .timestamp()
        }
        None => now,
    };
    let until = SignedDuration::try_from_secs_f64(new.hours * 3600.0)
        .ok()
        .and_then(|hours| from.checked_add(hours).ok())
        .ok_or_else(|| Invalid::new("hours", "too far ahead"))?;
    if until <= now {
        return Err(Invalid::new("hours", "these hours are over already").into());
    }
    let before = newest_programme(&mut tx, access.site).await?;
    let entry = NewConstraint {
        zone: zone_id,
        account: access.account,
        from,
        until,
        asks: new.asks,
        note,
        idempotency_key: &new.idempotency_key,
    };
    let (id, is_new) = constraints::add(&mut *tx, &entry).await?;
    if !is_new {
        return Ok(HttpResponse::Ok().json(Asked { id, changes: None }));
    }
    if constraints::count(&mut *tx, zone_id, now).await? > MOST_OF_A_ZONE {
        return Err(ApiError::Conflict(format!(
            "this zone has {MOST_OF_A_ZONE} such entries that are not over; lift one first"
        )));
    }
    let event = Event::HoursAsked {
        zone: zone.zone.name,
        asks: new.asks,
        from,
        until,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let changes = replanned_from(&mut tx, access.site, &before, local.date()).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(Asked {
        id,
        changes: Some(changes),
    }))
}

/// Takes back what was asked of a zone for some hours, and replans.
#[utoipa::path(tag = "zones", operation_id = "lift_constraint", params(("site" = i64, Path), ("constraint" = i64, Path)), responses(
    (status = 204, description = "It is not asked any more"),
    (status = 404, description = "No such entry here", body = Problem)))]
#[delete("/sites/{site}/constraints/{constraint}")]
pub(super) async fn lift_constraint(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let lifted = constraints::lift(&mut *tx, access.site, path.1).await?;
    let (zone, asks) = lifted.ok_or(ApiError::NotFound("entry"))?;
    let event = Event::HoursLifted { zone, asks };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
