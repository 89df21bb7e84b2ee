use actix_web::http::header::CONTENT_DISPOSITION;
use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use lawn::weather::WeatherDay;
use lawn::weather::file as weather_file;

use super::{live, today};
use crate::api::access::{Access, Read};
use crate::db::{Db, sites, weather};
use crate::http::error::{ApiError, Problem};

/// The weather that plans read, as CSV: days observed, then the newest forecast (docs/formats/weather.md).
#[utoipa::path(tag = "weather", operation_id = "export_weather", params(("site" = i64, Path)), responses(
    (status = 200, description = "The days", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/weather.csv")]
pub(in crate::api) async fn export(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = today(&site);
    let mut days: Vec<WeatherDay> = live(db.pool(), access.site)
        .await?
        .into_iter()
        .map(|row| row.day)
        .filter(|day| day.date < today)
        .collect();
    days.extend(weather::forecast(db.pool(), access.site, today).await?);
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((CONTENT_DISPOSITION, "attachment; filename=\"weather.csv\""))
        .body(weather_file::write(&days)))
}
