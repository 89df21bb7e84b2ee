//! A simulated clock: steps forward, by a manager, and every 03:00 and end of a window on the way happens.

use actix_web::post;
use actix_web::web::{Data, Json};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::days;
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::access::{Access, Manage};
use super::sites::SiteView;
use crate::clock;
use crate::controller_service::ControllerService;
use crate::controlling;
use crate::db::history::{self, Event};
use crate::db::{Db, SiteId, is_away, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
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
    /// Days, at most 31; with `hours` at least 1 of either.
    #[serde(default)]
    days: i64,
    /// Hours beyond them, at most 23: new grass is watered several times a day.
    #[serde(default)]
    hours: i64,
}

/// The site after a step.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Stepped {
    #[serde(flatten)]
    site: SiteView,
    /// Why the clock stopped before the day that was asked for; what happened until then stands. `null`: it did not.
    stopped: Option<String>,
}

/// Steps a simulated clock. A step of three days is three steps of one: each 03:00 asks the weather service and replans, each window's
/// end settles what ran. Where it fails on the way, the answer says how far it came.
#[utoipa::path(tag = "sites", operation_id = "step_clock", params(("site" = i64, Path)), request_body = Step, responses(
    (status = 200, description = "The site now", body = Stepped),
    (status = 409, description = "The clock is real, or was stepped meanwhile", body = Problem),
    (status = 422, description = "Not 1 hour to 31 days", body = Problem)))]
#[post("/sites/{site}/clock-steps")]
pub(super) async fn step(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(step): Body<Step>,
) -> Result<Json<Stepped>, ApiError> {
    if !(0..=MOST_DAYS).contains(&step.days) || (step.days, step.hours) == (0, 0) {
        return Err(Invalid::new(
            "days",
            format!("step 1 to {MOST_DAYS} days, not {}", step.days),
        )
        .into());
    }
    if !(0..24).contains(&step.hours) {
        return Err(Invalid::new(
            "hours",
            format!(
                "step at most 23 hours beyond whole days, not {}",
                step.hours
            ),
        )
        .into());
    }
    let site = sites::get(db.pool(), access.site).await?;
    let now = simulated(site.simulated_now, step.from)?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let target = now
        .to_zoned(zone)
        .checked_add(step.days.days().hours(step.hours))
        .map_err(|_| Invalid::new("days", "that is beyond the end of time"))?
        .timestamp();
    days::check(
        "days",
        clock::local_date(target, &site.site.time_zone),
        days::LAST,
    )?;
    let service = WeatherService::of(&settings).map_err(|e| ApiError::Internal(e.to_string()))?;
    let controllers =
        ControllerService::of(&settings).map_err(|e| ApiError::Internal(e.to_string()))?;
    let mut steps = Steps {
        db: &db,
        site: access.site,
        at: now,
        asks: service.as_ref(),
        controllers: controllers.as_ref(),
    };
    let failed = steps.walk(target).await.err();
    let stopped = match failed {
        None => None,
        // Nothing happened at all: an error like any other.
        Some(error) if steps.at == now => return Err(error),
        Some(error) => {
            tracing::error!(site = access.site.0, %error, at = %steps.at, "a clock step broke off");
            Some(match error {
                ApiError::Conflict(said) => said,
                ApiError::Database(error) if is_away(&error) => {
                    "the database is away or busy".to_owned()
                }
                _ => "a day could not be planned".to_owned(),
            })
        }
    };
    let mut tx = db.write(access.site).await?;
    let event = Event::ClockStepped { to: steps.at };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let row = sites::get(&mut *tx, access.site).await?;
    tx.commit().await?;
    Ok(Json(Stepped {
        site: SiteView::from(row),
        stopped,
    }))
}

/// A walk through the events of a site's days.
struct Steps<'a> {
    db: &'a Db,
    site: SiteId,
    /// How far the clock has come.
    at: Timestamp,
    /// A service that fails once is not asked again.
    asks: Option<&'a WeatherService>,
    /// Likewise.
    controllers: Option<&'a ControllerService>,
}

impl Steps<'_> {
    async fn walk(&mut self, target: Timestamp) -> Result<(), ApiError> {
        loop {
            let next = sites::next_event(self.db.pool(), self.site)
                .await?
                .max(self.at);
            if next > target {
                break;
            }
            self.advance(next).await?;
            if let Some(service) = self.asks
                && weather_service::fetch(self.db, service, self.site, false)
                    .await?
                    .is_some()
            {
                self.asks = None;
            }
            let mut tx = self.db.write(self.site).await?;
            rounds::round(&mut tx, self.site).await?;
            tx.commit().await?;
            self.attend().await?;
        }
        self.advance(target).await?;
        self.attend().await
    }

    /// Lets the site's controller live on to where the clock is.
    async fn attend(&mut self) -> Result<(), ApiError> {
        if let Some(controllers) = self.controllers
            && controlling::attend(self.db, controllers, self.site)
                .await?
                .is_some()
        {
            self.controllers = None;
        }
        Ok(())
    }

    /// Moves the clock from where this walk left it; nobody else may have moved it.
    async fn advance(&mut self, to: Timestamp) -> Result<(), ApiError> {
        let mut tx = self.db.write(self.site).await?;
        let current = sites::get(&mut *tx, self.site).await?.simulated_now;
        simulated(current, self.at)?;
        sites::set_clock(&mut *tx, self.site, to).await?;
        tx.commit().await?;
        self.at = to;
        Ok(())
    }
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
