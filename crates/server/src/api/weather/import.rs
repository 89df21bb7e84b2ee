use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, post};
use lawn::weather::{WeatherDay, conflict, foreign_guess};
use serde::Serialize;
use utoipa::ToSchema;

use super::{ImportQuery, live, read, reading, today};
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, sites, weather};
use crate::http::body::{Upload, text};
use crate::http::error::{ApiError, Problem};
use crate::http::etag::{check, if_match};
use crate::{clock, planning};

/// What an import did.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Imported {
    /// Observed days written.
    days: usize,
    /// Days of which the live figures were kept.
    kept: usize,
    /// Forecast days written.
    forecast_days: usize,
    weather_version: i64,
}

/// Imports a weather file: all of it or nothing; then replans. `conflicts` says what happens to days that are live with other
/// figures: `keep` or `replace`.
#[utoipa::path(tag = "weather", operation_id = "import_weather",
    params(("site" = i64, Path), ("conflicts" = String, Query),
        ("mapping" = Option<String>, Query, description = "How a foreign file is read: a Mapping as JSON; remembered for files of the same heading"), ("If-Match" = String, Header, description = "weather_version of the preview")),
    request_body(content = String, content_type = "text/csv"), responses(
    (status = 201, description = "Imported", body = Imported),
    (status = 412, description = "The weather changed since the preview", body = Problem),
    (status = 422, description = "Lines that do not hold; nothing was written", body = Problem)))]
#[post("/sites/{site}/weather-imports")]
pub(in crate::api) async fn import(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<HttpResponse, ApiError> {
    let previewed = if_match(&request)?;
    let query = ImportQuery::of(&request)?;
    let replace = query.replaces()?;
    let mapping = query.mapping()?;
    let today = today(&sites::get(db.pool(), access.site).await?);
    let heading = foreign_guess::heading(text(&body)?).ok().flatten();
    let remembered = mapping.clone().zip(heading);
    let file = reading(move || Ok(read(text(&body)?, mapping.as_ref(), today))).await?;
    if !file.errors.is_empty() {
        return Err(ApiError::Lines(file.errors));
    }
    let mut tx = db.write(access.site).await?;
    let version = tx.weather_version;
    check(
        previewed,
        version,
        &serde_json::json!({ "weather_version": version }),
    )?;
    let site = sites::get(&mut *tx, access.site).await?;
    let live = live(&mut *tx, access.site).await?;
    let (forecast, observed): (Vec<WeatherDay>, Vec<WeatherDay>) =
        file.days().into_iter().partition(|d| d.date >= today);
    let given = observed.len();
    let observed = conflict::to_write(&live, observed, replace);
    if let Some((mapping, heading)) = &remembered {
        let mapping =
            serde_json::to_value(mapping).map_err(|e| ApiError::Internal(e.to_string()))?;
        weather::remember_mapping(&mut *tx, access.site, &heading.signature(), &mapping).await?;
    }
    let import =
        weather::insert_import(&mut *tx, access.site, Some(access.account), observed.len()).await?;
    weather::upsert_days(&mut *tx, access.site, &observed, "upload", Some(import)).await?;
    if replace {
        // A file that people chose to count takes the place of what they typed.
        let dates = observed.iter().map(|day| day.date);
        weather::forget_typed(&mut *tx, access.site, dates).await?;
    }
    if !forecast.is_empty() {
        let issued_at = clock::now(site.simulated_now);
        weather::insert_forecast(&mut *tx, access.site, issued_at, &forecast).await?;
    }
    let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
    let event = Event::WeatherImported {
        days: count(observed.len()),
        forecast_days: count(forecast.len()),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    sites::weather_changed(&mut *tx, access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(Imported {
        days: observed.len(),
        kept: given - observed.len(),
        forecast_days: forecast.len(),
        weather_version: version + 1,
    }))
}
