use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use jiff::civil::Date;
use lawn::days;
use lawn::measure::head_fault::Fault;
use lawn::measure::unlikely;
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::head_faults::{self, NewFault};
use crate::db::history::{self, Event};
use crate::db::{Db, ZoneId, sites, sprinkler_tests, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};

/// What is wrong with a head.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NotedFault {
    /// Its number on the zone's plan, 1 to 400.
    head: u16,
    fault: Fault,
    /// Whether a number that the zone's plan does not show was asked about, and is so.
    #[serde(default)]
    sure: bool,
    /// In the person's words, at most 200 characters.
    #[serde(default)]
    note: Option<String>,
    /// By when it is to be repaired; not before today.
    #[serde(default)]
    due_on: Option<Date>,
    /// Made up by the sender, 8 to 80 characters: the same fault sent twice is written once.
    idempotency_key: String,
}

/// Most heads of a zone.
const MOST_HEADS: u16 = 400;
/// Most faults of a site, repaired ones too.
const MOST_FAULTS: usize = 5000;
/// Longest note, characters.
const LONGEST_NOTE: usize = 200;

fn check(new: &NotedFault, today: Date) -> Result<(), Invalid> {
    let invalid = |field: &str, message: String| Err(Invalid::new(field, message));
    if !(1..=MOST_HEADS).contains(&new.head) {
        return invalid("head", format!("heads are numbered from 1 to {MOST_HEADS}"));
    }
    if new
        .note
        .as_ref()
        .is_some_and(|n| n.chars().count() > LONGEST_NOTE)
    {
        return invalid("note", format!("at most {LONGEST_NOTE} characters"));
    }
    if let Some(due) = new.due_on {
        if due < today {
            return invalid("due_on", "this day is past".to_owned());
        }
        days::check("due_on", due, days::last_to_plan(today))?;
    }
    idempotency_key(&new.idempotency_key)?;
    Ok(())
}

/// Notes what is wrong with a head, on the site's day. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "sprinklers", operation_id = "note_head_fault", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = NotedFault, responses(
    (status = 201, description = "Noted"),
    (status = 200, description = "Noted before"),
    (status = 409, description = "The site has 5000 faults on record", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/head-faults")]
pub(in crate::api) async fn note_fault(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NotedFault>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let zone = zones::get(&mut *tx, access.site, ZoneId(path.1))
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    check(&new, today)?;
    let heads = sprinkler_tests::heads(&mut *tx, ZoneId(path.1)).await?;
    ApiError::ask("head", unlikely::head(new.head, heads), new.sure)?;
    let fault = NewFault {
        zone: ZoneId(path.1),
        head: new.head,
        fault: new.fault,
        note: new.note.as_deref().map(str::trim).filter(|n| !n.is_empty()),
        noted_on: today,
        due_on: new.due_on,
        account: access.account,
        idempotency_key: &new.idempotency_key,
    };
    if head_faults::add(&mut *tx, &fault).await?.is_none() {
        return Ok(HttpResponse::Ok().finish());
    }
    if head_faults::of_site(&mut *tx, access.site, None)
        .await?
        .len()
        > MOST_FAULTS
    {
        return Err(ApiError::Conflict(format!(
            "this site has {MOST_FAULTS} faults on record; more are not kept"
        )));
    }
    let event = Event::HeadFaultNoted {
        zone: zone.zone.name,
        head: new.head,
        fault: new.fault,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().finish())
}
