use actix_web::post;
use actix_web::web::{Data, Json, Path};
use jiff::{SignedDuration, Timestamp};
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::meter;
use crate::api::access::Tells;
use crate::clock;
use crate::db::meters::MeterId;
use crate::db::{Db, flow, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Most minutes of a batch: a week.
const MOST_MINUTES: usize = 7 * 24 * 60;
/// Most pulses of a minute.
const MOST_PULSES: u16 = 30_000;
/// How far the meter's clock may be ahead, s.
const AHEAD_S: i64 = 120;

/// What a flow meter counted.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Pulses {
    /// The first minute, a full one.
    from: Timestamp,
    /// Pulses of each minute from then on, at most a week of them; `null`: it did not count.
    counts: Vec<Option<u16>>,
}

/// What was kept.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct KeptPulses {
    /// Minutes that were counted.
    minutes: usize,
}

/// Keeps what a flow meter counted by the minute. Sent again, late or out of order it is kept once: a minute stays as it was first told.
#[utoipa::path(tag = "water book", operation_id = "tell_pulses", params(("site" = i64, Path), ("meter" = i64, Path)), request_body = Pulses, responses(
    (status = 200, description = "Kept", body = KeptPulses),
    (status = 404, description = "No such meter here", body = Problem),
    (status = 422, description = "A minute to come, or not a full one", body = Problem)))]
#[post("/sites/{site}/meters/{meter}/pulses")]
pub(in crate::api) async fn tell_pulses(
    teller: Tells,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(pulses): Body<Pulses>,
) -> Result<Json<KeptPulses>, ApiError> {
    let id = MeterId(path.1);
    let mut db = db.pool().acquire().await?;
    let row = meter(&mut db, teller.site, id).await?;
    let invalid = |field: &str, message: String| ApiError::Invalid(Invalid::new(field, message));
    if row.meter.pulse_l.is_none() {
        let message = "nobody said what a pulse of this meter stands for".to_owned();
        return Err(invalid("pulse_l", message));
    }
    if pulses.from.as_second().rem_euclid(60) != 0 || pulses.from.subsec_nanosecond() != 0 {
        return Err(invalid("from", "not a full minute".to_owned()));
    }
    if pulses.counts.is_empty() || pulses.counts.len() > MOST_MINUTES {
        let message = format!("1 to {MOST_MINUTES} minutes, not {}", pulses.counts.len());
        return Err(invalid("counts", message));
    }
    if let Some(at) = (pulses.counts.iter()).position(|n| n.is_some_and(|n| n > MOST_PULSES)) {
        let message = format!("at most {MOST_PULSES} pulses in a minute");
        return Err(invalid(&format!("counts[{at}]"), message));
    }
    let site = sites::get(&mut *db, teller.site).await?;
    let minutes = i64::try_from(pulses.counts.len()).unwrap_or(i64::MAX);
    let ends = pulses.from + SignedDuration::from_mins(minutes);
    let latest = clock::now(site.simulated_now) + SignedDuration::from_secs(AHEAD_S);
    if ends > latest {
        return Err(invalid(
            "counts",
            format!("they reach to {ends}, which is still to come"),
        ));
    }
    let first: Timestamp = lawn::days::FIRST
        .at(0, 0, 0, 0)
        .in_tz("UTC")
        .map_or(Timestamp::MIN, |day| day.timestamp());
    if pulses.from < first {
        return Err(invalid("from", format!("before {}", lawn::days::FIRST)));
    }
    flow::keep(&mut *db, id, pulses.from, &pulses.counts).await?;
    Ok(Json(KeptPulses {
        minutes: pulses.counts.iter().flatten().count(),
    }))
}
