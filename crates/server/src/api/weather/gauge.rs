use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use jiff::ToSpan;
use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use lawn::measure::unlikely;
use lawn::site::Invalid;
use lawn::{days, ranges};
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, sites, weather};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// Until then a reading belongs to the day before (common practice).
const NOON: Time = Time::constant(12, 0, 0, 0);

/// A reading of the gauge.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct GaugeReading {
    /// The day on which the rain fell; absent: by the hour of reading, the day before until noon, then the day itself.
    #[serde(default)]
    date: Option<Date>,
    /// How much.
    rain_mm: f64,
    /// Whether an amount that is seldom so was asked about, and is so.
    #[serde(default)]
    sure: bool,
}

/// Adds a reading of the gauge for a day and replans; an earlier reading of that day is voided. The gauge counts before the station,
/// unless the manager chose otherwise for the day. A reading before noon belongs to the day before.
#[utoipa::path(tag = "weather", operation_id = "add_gauge_reading", params(("site" = i64, Path)), request_body = GaugeReading, responses(
    (status = 204, description = "Added"),
    (status = 422, description = "The date or the depth does not hold", body = Problem)))]
#[post("/sites/{site}/gauge-readings")]
pub(in crate::api) async fn gauge(
    access: Access<Record>,
    db: Data<Db>,
    Body(reading): Body<GaugeReading>,
) -> Result<HttpResponse, ApiError> {
    let invalid = |field: &str, message: String| {
        ApiError::Invalid(Invalid {
            field: field.to_owned(),
            message,
        })
    };
    ranges::RAIN
        .check(reading.rain_mm)
        .map_err(|error| invalid("rain_mm", error.to_string()))?;
    ApiError::ask("rain_mm", unlikely::rain(reading.rain_mm), reading.sure)?;
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let now = clock::now(site.simulated_now);
    let local = now
        .to_zoned(TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC))
        .datetime();
    let latest = if local.time() < NOON {
        local.date().saturating_sub(1.day())
    } else {
        local.date()
    };
    let date = reading.date.unwrap_or(latest);
    days::check("date", date, days::LAST)?;
    if date > latest {
        return Err(invalid(
            "date",
            format!(
                "a reading before noon belongs to the day before: {latest} at the latest, not {date}"
            ),
        ));
    }
    weather::add_gauge_reading(
        &mut tx,
        access.site,
        access.account,
        date,
        reading.rain_mm,
        now,
    )
    .await?;
    let event = Event::GaugeRead {
        date,
        rain_mm: reading.rain_mm,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    sites::weather_changed(&mut *tx, access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
