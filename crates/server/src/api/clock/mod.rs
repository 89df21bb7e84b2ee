//! A simulated clock: steps forward, by a manager, and every 03:00 and end of a window on the way happens.

use actix_web::post;
use actix_web::web::{Data, Json};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::site::Invalid;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::access::{Access, Manage};
use super::body::Body;
use super::error::{ApiError, Problem};
use super::sites::SiteView;
use crate::db::history::{self, Event};
use crate::db::{SiteId, sites};
use crate::rounds;
use crate::settings::Settings;
use crate::weather_service::{self, WeatherService};

/// Most days of one step.
const MOST_DAYS: i64 = 31;

/// How far to step.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct Step {
    /// The clock that the reader saw; another: somebody stepped it meanwhile.
    from: Timestamp,
    /// Days, 1 to 31.
    days: i64,
}

/// Steps a simulated clock. A step of three days is three steps of one: each 03:00 asks the weather service and replans, each window's
/// end settles what ran.
#[utoipa::path(tag = "sites", operation_id = "step_clock", params(("site" = i64, Path)), request_body = Step, responses(
    (status = 200, description = "The site now", body = SiteView),
    (status = 409, description = "The clock is real, or was stepped meanwhile", body = Problem),
    (status = 422, description = "Not 1 to 31 days", body = Problem)))]
#[post("/sites/{site}/clock-steps")]
pub(super) async fn step(
    access: Access<Manage>,
    pool: Data<PgPool>,
    settings: Data<Settings>,
    Body(step): Body<Step>,
) -> Result<Json<SiteView>, ApiError> {
    if !(1..=MOST_DAYS).contains(&step.days) {
        return Err(Invalid {
            field: "days".to_owned(),
            message: format!("step 1 to {MOST_DAYS} days, not {}", step.days),
        }
        .into());
    }
    let site = sites::get(pool.as_ref(), access.site).await?;
    let now = simulated(site.simulated_now, step.from)?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let target = now
        .to_zoned(zone)
        .checked_add(step.days.days())
        .map_err(|e| ApiError::Internal(e.to_string()))?
        .timestamp();

    let service = settings.weather_url.as_deref().map(WeatherService::new);
    // A service that fails once is not asked again in this step.
    let mut asks = service.as_ref();
    let mut at = now;
    loop {
        let next = sites::next_event(pool.as_ref(), access.site).await?.max(at);
        if next > target {
            break;
        }
        let mut tx = pool.begin().await?;
        advance(&mut tx, access.site, at, next).await?;
        tx.commit().await?;
        at = next;
        if let Some(service) = asks
            && weather_service::fetch(&pool, service, access.site, false)
                .await?
                .is_some()
        {
            asks = None;
        }
        let mut tx = pool.begin().await?;
        sites::lock(&mut *tx, access.site).await?;
        rounds::round(&mut tx, access.site).await?;
        tx.commit().await?;
    }
    let mut tx = pool.begin().await?;
    advance(&mut tx, access.site, at, target).await?;
    let event = Event::ClockStepped { to: target };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let row = sites::get(&mut *tx, access.site).await?;
    tx.commit().await?;
    Ok(Json(SiteView::from(row)))
}

fn simulated(clock: Option<Timestamp>, seen: Timestamp) -> Result<Timestamp, ApiError> {
    let now = clock.ok_or_else(|| {
        ApiError::Conflict("this site's clock is the real one and cannot be stepped".to_owned())
    })?;
    if now == seen {
        Ok(now)
    } else {
        Err(ApiError::Conflict(format!(
            "somebody stepped the clock meanwhile: it says {now}"
        )))
    }
}

/// Moves the clock from where this step left it; nobody else may have moved it.
async fn advance(
    db: &mut sqlx::PgConnection,
    site: SiteId,
    from: Timestamp,
    to: Timestamp,
) -> Result<(), ApiError> {
    sites::lock(&mut *db, site).await?;
    let current = sites::get(&mut *db, site).await?.simulated_now;
    simulated(current, from)?;
    sites::set_clock(&mut *db, site, to).await?;
    Ok(())
}
