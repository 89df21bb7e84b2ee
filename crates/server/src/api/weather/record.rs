use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use jiff::civil::Date;
use lawn::weather::WeatherDay;
use lawn::weather::verification::{FELL_MM, Forecast, Verification, verify};
use serde::Serialize;
use utoipa::ToSchema;

use super::today;
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::{Db, runs, sites, weather};
use crate::http::error::{ApiError, Problem};

/// Days that the page looks back over.
const BACK_DAYS: i64 = 90;
/// Days after a hold within which rain counts as the rain it waited for.
const WAITED_DAYS: i64 = 3;

/// A hold for rain and what came of it.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct HoldOutcome {
    zone_name: String,
    date: Date,
    /// Probability of rain until the next opportunity, %, as it was said.
    probability_pct: f64,
    /// Rain that was expected by then.
    expected_mm: f64,
    /// Rain that fell on the day and the two after it, as far as they are over.
    fell_mm: f64,
    /// Whether those days are all over.
    decided: bool,
    /// Whether rain fell.
    came: bool,
}

/// How past forecasts and holds turned out.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ForecastRecord {
    from: Date,
    to: Date,
    forecasts: Verification,
    holds: Vec<HoldOutcome>,
}

/// How the forecasts and holds of the last ninety days turned out.
#[utoipa::path(tag = "weather", operation_id = "show_forecast_record", params(("site" = i64, Path)), responses(
    (status = 200, description = "The record", body = ForecastRecord),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/forecast-record")]
pub(in crate::api) async fn show_record(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<ForecastRecord>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let to = today(&site).saturating_sub(1.day());
    let from = to.saturating_sub((BACK_DAYS - 1).days());
    let observed: Vec<WeatherDay> = weather::days(db.pool(), access.site, from, to)
        .await?
        .into_iter()
        .map(|d| d.day)
        .collect();
    let issued = weather::issued(db.pool(), access.site, from, to).await?;
    // Of several forecasts of a day for a day, the last counts.
    let mut forecasts: Vec<Forecast> = Vec::with_capacity(issued.len());
    for row in issued {
        let day = clock::local_date(row.issued_at, &site.site.time_zone);
        let lead = day.until(row.day.date).map_or(-1, |s| s.get_days());
        let Ok(lead) = u8::try_from(lead) else {
            continue;
        };
        let forecast = Forecast { lead, day: row.day };
        match forecasts.last_mut() {
            Some(last) if last.lead == lead && last.day.date == forecast.day.date => {
                *last = forecast;
            }
            _ => forecasts.push(forecast),
        }
    }
    let holds = runs::holds(db.pool(), &[(access.site, from)])
        .await?
        .into_values()
        .flatten()
        .map(|hold| {
            let last = hold.date.saturating_add((WAITED_DAYS - 1).days());
            let fell_mm: f64 = observed
                .iter()
                .filter(|d| hold.date <= d.date && d.date <= last)
                .filter_map(|d| d.rain_mm)
                .sum();
            HoldOutcome {
                probability_pct: hold.probability_pct,
                expected_mm: hold.expected_mm,
                zone_name: hold.zone_name,
                date: hold.date,
                decided: last <= to,
                came: fell_mm >= FELL_MM,
                fell_mm,
            }
        })
        .collect();
    Ok(Json(ForecastRecord {
        from,
        to,
        forecasts: verify(&forecasts, &observed),
        holds,
    }))
}
