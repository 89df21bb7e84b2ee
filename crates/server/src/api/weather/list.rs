use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use lawn::weather::{WeatherDay, place};
use science::reference_et::{Choice, Station};
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::db::{Db, sites, weather};
use crate::http::error::{ApiError, Problem};
use crate::http::etag::etag;
use crate::http::query::{Asked, Stretch};

/// A day as it is stored, with its reference ET.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WeatherRow {
    day: WeatherDay,
    /// `typed`, `upload`, `pushed`, `service`, or `gauge` where there is a reading alone.
    origin: String,
    /// Whether the rain is the gauge's.
    by_gauge: bool,
    /// The station's rain: as typed, the file's, sent or the service's.
    station_rain_mm: Option<f64>,
    /// The gauge's rain.
    gauge_rain_mm: Option<f64>,
    /// The service's rain where something else counts before it.
    service_rain_mm: Option<f64>,
    /// Whose rain the manager chose: `gauge` or `station`; `null`: by the rule.
    chosen: Option<String>,
    /// Reference ET; `null` without both temperatures.
    et0_mm: Option<f64>,
}

/// Weather of a stretch of days.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WeatherList {
    days: Vec<WeatherRow>,
    version: i64,
}

/// Observed days of a stretch; the ETag is the version of the site's weather.
#[utoipa::path(tag = "weather", operation_id = "list_weather", params(("site" = i64, Path), Stretch), responses(
    (status = 200, description = "The days", body = WeatherList),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "A day that no record may name", body = Problem)))]
#[get("/sites/{site}/weather")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    Asked(days): Asked<Stretch>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let days = days.checked()?;
    let site = sites::get(db.pool(), access.site).await?;
    let station = Station::new(&place(&site.site));
    let rows = weather::days(db.pool(), access.site, days.from, days.to).await?;
    let days = rows
        .into_iter()
        .map(|row| WeatherRow {
            et0_mm: row
                .day
                .reference_et(&station, Choice::Auto)
                .ok()
                .flatten()
                .map(|et| et.et0_mm),
            origin: row.origin,
            by_gauge: row.by_gauge,
            station_rain_mm: row.station_rain_mm,
            gauge_rain_mm: row.gauge_rain_mm,
            service_rain_mm: row.service_rain_mm,
            chosen: row.chosen,
            day: row.day,
        })
        .collect();
    Ok(HttpResponse::Ok()
        .insert_header(etag(site.weather_version))
        .json(WeatherList {
            days,
            version: site.weather_version,
        }))
}
