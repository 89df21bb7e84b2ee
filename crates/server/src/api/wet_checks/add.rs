use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::wet_checks::{self, NewWetCheck};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key, note};
use crate::http::error::{ApiError, Problem};

/// Longest note, characters.
const LONGEST_NOTE: usize = 200;

/// A walk that was done. What is wrong with heads is noted in their own list.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct DoneWetCheck {
    /// The zones that were walked; at least one.
    zones: Vec<ZoneId>,
    /// Whether it was seen to run in rain lately.
    #[serde(default)]
    ran_in_rain: bool,
    /// Whether it was seen to run in frost.
    #[serde(default)]
    ran_in_frost: bool,
    /// In the person's words, at most 200 characters.
    #[serde(default)]
    note: Option<String>,
    /// Made up by the sender, 8 to 80 characters: the same walk sent twice is written once.
    idempotency_key: String,
}

/// Writes down a wet check, on the site's day. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "sprinklers", operation_id = "add_wet_check", params(("site" = i64, Path)), request_body = DoneWetCheck, responses(
    (status = 201, description = "Written"),
    (status = 200, description = "Written before"),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/wet-checks")]
pub(in crate::api) async fn add_wet_check(
    access: Access<Record>,
    db: Data<Db>,
    Body(done): Body<DoneWetCheck>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&done.idempotency_key)?;
    let note = note(done.note.as_deref(), LONGEST_NOTE)?;
    let mut tx = db.write(access.site).await?;
    let own = zones::of_site(&mut *tx, access.site).await?;
    if done.zones.is_empty() {
        return Err(Invalid::new("zones", "no zone was walked").into());
    }
    for (i, zone) in done.zones.iter().enumerate() {
        let at = format!("zones[{i}]");
        if !own.iter().any(|row| row.id == *zone) {
            return Err(Invalid::new(at, "no zone of this site").into());
        }
        if done.zones[..i].contains(zone) {
            return Err(Invalid::new(at, "it stands there twice").into());
        }
    }
    let site = sites::get(&mut *tx, access.site).await?;
    let new = NewWetCheck {
        date: clock::local_date(clock::now(site.simulated_now), &site.site.time_zone),
        zones: &done.zones,
        ran_in_rain: done.ran_in_rain,
        ran_in_frost: done.ran_in_frost,
        note,
        account: access.account,
        idempotency_key: &done.idempotency_key,
    };
    if wet_checks::add(&mut *tx, access.site, &new)
        .await?
        .is_none()
    {
        return Ok(HttpResponse::Ok().finish());
    }
    let event = Event::WetChecked {
        zones: u32::try_from(done.zones.len()).unwrap_or(u32::MAX),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().finish())
}
