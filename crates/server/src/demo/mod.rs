//! The demo: an invented small-town commons, ten years of made-up weather from the simulated service, two seasons, and the runs that its plans
//! asked for. The last days are lived through round by round, each morning's plan published, so that changes, holds and forecasts are there to be looked at; from its
//! now on a controller runs what is published.

mod meter;
mod new_grass;
mod soil_tests;
mod sprinkler_tests;

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use lawn::engine::replay::{Foresight, replay};
use lawn::measure::hot_spot::HotSpot;
use lawn::quantity::Area;
use lawn::record::said::Said;
use lawn::site::{HotEdge, Hours};
use lawn::weather::{self, Gaps, WeatherDay};
use sqlx::{PgConnection, PgPool};
use thiserror::Error;

use crate::api::session::token_hash;
use crate::db::history::Event;
use crate::db::runs::NewRun;
use crate::db::{self, AccountId, SiteId, ZoneId};
use crate::outside::Unusable;
use crate::weather_service::{SIMULATED, WeatherService, simulated};
use crate::{password, rounds};

/// The demo's site.
pub const SITE: &str = include_str!("../../../../docs/formats/site.example.json");
/// Address of the demo's owner.
pub const EMAIL: &str = "juniper@sorrelhollow.example";
/// The password of all its accounts, printed by `cargo xtask demo`; `serve` refuses open addresses while they exist.
pub const PASSWORD: &str = "clover and thyme";
/// Its people with their roles.
pub const PEOPLE: [(&str, &str, &str); 4] = [
    (EMAIL, "Juniper Marsh", "owner"),
    ("rowan@sorrelhollow.example", "Rowan Teasel", "manager"),
    ("willow@sorrelhollow.example", "Willow Quill", "crew"),
    ("bram@sorrelhollow.example", "Bram Sedge", "viewer"),
];
/// The demo's clock.
const NOW: &str = "2026-06-18T07:30:00-04:00";
/// First day of its weather: ten years, by whose frosts and rains new grass is planned.
const RECORD_FROM: Date = Date::constant(2016, 3, 1);
/// First day of its two seasons.
const FIRST_DAY: Date = Date::constant(2025, 3, 1);
/// Its day.
const TODAY: Date = Date::constant(2026, 6, 18);
/// Climate and seed of its weather.
const WEATHER: (&str, i64) = ("transition", 23);
/// Days before today that are lived through round by round.
const LIVED_DAYS: i64 = 16;
/// Days before today of which the forecasts are kept.
const FORECAST_DAYS: i64 = 60;
/// Places within its zones that dry out first, m².
const HOT_EDGES: [(&str, HotSpot, f64); 3] = [
    ("pavilion-front", HotSpot::Paving, 35.0),
    ("east-bank", HotSpot::SunnySlope, 70.0),
    ("orchard-walk", HotSpot::TreeEdge, 60.0),
];
/// Hours in which new grass may be watered by hand, by the town's permit.
const NEW_GRASS_HOURS: Hours = Hours {
    from: Time::constant(6, 0, 0, 0),
    to: Time::constant(19, 0, 0, 0),
};
/// How the gauge on the lawn differs from the station, share, day after day.
const GAUGE_SCATTER: [f64; 5] = [1.12, 0.94, 1.05, 0.88, 1.2];

/// Why the demo was not loaded.
#[derive(Debug, Error)]
pub enum Error {
    /// The database.
    #[error(transparent)]
    Database(#[from] sqlx::Error),
    /// The weather service.
    #[error("the weather service: {0}")]
    Weather(#[from] Unusable),
    /// Another step; all of them are ours.
    #[error("the demo does not load: {0}")]
    Defect(String),
}

fn defect(error: impl std::fmt::Display) -> Error {
    Error::Defect(error.to_string())
}

/// Loads the demo unless its account exists; `false` where it does. `flow_token`: that of a flow meter which goes on to send minutes.
///
/// # Errors
/// [`Error`]; nothing is half loaded.
pub async fn load(
    pool: &PgPool,
    service: &WeatherService,
    flow_token: Option<&str>,
) -> Result<bool, Error> {
    let mut tx = pool.begin().await?;
    if db::accounts::credentials(&mut *tx, EMAIL).await?.is_some() {
        return Ok(false);
    }
    let now: Timestamp = NOW.parse().map_err(defect)?;
    let mut document = lawn::site::document::read(SITE).map_err(defect)?;
    let zone_hours = document.site.zone().map_err(defect)?;
    let site = db::sites::insert(&mut *tx, &document, Some(now)).await?;
    let hash = password::hash(PASSWORD.to_owned()).await.map_err(defect)?;
    let (mut crew, mut manager) = (AccountId(0), AccountId(0));
    for (email, name, role) in PEOPLE {
        let account = db::accounts::insert(&mut *tx, email, name, &hash, true)
            .await?
            .ok_or_else(|| defect("the demo's people have accounts"))?;
        db::sites::add_member(&mut *tx, site, account, role).await?;
        match role {
            "crew" => crew = account,
            "manager" => manager = account,
            _ => {}
        }
    }
    for zone in &mut document.zones {
        let edge = HOT_EDGES.iter().find(|(id, ..)| *id == zone.id);
        zone.hot_edges = edge
            .map(|(_, spot, area_m2)| HotEdge {
                spot: *spot,
                area_m2: Area::from_m2(*area_m2),
            })
            .into_iter()
            .collect();
        if zone.regime.is_new_grass() {
            zone.new_grass_hours = Some(NEW_GRASS_HOURS);
            zone.new_grass_by_hand = true;
        }
        zone.active_from.get_or_insert(FIRST_DAY);
        zone.id = db::zones::insert(&mut *tx, site, zone).await?.0.to_string();
    }

    sprinkler_tests::add(&mut tx, &document.zones, crew, document.site.price_per_m3).await?;

    soil_tests::add(&mut tx, &document.zones, crew).await?;

    sprinkler_tests::add_faults(&mut tx, &document.zones, crew).await?;

    let (climate, seed) = WEATHER;
    db::feeds::connect(&mut *tx, site, SIMULATED, &simulated(climate, seed)).await?;
    db::sites::set_tariffs(&mut *tx, site, &meter::tariffs()).await?;
    db::sites::set_caps(&mut *tx, site, &meter::caps()).await?;
    let row = db::sites::get(&mut *tx, site).await?;
    let feed = db::feeds::get(&mut *tx, site)
        .await?
        .ok_or_else(|| defect("no feed"))?;
    let mut days = service.observed(&feed, &row, now, RECORD_FROM).await?;
    db::weather::upsert_days(&mut *tx, site, &days, "service", None).await?;
    days.retain(|day| day.date >= FIRST_DAY);
    db::feeds::succeeded(&mut *tx, site, now).await?;
    for (day, scatter) in gauge_days(&days).zip(GAUGE_SCATTER.into_iter().cycle()) {
        let read_at = at(day.date.saturating_add(1.day()), 8, &zone_hours)?;
        let mm = (day.rain_mm.unwrap_or(0.0) * scatter * 2.0).round() / 2.0;
        db::weather::add_gauge_reading(&mut tx, site, crew, day.date, mm, read_at).await?;
    }

    let lived_from = TODAY.saturating_sub(LIVED_DAYS.days());
    let mut date = TODAY.saturating_sub(FORECAST_DAYS.days());
    while date < lived_from {
        let issued = at(date, 3, &zone_hours)?;
        let forecast = service.forecast(&feed, &row, issued).await?;
        db::weather::insert_forecast(&mut *tx, site, issued, &forecast).await?;
        date = date.saturating_add(1.day());
    }

    // What the controller ran until then: each past morning's own decision.
    let place = weather::place(&document.site);
    let record = weather::series(&place, &days, Gaps::Refuse).map_err(defect)?;
    let last = lived_from.saturating_sub(1.day());
    let rows = replay(&document, &record, FIRST_DAY, last, Foresight::None).map_err(defect)?;
    let mut runs = Vec::new();
    for row in rows {
        let Some(dose) = row.dose else { continue };
        runs.push(NewRun {
            zone: ZoneId(row.zone.parse().map_err(defect)?),
            date: row.date,
            started_at: at(row.date, 4, &zone_hours)?,
            passes: dose.passes,
            pass_s: dose.pass_s,
            planned_passes: dose.passes,
            planned_end: at(row.date, 4, &zone_hours)?
                .saturating_add(dose.span_s().seconds())
                .map_err(defect)?,
            plan: None,
        });
    }
    db::runs::assume(&mut *tx, &runs).await?;

    // From then on the plan is published each morning, by a rule that its manager switched on.
    db::publications::set_each_morning(&mut *tx, site, true).await?;
    let mut event = at(lived_from, 3, &zone_hours)?;
    db::sites::set_clock(&mut *tx, site, event).await?;
    let switched = Event::PublishesEachMorning { each_morning: true };
    db::history::note(&mut *tx, site, manager, &switched).await?;
    while event <= now {
        db::sites::set_clock(&mut *tx, site, event).await?;
        let forecast = service.forecast(&feed, &row, event).await?;
        db::weather::insert_forecast(&mut *tx, site, event, &forecast).await?;
        rounds::round(&mut tx, site).await.map_err(defect)?;
        say_what_ran(&mut tx, site, crew, event).await?;
        new_grass::water(&mut tx, site, crew, event, TODAY).await?;
        event = db::sites::next_event(&mut *tx, site).await?;
    }
    db::sites::set_clock(&mut *tx, site, now).await?;
    meter::add(&mut tx, site, &zone_hours, crew).await?;
    if let Some(token) = flow_token {
        let hash = token_hash(token);
        db::devices::insert(&mut *tx, site, manager, "Flow meter", &hash).await?;
    }
    db::controllers::connect(&mut *tx, site, now).await?;
    tx.commit().await?;
    Ok(true)
}

/// Until two days ago the crew said each morning what ran.
async fn say_what_ran(
    db: &mut PgConnection,
    site: SiteId,
    crew: AccountId,
    now: Timestamp,
) -> Result<(), Error> {
    let today = now.to_zoned(TimeZone::UTC).date();
    if today > TODAY.saturating_sub(3.days()) {
        return Ok(());
    }
    for run in db::runs::list(&mut *db, site, FIRST_DAY, today).await? {
        if run.source == Said::Assumed && run.plan.is_some() {
            db::runs::answer(&mut *db, &run, crew, Said::Confirmed, run.passes, run.run_s).await?;
            let event = Event::RunSaid {
                zone: run.zone_name,
                date: run.date,
                answer: Said::Confirmed.name().to_owned(),
            };
            db::history::note(&mut *db, site, crew, &event).await?;
        }
    }
    Ok(())
}

/// Wet days of late on which somebody read the gauge.
fn gauge_days(days: &[WeatherDay]) -> impl Iterator<Item = &WeatherDay> {
    let from = TODAY.saturating_sub(45.days());
    days.iter()
        .filter(move |d| d.date >= from && d.rain_mm.is_some_and(|mm| mm >= 2.0))
}

fn at(date: Date, hour: i8, zone: &TimeZone) -> Result<Timestamp, Error> {
    let zoned = date.at(hour, 0, 0, 0).to_zoned(zone.clone());
    Ok(zoned.map_err(defect)?.timestamp())
}
