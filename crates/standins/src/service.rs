//! The weather service over HTTP: observed days and forecasts as CSV, never a day after the caller's instant.
//!
//! `GET /v1/observed?seed&climate&latitude&elevation_m&as_of&from&to` and `GET /v1/forecast?seed&climate&latitude&elevation_m&as_of`;
//! `as_of` is the caller's local civil instant. `PUT /v1/mood/{fine|slow|nonsense|down}` makes it fail, for tests and the demo.

use std::net::TcpListener;
use std::sync::Mutex;
use std::time::Duration;

use actix_web::dev::Server;
use actix_web::web::{Data, Path, Query, get, put};
use actix_web::{App, HttpResponse, HttpServer};
use jiff::civil::{Date, DateTime};
use serde::Deserialize;

use crate::climate::Climate;
use crate::weather::{Day, Place, Weather};

/// Most days of one answer.
const MOST_DAYS: i32 = 4000;

/// How the service behaves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "kebab-case")]
pub enum Mood {
    /// It answers.
    Fine,
    /// It takes a minute.
    Slow,
    /// It answers nonsense.
    Nonsense,
    /// It answers 503.
    Down,
}

#[derive(Deserialize)]
struct Asked {
    seed: u64,
    climate: Climate,
    latitude: f64,
    elevation_m: f64,
    as_of: DateTime,
}

#[derive(Deserialize)]
struct Stretch {
    from: Date,
    to: Date,
}

impl Asked {
    fn weather(&self) -> Weather {
        let place = Place {
            latitude_deg: self.latitude.clamp(-90.0, 90.0),
            elevation_m: self.elevation_m.clamp(-430.0, 6000.0),
        };
        Weather::new(self.seed, self.climate, place)
    }
}

/// Serves until the process is told to stop.
///
/// # Errors
/// The socket.
pub async fn run(listener: TcpListener) -> std::io::Result<()> {
    server(listener)?.await
}

/// The service, to be awaited; its handle stops it.
///
/// # Errors
/// The socket.
pub fn server(listener: TcpListener) -> std::io::Result<Server> {
    let mood = Data::new(Mutex::new(Mood::Fine));
    let server = HttpServer::new(move || {
        App::new()
            .app_data(mood.clone())
            .route("/healthz", get().to(|| async { "ok\n" }))
            .route("/v1/observed", get().to(observed))
            .route("/v1/forecast", get().to(forecast))
            .route("/v1/mood/{mood}", put().to(set_mood))
    })
    .workers(1)
    .shutdown_timeout(1)
    .listen(listener)?
    .run();
    Ok(server)
}

async fn set_mood(mood: Path<Mood>, current: Data<Mutex<Mood>>) -> HttpResponse {
    match current.lock() {
        Ok(mut current) => {
            *current = mood.into_inner();
            HttpResponse::NoContent().finish()
        }
        Err(_) => HttpResponse::InternalServerError().finish(),
    }
}

async fn observed(
    asked: Query<Asked>,
    stretch: Query<Stretch>,
    mood: Data<Mutex<Mood>>,
) -> HttpResponse {
    if let Some(failure) = failure(&mood).await {
        return failure;
    }
    if stretch.to >= asked.as_of.date() {
        return refused("that day is not over yet");
    }
    let days = stretch
        .from
        .until(stretch.to)
        .map_or(i32::MAX, |s| s.get_days());
    if !(0..MOST_DAYS).contains(&days) {
        return refused("ask for at most 4000 days, the first not after the last");
    }
    csv(&asked.weather().days(stretch.from, stretch.to), false)
}

async fn forecast(asked: Query<Asked>, mood: Data<Mutex<Mood>>) -> HttpResponse {
    if let Some(failure) = failure(&mood).await {
        return failure;
    }
    csv(&asked.weather().forecast(asked.as_of.date()), true)
}

fn refused(why: &'static str) -> HttpResponse {
    HttpResponse::UnprocessableEntity().body(why)
}

async fn failure(mood: &Mutex<Mood>) -> Option<HttpResponse> {
    let mood = mood.lock().map_or(Mood::Down, |m| *m);
    match mood {
        Mood::Fine => None,
        Mood::Slow => {
            tokio::time::sleep(Duration::from_secs(60)).await;
            None
        }
        Mood::Nonsense => Some(
            HttpResponse::Ok()
                .content_type("text/csv")
                .body("date,tmin_c,tmax_c,rain_mm\n2026-13-45,warm,-400,lots\n"),
        ),
        Mood::Down => Some(HttpResponse::ServiceUnavailable().body("not now")),
    }
}

fn csv(days: &[Day], forecast: bool) -> HttpResponse {
    let mut text =
        String::from("date,tmin_c,tmax_c,rh_min_pct,rh_max_pct,solar_mj_m2,wind_m_s,rain_mm");
    text.push_str(if forecast {
        ",rain_probability_pct\n"
    } else {
        "\n"
    });
    for d in days {
        text.push_str(&format!(
            "{},{},{},{},{},{},{},{}",
            d.date,
            d.tmin_c,
            d.tmax_c,
            d.rh_min_pct,
            d.rh_max_pct,
            d.solar_mj_m2,
            d.wind_m_s,
            d.rain_mm
        ));
        if let Some(p) = d.rain_probability_pct {
            text.push_str(&format!(",{p}"));
        }
        text.push('\n');
    }
    HttpResponse::Ok().content_type("text/csv").body(text)
}
