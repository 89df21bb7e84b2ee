use actix_web::post;
use actix_web::web::{Data, Json, Path};
use jiff::{SignedDuration, Timestamp};
use lawn::record::told_minutes::{Batch, Hours};
use lawn::site::Invalid;
use lawn::site::meter::Meter;
use serde::Serialize;
use sqlx::PgConnection;
use utoipa::ToSchema;

use super::meter;
use crate::api::access::{Teller, Tells};
use crate::clock;
use crate::db::meters::MeterId;
use crate::db::{Db, SiteId, devices, flow, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// How far the meter's clock may be ahead, s.
const AHEAD_S: i64 = 120;

/// What was kept.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct KeptPulses {
    /// Minutes that were counted.
    minutes: usize,
}

/// Keeps what a flow meter counted by the minute. Sent again, late or out of order it is kept once: a minute stays as it was first told.
#[utoipa::path(tag = "water book", operation_id = "tell_pulses", params(("site" = i64, Path), ("meter" = i64, Path)), request_body = Batch, responses(
    (status = 200, description = "Kept", body = KeptPulses),
    (status = 404, description = "No such meter here", body = Problem),
    (status = 422, description = "A minute to come, or not a full one", body = Problem)))]
#[post("/sites/{site}/meters/{meter}/pulses")]
pub(in crate::api) async fn tell_pulses(
    teller: Tells,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(batch): Body<Batch>,
) -> Result<Json<KeptPulses>, ApiError> {
    let id = MeterId(path.1);
    let mut db = db.pool().acquire().await?;
    let row = meter(&mut db, teller.site, id).await?;
    counts_pulses(&row.meter)?;
    let latest = latest(&mut db, teller.site).await?;
    batch.validate(latest)?;
    flow::keep(&mut db, id, &Hours::of(&batch)).await?;
    if let Teller::Device(device) = teller.teller {
        devices::used(&mut *db, device).await?;
    }
    Ok(Json(KeptPulses {
        minutes: batch.counts.iter().flatten().count(),
    }))
}

/// Refuses a meter of which nobody said what a pulse stands for.
pub(super) fn counts_pulses(meter: &Meter) -> Result<(), ApiError> {
    if meter.pulse_l.is_none() {
        let message = "nobody said what a pulse of this meter stands for";
        return Err(Invalid::new("pulse_l", message).into());
    }
    Ok(())
}

/// The instant after which no minute may end.
pub(super) async fn latest(db: &mut PgConnection, site: SiteId) -> Result<Timestamp, ApiError> {
    let site = sites::get(db, site).await?;
    Ok(clock::now(site.simulated_now) + SignedDuration::from_secs(AHEAD_S))
}
