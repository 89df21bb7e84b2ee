use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use jiff::Timestamp;
use jiff::tz::TimeZone;
use lawn::days;
use lawn::measure::unlikely;
use lawn::record::said::Said;
use lawn::record::watered::{self, Watered};
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::runs::ByHand;
use crate::db::{Db, ZoneId, runs, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// How a person watered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(in crate::api) enum How {
    /// The controller or a valve, started by hand.
    Hand,
    /// A hose, with or without a sprinkler.
    Hose,
}

/// A run that no plan asked for, or that a person timed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewRun {
    zone: ZoneId,
    started_at: Timestamp,
    /// Time that water ran, s, 1 to 86400.
    seconds: i64,
    how: How,
    /// What it watered; absent: by hand all of the zone, by hose nobody says how much.
    #[serde(default)]
    watered: Option<Watered>,
    /// Whether a time that is seldom so was asked about, and is so.
    #[serde(default)]
    sure: bool,
    /// Made up by the sender, 8 to 80 characters: the same run sent twice is written once.
    idempotency_key: String,
}

/// Adds a run by hand or hose and replans. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "runs", operation_id = "add_run", params(("site" = i64, Path)), request_body = NewRun, responses(
    (status = 201, description = "Added"),
    (status = 200, description = "Written before"),
    (status = 409, description = "Another run of the zone starts at that instant", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/runs")]
pub(in crate::api) async fn add(
    access: Access<Record>,
    db: Data<Db>,
    Body(new): Body<NewRun>,
) -> Result<HttpResponse, ApiError> {
    let invalid = |field: &str, message: String| {
        ApiError::Invalid(Invalid {
            field: field.to_owned(),
            message,
        })
    };
    watered::validate_seconds(new.seconds)?;
    idempotency_key(&new.idempotency_key)?;
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let zone = zones::get(&mut *tx, access.site, new.zone)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    let now = clock::now(site.simulated_now);
    if new.started_at > now {
        return Err(invalid(
            "started_at",
            "a run that has not begun cannot be noted".to_owned(),
        ));
    }
    let local = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let date = new.started_at.to_zoned(local).date();
    days::check("started_at", date, days::LAST)?;
    if !zone.zone.is_active(date) {
        return Err(invalid(
            "started_at",
            format!("{} did not exist on {date}", zone.zone.name),
        ));
    }
    let (source, usual) = match new.how {
        How::Hand => (Said::Hand, Watered::all()),
        How::Hose => (Said::Hose, Watered::Unmeasured),
    };
    let watered = new.watered.unwrap_or(usual);
    watered.validate("watered.", zone.zone.area_m2)?;
    ApiError::ask(
        "seconds",
        unlikely::run(new.started_at, new.seconds, now, None),
        new.sure,
    )?;
    let run = ByHand {
        zone: new.zone,
        date,
        started_at: new.started_at,
        seconds: i32::try_from(new.seconds).unwrap_or(i32::MAX),
        source,
        watered,
        account: access.account,
        idempotency_key: &new.idempotency_key,
    };
    if runs::add(&mut *tx, &run).await?.is_none() {
        return if runs::is_written(&mut *tx, new.zone, &new.idempotency_key).await? {
            Ok(HttpResponse::Ok().finish())
        } else {
            Err(ApiError::Conflict(
                "another run of this zone starts at that instant".to_owned(),
            ))
        };
    }
    let event = Event::RunAdded {
        zone: zone.zone.name,
        date,
        seconds: new.seconds,
        source: source.name().to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().finish())
}
