//! Daily weather: list, export, import with a preview, the gauge.

use actix_web::HttpRequest;
use jiff::civil::Date;
use lawn::weather::WeatherDay;
use lawn::weather_csv;
use sqlx::PgExecutor;

use super::error::ApiError;
use crate::clock;
use crate::db::sites::SiteRow;
use crate::db::weather::StoredDay;
use crate::db::{self, SiteId};
use crate::planning::FIRST_DAY;

mod choice;
mod export;
mod gauge;
mod import;
mod list;
mod preview;
mod record;

pub(super) use choice::*;
pub(super) use export::*;
pub(super) use gauge::*;
pub(super) use import::*;
pub(super) use list::*;
pub(super) use preview::*;
pub(super) use record::*;

/// Reads an uploaded file: every line that does not hold, or rows of distinct dates in date order.
fn read(body: &[u8]) -> Result<weather_csv::File, ApiError> {
    let text = std::str::from_utf8(body).map_err(|error| ApiError::Malformed {
        field: None,
        message: format!(
            "the file is not UTF-8 text (byte {}); save it as UTF-8 CSV",
            error.valid_up_to() + 1
        ),
    })?;
    let mut file = weather_csv::read(text);
    let repeated = file.repeated();
    file.errors.extend(repeated);
    file.errors.sort_by_key(|e| e.line);
    Ok(file)
}

/// What of a stored day a file can differ in.
fn same(live: &StoredDay, new: &WeatherDay) -> bool {
    let mut stored = live.day.clone();
    if live.by_gauge {
        stored.rain_mm = live.station_rain_mm;
    }
    stored.rain_probability_pct = None;
    let mut new = new.clone();
    new.rain_probability_pct = None;
    stored == new
}

/// The last day that may be observed by a site's clock: yesterday. Later rows of a file are a forecast.
fn today(site: &SiteRow) -> Date {
    clock::local_date(clock::now(site.simulated_now), &site.site.time_zone)
}

/// All observed days of a site.
async fn stored(db: impl PgExecutor<'_>, site: SiteId) -> Result<Vec<StoredDay>, ApiError> {
    Ok(db::weather::days(db, site, FIRST_DAY, Date::MAX).await?)
}

/// The choice `conflicts=keep` or `replace` of a request's query.
fn replaces(request: &HttpRequest) -> Result<bool, ApiError> {
    match request.query_string() {
        "conflicts=keep" => Ok(false),
        "conflicts=replace" => Ok(true),
        _ => Err(ApiError::Malformed {
            field: Some("conflicts".to_owned()),
            message: "say conflicts=keep or conflicts=replace".to_owned(),
        }),
    }
}
