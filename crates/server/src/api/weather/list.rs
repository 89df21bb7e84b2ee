use actix_web::web::{Data, Query};
use actix_web::{HttpResponse, get};
use jiff::civil::Date;
use lawn::weather::{WeatherDay, place};
use science::reference_et::{Choice, Station};
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use utoipa::{IntoParams, ToSchema};

use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::api::etag::etag;
use crate::db::{sites, weather};

/// Which days.
#[derive(Deserialize, IntoParams)]
pub(in crate::api) struct Days {
    /// First day.
    from: Date,
    /// Last day.
    to: Date,
}

/// A day as it is stored, with its reference ET.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WeatherRow {
    day: WeatherDay,
    /// `upload`, `service` or `gauge`.
    origin: String,
    /// Whether the rain is the gauge's.
    by_gauge: bool,
    /// The station's rain: the file's or the service's.
    station_rain_mm: Option<f64>,
    /// The gauge's rain.
    gauge_rain_mm: Option<f64>,
    /// The service's rain where a file counts before it.
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
#[utoipa::path(tag = "weather", operation_id = "list_weather", params(("site" = i64, Path), Days), responses(
    (status = 200, description = "The days", body = WeatherList),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/weather")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    days: Query<Days>,
    pool: Data<PgPool>,
) -> Result<HttpResponse, ApiError> {
    let site = sites::get(pool.as_ref(), access.site).await?;
    let station = Station::new(&place(&site.site));
    let rows = weather::days(pool.as_ref(), access.site, days.from, days.to).await?;
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
