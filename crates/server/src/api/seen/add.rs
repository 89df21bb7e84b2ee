use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use jiff::civil::Date;
use lawn::days;
use lawn::measure::hot_spot::HotSpot;
use lawn::measure::outline::Point;
use lawn::measure::seen::Seen;
use lawn::ranges;
use lawn::record::known::is_after_noon;
use lawn::site::Invalid;
use lawn::site::soil_counting::{MOST_OF_A_ZONE, ZoneSeen};
use lawn::stress::walk::{self, Means};
use lawn::view::advice::Advice;
use lawn::view::changes::Change;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::advice;
use crate::api::access::{Access, Record};
use crate::api::changed::{newest_programme, replanned_from};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::seen::{self, NewSeen};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};

/// Most that is seen at one look beside the first.
const MOST_AT_ONCE: usize = 12;

/// What was just seen.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct JustSeen {
    seen: Seen,
    /// What else was seen at the same look at the zone, at most 12.
    #[serde(default)]
    #[schema(max_items = 12)]
    with: Vec<Seen>,
    /// The kind of place that was looked at alone; absent: it holds of the zone. Of such a place nothing is said of the zone's balance.
    #[serde(default)]
    spot: Option<HotSpot>,
    /// Where on the zone's plan; absent: all of it.
    #[serde(default)]
    place: Option<Point>,
    /// The day on which it was seen; absent: now.
    #[serde(default)]
    date: Option<Date>,
    /// Whether that was at noon or later; without a day it is as it is now.
    #[serde(default)]
    after_noon: bool,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// What was kept, what to do about it, and what it changes in the plan.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Noted {
    id: i64,
    /// What all that was seen means together.
    means: Vec<Means>,
    advice: Vec<Advice>,
    /// `null` where it was kept before: what it changed was answered then.
    changes: Option<Vec<Change>>,
}

/// Keeps what was seen of a zone and replans: what says something against the balance corrects it. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "soil", operation_id = "note_seen", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = JustSeen, responses(
    (status = 201, description = "Kept", body = Noted),
    (status = 200, description = "Kept before", body = Noted),
    (status = 409, description = "The zone has 2000 such notes on record", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/seen")]
pub(in crate::api) async fn note_seen(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(just): Body<JustSeen>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&just.idempotency_key)?;
    let in_seen = |error: Invalid| error.within("seen.");
    just.seen.validate().map_err(in_seen)?;
    if just.with.len() > MOST_AT_ONCE {
        let message = format!("at most {MOST_AT_ONCE} more are seen at one look");
        return Err(Invalid::new("with", message).into());
    }
    for (i, seen) in just.with.iter().enumerate() {
        let within = |error: Invalid| error.within(&format!("with[{i}]."));
        seen.validate().map_err(within)?;
    }
    if let Some(place) = just.place {
        Invalid::unless_within("place.x_m", ranges::PLAN, place.x_m)?;
        Invalid::unless_within("place.y_m", ranges::PLAN, place.y_m)?;
    }
    let zone_id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let zone = zones::get(&mut *tx, access.site, zone_id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let now = clock::local(clock::now(site.simulated_now), &site.site.time_zone);
    let today = now.date();
    let kept = ZoneSeen {
        date: just.date.unwrap_or(today),
        after_noon: match just.date {
            Some(_) => just.after_noon,
            None => is_after_noon(now.time()),
        },
        place: just.place,
        spot: just.spot,
        seen: just.seen,
    };
    days::check("date", kept.date, today)?;
    let before = newest_programme(&mut tx, access.site).await?;
    let new = NewSeen {
        zone: zone_id,
        account: Some(access.account),
        kept: &kept,
        idempotency_key: &just.idempotency_key,
        look: None,
    };
    let (id, is_new) = seen::add(&mut *tx, &new).await?;
    let all: Vec<Seen> = std::iter::once(kept.seen).chain(just.with).collect();
    let mut advised = Vec::new();
    for seen in &all {
        for advice in advice(&zone, seen, site.site.latitude, today) {
            if !advised.contains(&advice) {
                advised.push(advice);
            }
        }
    }
    let mut answer = Noted {
        id,
        means: walk::means(zone.zone.regime, kept.spot, &all),
        advice: advised,
        changes: None,
    };
    if !is_new {
        return Ok(HttpResponse::Ok().json(answer));
    }
    for (number, seen) in (1..).zip(&all[1..]) {
        let kept = ZoneSeen {
            seen: *seen,
            ..kept.clone()
        };
        let more = NewSeen {
            kept: &kept,
            idempotency_key: &format!("{}+{number}", just.idempotency_key),
            look: Some(id),
            ..new
        };
        seen::add(&mut *tx, &more).await?;
    }
    let most = i64::try_from(MOST_OF_A_ZONE).unwrap_or(i64::MAX);
    if seen::count(&mut *tx, zone_id).await? > most {
        return Err(ApiError::Conflict(format!(
            "this zone has {MOST_OF_A_ZONE} such notes on record; more are not kept"
        )));
    }
    let event = Event::Seen {
        zone: zone.zone.name,
        seen: kept.seen,
        with: all[1..].to_vec(),
        spot: kept.spot,
        date: kept.date,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    answer.changes = Some(replanned_from(&mut tx, access.site, &before, today).await?);
    tx.commit().await?;
    Ok(HttpResponse::Created().json(answer))
}
