use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, post};
use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::measure::unlikely::Unlikely;
use lawn::site::Invalid;
use lawn::view::consequence::consequence;
use lawn::view::verdict::Warning;
use lawn::view::week_plan::ZonePlan;
use lawn::weather::HORIZON;
use serde::Deserialize;
use utoipa::ToSchema;

use super::EditView;
use super::act::Act;
use crate::api::access::{Access, Manage};
use crate::api::changed::{Follows, followed, newest_programme, week_of};
use crate::clock;
use crate::db::edits::{self, DayBecomes, NewEdit};
use crate::db::history::{self, Event};
use crate::db::{Db, SiteWrite, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::http::etag;
use crate::planning;

/// Longest reason, characters.
const LONGEST_REASON: usize = 200;

/// What a person does to a day of a zone.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewChange {
    act: Act,
    date: Date,
    /// The edit of that day that the person saw; absent: none.
    #[serde(default)]
    seen: Option<i64>,
    /// Why, in the person's words, at most 200 characters; a day is skipped for a reason.
    #[serde(default)]
    reason: Option<String>,
    /// Whether watering on a night that may freeze was asked about, and is meant.
    #[serde(default)]
    sure: bool,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// Changes a day of a zone, and replans. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "plans", operation_id = "change_day", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = NewChange, responses(
    (status = 201, description = "Kept, with what follows", body = Follows),
    (status = 412, description = "Somebody changed the day meanwhile; the answer holds what holds now", body = Problem),
    (status = 422, description = "It does not hold, or is asked about", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/edits")]
pub(in crate::api) async fn change_day(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NewChange>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    // What follows may be looked at before a reason is given.
    let says_why = new
        .reason
        .as_deref()
        .is_some_and(|why| !why.trim().is_empty());
    if matches!(new.act, Act::Skip) && !says_why {
        return Err(Invalid::new("reason", "say why before it is kept: others read it").into());
    }
    let follows = changed(&mut tx, &access, ZoneId(path.1), &new).await?;
    let freezes = follows.warnings.iter().find_map(|warning| match warning {
        Warning::EditFreezes { tmin_c } => Some(Unlikely::Freezes { tmin_c: *tmin_c }),
        _ => None,
    });
    ApiError::ask("act", freezes, new.sure)?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(follows))
}

/// What would follow from a change of a day; keeps nothing.
#[utoipa::path(tag = "plans", operation_id = "try_change_day", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = NewChange, responses(
    (status = 200, description = "What would follow", body = Follows),
    (status = 412, description = "Somebody changed the day meanwhile; the answer holds what holds now", body = Problem),
    (status = 422, description = "It does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/edits/preview")]
pub(in crate::api) async fn try_change_day(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NewChange>,
) -> Result<Json<Follows>, ApiError> {
    let mut tx = db.write(access.site).await?;
    let follows = changed(&mut tx, &access, ZoneId(path.1), &new).await?;
    // Dropped, the transaction changes nothing.
    drop(tx);
    Ok(Json(follows))
}

/// Changes a day within a transaction.
async fn changed(
    tx: &mut SiteWrite,
    access: &Access<Manage>,
    zone_id: ZoneId,
    new: &NewChange,
) -> Result<Follows, ApiError> {
    idempotency_key(&new.idempotency_key)?;
    let reason = new.reason.as_deref().map(str::trim);
    let reason = reason.filter(|r| !r.is_empty());
    if reason.is_some_and(|r| r.chars().count() > LONGEST_REASON) {
        let message = format!("at most {LONGEST_REASON} characters");
        return Err(Invalid::new("reason", message).into());
    }
    let site = sites::get(&mut **tx, access.site).await?;
    let zone = zones::get(&mut **tx, access.site, zone_id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let days = i64::try_from(HORIZON).unwrap_or(7) - 1;
    let last = today.saturating_add(days.days());
    if new.date < today || new.date > last {
        let message = format!("the plan goes from {today} to {last}");
        return Err(Invalid::new("date", message).into());
    }
    let was = week_of(tx, access.site, zone_id).await?;
    if edits::is_written(&mut **tx, zone_id, &new.idempotency_key).await? {
        return Ok(Follows {
            before: consequence(&was),
            after: consequence(&was),
            changes: Vec::new(),
            warnings: on_day(&was, new.date),
        });
    }
    let holds = edits::of_site(&mut **tx, access.site, today).await?;
    let is_changed = |to: Date| {
        holds
            .iter()
            .any(|e| e.zone == zone_id && e.date == to && e.edit().is_some())
    };
    if matches!(new.act, Act::Move { to } if is_changed(to)) {
        let message = "somebody has changed that day already: leave it to the plan first";
        return Err(Invalid::new("act.to", message).into());
    }
    let of_day = holds
        .into_iter()
        .find(|e| e.zone == zone_id && e.date == new.date);
    let current = of_day.as_ref().map_or(0, |e| e.id);
    let shown: Vec<EditView> = of_day.into_iter().map(EditView::from).collect();
    etag::check(new.seen.unwrap_or(0), current, &shown)?;

    let before = newest_programme(tx, access.site).await?;
    let (document, _) = planning::as_measured(tx, access.site).await?;
    let id = zone_id.0.to_string();
    let own = document.zones.iter().find(|z| z.id == id);
    let own = own.ok_or(ApiError::NotFound("zone"))?;
    let history = ZoneHistory::of(&document, own);
    let model = &history.on(new.date).model;
    let days = new.act.days(&id, new.date, last, &before, model)?;
    for &(date, becomes) in &days {
        let edit = NewEdit {
            zone: zone_id,
            date,
            becomes,
            act: new.act.name(),
            reason,
            account: access.account,
            idempotency_key: &new.idempotency_key,
        };
        edits::add(&mut **tx, &edit).await?;
    }
    let event = Event::DayEdited {
        zone: zone.zone.name.clone(),
        date: new.date,
        act: new.act.name().to_owned(),
    };
    history::note(&mut **tx, access.site, access.account, &event).await?;
    let (changes, is) = followed(tx, access.site, zone_id, &before, today).await?;
    for (date, becomes) in days {
        holds_it(&is, date, becomes, new.act)?;
    }
    Ok(Follows {
        before: consequence(&was),
        after: consequence(&is),
        changes,
        warnings: on_day(&is, new.date),
    })
}

/// What a person should see to on a day.
fn on_day(week: &ZonePlan, date: Date) -> Vec<Warning> {
    let cell = week.cells.iter().find(|c| c.date == date);
    cell.map(|c| c.warnings.clone()).unwrap_or_default()
}

/// Refuses what the hours of a day do not hold.
fn holds_it(week: &ZonePlan, date: Date, becomes: DayBecomes, act: Act) -> Result<(), Invalid> {
    let DayBecomes::Set { passes, pass_s } = becomes else {
        return Ok(());
    };
    let cell = week.cells.iter().find(|c| c.date == date);
    let runs_s = cell.map_or(0, |c| c.runs().map(|r| r.run_s).sum());
    if runs_s >= i64::from(passes) * pass_s {
        return Ok(());
    }
    let message = match runs_s / 60 {
        0 => "the day has no allowed hours for it".to_owned(),
        min => format!("the hours of the day hold {min} min of it"),
    };
    Err(Invalid::new(act.field(), message))
}
