//! Daily weather: list, export, import with a preview, the gauge.

use actix_web::FromRequest;
use actix_web::HttpRequest;
use actix_web::dev::Payload;
use jiff::civil::Date;
use lawn::weather::conflict::LiveDay;
use lawn::weather::foreign::{self, Mapping};
use lawn::weather::{file as weather_file, ghcn};
use serde::Deserialize;
use sqlx::PgExecutor;

use crate::clock;
use crate::db::sites::SiteRow;
use crate::db::{self, SiteId};
use crate::http::body::parse;
use crate::http::error::ApiError;
use crate::http::query::Asked;
use lawn::days;

mod choice;
mod export;
mod gauge;
mod import;
mod list;
mod preview;
mod record;
mod tell;

pub(super) use choice::*;
pub(super) use export::*;
pub(super) use gauge::*;
pub(super) use import::*;
pub(super) use list::*;
pub(super) use preview::*;
pub(super) use record::*;
pub(super) use tell::*;

/// Reads an uploaded file, by a mapping where one was chosen: every line that does not hold, or rows of distinct dates that the site may
/// have weather of. A long file takes its time: to be called on the blocking pool.
fn read(text: &str, mapping: Option<&Mapping>, today: Date) -> weather_file::File {
    let mut file = match mapping {
        Some(mapping) => foreign::read(text, mapping),
        None if ghcn::is_ghcn(text) => ghcn::read(text),
        None => weather_file::read(text),
    };
    let repeated = file.repeated();
    file.errors.extend(repeated);
    let outside = file.outside(days::last_of_weather(today));
    file.errors.extend(outside);
    file.errors.sort_by_key(|e| e.line);
    file.errors.truncate(weather_file::MOST_ERRORS);
    file
}

/// Runs the reading of a file on the blocking pool.
async fn reading<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|e| ApiError::Internal(e.to_string()))?
}

/// The request's query, with a mapping of columns as JSON if one was chosen.
#[derive(Deserialize)]
struct ImportQuery {
    conflicts: Option<String>,
    mapping: Option<String>,
}

impl ImportQuery {
    fn of(request: &HttpRequest) -> Result<Self, ApiError> {
        Asked::from_request(request, &mut Payload::None)
            .into_inner()
            .map(|asked| asked.0)
    }

    fn mapping(&self) -> Result<Option<Mapping>, ApiError> {
        let Some(json) = &self.mapping else {
            return Ok(None);
        };
        parse(json.as_bytes())
            .map(Some)
            .map_err(|error| match error {
                ApiError::Malformed { message, .. } => ApiError::Malformed {
                    field: Some("mapping".to_owned()),
                    message,
                },
                other => other,
            })
    }

    /// What happens to days that are live with other figures.
    fn replaces(&self) -> Result<bool, ApiError> {
        match self.conflicts.as_deref() {
            Some("keep") => Ok(false),
            Some("replace") => Ok(true),
            _ => Err(ApiError::Malformed {
                field: Some("conflicts".to_owned()),
                message: "say conflicts=keep or conflicts=replace".to_owned(),
            }),
        }
    }
}

/// The last day that may be observed by a site's clock: yesterday. Later rows of a file are a forecast.
fn today(site: &SiteRow) -> Date {
    clock::local_date(clock::now(site.simulated_now), &site.site.time_zone)
}

/// All observed days of a site, as a file can differ from them.
async fn live(db: impl PgExecutor<'_>, site: SiteId) -> Result<Vec<LiveDay>, ApiError> {
    let stored = db::weather::days(db, site, days::FIRST, days::LAST).await?;
    Ok(stored.into_iter().map(LiveDay::from).collect())
}
