use actix_web::http::header::CONTENT_TYPE;
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, delete, post};
use jiff::ToSpan;
use jiff::civil::Date;
use lawn::days;
use lawn::measure::unlikely;
use lawn::weather::WeatherDay;
use lawn::weather::conflict::{self, LiveDay};
use lawn::weather::file::{self as weather_file, CellError};
use lawn::weather::told::{self, MOST_DAYS, ToldDay};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{reading, today};
use crate::api::access::{Access, Record, Teller, Tells};
use crate::db::history::{self, Event};
use crate::db::{Db, devices, sites, weather};
use crate::http::body::{Upload, parse, text};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Days that are over, as somebody or a station tells them.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct ToldDays {
    days: Vec<ToldDay>,
    /// Whether rain that is seldom so was asked about, and is so. Stations are not asked.
    #[serde(default)]
    sure: bool,
}

/// What became of the days.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Told {
    /// Days that were sent.
    days: usize,
    /// Of these those that are new, or say something else than before.
    changed: u64,
}

/// Tells the weather of days that are over, 400 at most, as JSON or, with the content type `text/csv`, as a weather file. A person types them; a device
/// sends them with its token (`Authorization: Bearer …`). A day told again replaces what the same had told; said again it changes nothing. All of it
/// is taken or nothing; what changes replans.
#[utoipa::path(tag = "weather", operation_id = "tell_weather", params(("site" = i64, Path)),
    request_body(content((ToldDays = "application/json"), (String = "text/csv"))), responses(
    (status = 200, description = "Taken", body = Told),
    (status = 401, description = "Neither signed in nor a device's token", body = Problem),
    (status = 413, description = "More than 400 days", body = Problem),
    (status = 422, description = "A day or a line that does not hold; nothing was written", body = Problem)))]
#[post("/sites/{site}/weather-days")]
pub(in crate::api) async fn tell(
    tells: Tells,
    request: HttpRequest,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<HttpResponse, ApiError> {
    let today = today(&sites::get(db.pool(), tells.site).await?);
    let is_csv = request
        .headers()
        .get(CONTENT_TYPE)
        .and_then(|v| v.to_str().ok())
        .is_some_and(|kind| kind.starts_with("text/csv"));
    let (days, sure) = reading(move || match is_csv {
        true => Ok((of_file(text(&body)?, today)?, true)),
        false => {
            let told: ToldDays = parse(&body)?;
            few(told.days.len())?;
            Ok((told::days(&told.days, today)?, told.sure))
        }
    })
    .await?;
    let origin = match tells.teller {
        Teller::Person(_) => "typed",
        Teller::Device(_) => "pushed",
    };
    if let Teller::Person(_) = tells.teller {
        let wettest = days
            .iter()
            .filter_map(|day| day.rain_mm)
            .fold(0.0, f64::max);
        ApiError::ask("rain_mm", unlikely::rain(wettest), sure)?;
        let air = days.iter().flat_map(|day| [day.tmin_c, day.tmax_c]);
        ApiError::ask("tmax_c", unlikely::temperature(air.flatten()), sure)?;
    }
    let mut tx = db.write(tells.site).await?;
    let days = match (tells.teller, days.first(), days.last()) {
        (Teller::Person(_), Some(first), Some(last)) => {
            let live = weather::days(&mut *tx, tells.site, first.date, last.date).await?;
            let live: Vec<LiveDay> = live.into_iter().map(LiveDay::from).collect();
            let days = days.into_iter();
            days.map(|day| conflict::typed_over(&live, day)).collect()
        }
        _ => days,
    };
    let changed = weather::upsert_days(&mut *tx, tells.site, &days, origin, None).await?;
    if let Teller::Device(device) = tells.teller {
        devices::used(&mut *tx, device).await?;
    }
    if changed > 0 {
        if let (Teller::Person(account), [first, .., last] | [first @ last]) =
            (tells.teller, days.as_slice())
        {
            let event = Event::WeatherTyped {
                from: first.date,
                to: last.date,
                days: u32::try_from(days.len()).unwrap_or(u32::MAX),
            };
            history::note(&mut *tx, tells.site, account, &event).await?;
        }
        sites::weather_changed(&mut *tx, tells.site).await?;
        planning::replan(&mut tx, tells.site).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::Ok().json(Told {
        days: days.len(),
        changed,
    }))
}

/// Takes back what was typed of a day: what a file, a station or the service says of it counts again. Said again it changes nothing.
#[utoipa::path(tag = "weather", operation_id = "forget_weather", params(("site" = i64, Path), ("date" = Date, Path)), responses(
    (status = 204, description = "Taken back"),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "No day of this calendar", body = Problem)))]
#[delete("/sites/{site}/weather-days/{date}")]
pub(in crate::api) async fn forget_weather(
    access: Access<Record>,
    path: Path<(String, Date)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let date = path.1;
    days::check("date", date, days::LAST)?;
    let mut tx = db.write(access.site).await?;
    if weather::forget_typed(&mut *tx, access.site, [date]).await? > 0 {
        let event = Event::WeatherForgotten { date };
        history::note(&mut *tx, access.site, access.account, &event).await?;
        sites::weather_changed(&mut *tx, access.site).await?;
        planning::replan(&mut tx, access.site).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Whether so many days are taken at once.
fn few(days: usize) -> Result<(), ApiError> {
    match days {
        0 => Err(ApiError::Malformed {
            field: Some("days".to_owned()),
            message: "no day".to_owned(),
        }),
        1..=MOST_DAYS => Ok(()),
        more => Err(ApiError::TooManyDays(more)),
    }
}

/// The days of a weather file, each over and told once.
fn of_file(text: &str, today: Date) -> Result<Vec<WeatherDay>, ApiError> {
    let mut file = weather_file::read(text);
    let yesterday = today.saturating_sub(1.day());
    let repeated = file.repeated();
    file.errors.extend(repeated);
    let early = file.rows.iter().filter_map(|row| {
        let error = told::is_over("date", row.day.date, yesterday).err()?;
        Some(CellError {
            line: row.line,
            column: error.field,
            message: error.message,
        })
    });
    let early: Vec<CellError> = early.collect();
    file.errors.extend(early);
    if !file.errors.is_empty() {
        file.errors.sort_by_key(|e| e.line);
        file.errors.truncate(weather_file::MOST_ERRORS);
        return Err(ApiError::Lines(file.errors));
    }
    few(file.rows.len())?;
    Ok(file.days())
}
