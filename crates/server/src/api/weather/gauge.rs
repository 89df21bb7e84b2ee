use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use jiff::civil::Date;
use lawn::ranges;
use lawn::site::Invalid;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::today;
use crate::api::access::{Access, Record};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::db::{sites, weather};
use crate::{clock, planning};

/// A reading of the gauge.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct GaugeReading {
    /// The day on which the rain fell.
    date: Date,
    /// How much.
    rain_mm: f64,
}

/// Adds a reading of the gauge for a day and replans; an earlier reading of that day is voided. The gauge counts before the station.
#[utoipa::path(tag = "weather", operation_id = "add_gauge_reading", params(("site" = i64, Path)), request_body = GaugeReading, responses(
    (status = 204, description = "Added"),
    (status = 422, description = "The date or the depth does not hold", body = Problem)))]
#[post("/sites/{site}/gauge-readings")]
pub(in crate::api) async fn gauge(
    access: Access<Record>,
    pool: Data<PgPool>,
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
    let mut tx = pool.begin().await?;
    sites::lock(&mut *tx, access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = today(&site);
    if reading.date >= today {
        return Err(invalid(
            "date",
            format!(
                "{} is not over yet: a reading belongs to a day before {today}",
                reading.date
            ),
        ));
    }
    weather::add_gauge_reading(
        &mut tx,
        access.site,
        access.account,
        reading.date,
        reading.rain_mm,
        clock::now(site.simulated_now),
    )
    .await?;
    sites::weather_changed(&mut *tx, access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
