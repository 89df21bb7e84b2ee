//! The demo: an invented small-town commons, two seasons of made-up weather and the runs that its plans asked for.

mod generator;

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::replay::{Foresight, replay};
use lawn::weather::{self, Gaps};
use sqlx::PgPool;
use thiserror::Error;

use crate::db::runs::NewRun;
use crate::db::{self, ZoneId};
use crate::{password, planning};

/// The demo's site.
pub const SITE: &str = include_str!("../../../../docs/formats/site.example.json");
/// Address of the demo's account.
pub const EMAIL: &str = "juniper@sorrelhollow.example";
/// Its password, printed by `cargo xtask demo`; `serve` refuses open addresses while the account exists.
pub const PASSWORD: &str = "clover and thyme";
/// The demo's clock.
const NOW: &str = "2026-06-18T07:30:00-04:00";
/// First day of its weather.
const FIRST_DAY: Date = Date::constant(2025, 3, 1);
/// Its day.
const TODAY: Date = Date::constant(2026, 6, 18);
/// Days of its forecast.
const FORECAST_DAYS: usize = 7;

/// Why the demo was not loaded.
#[derive(Debug, Error)]
pub enum Error {
    /// The database.
    #[error(transparent)]
    Database(#[from] sqlx::Error),
    /// Another step; all of them are ours.
    #[error("the demo does not load: {0}")]
    Defect(String),
}

fn defect(error: impl std::fmt::Display) -> Error {
    Error::Defect(error.to_string())
}

/// Loads the demo unless its account exists; `false` where it does.
///
/// # Errors
/// [`Error`]; nothing is half loaded.
pub async fn load(pool: &PgPool) -> Result<bool, Error> {
    let hash = password::hash(PASSWORD.to_owned()).await.map_err(defect)?;
    let mut tx = pool.begin().await?;
    if db::accounts::credentials(&mut *tx, EMAIL).await?.is_some() {
        return Ok(false);
    }
    let account = db::accounts::insert(&mut *tx, EMAIL, "Juniper Marsh", &hash, true).await?;

    let now: Timestamp = NOW.parse().map_err(defect)?;
    let mut document = lawn::document::read(SITE).map_err(defect)?;
    let site = db::sites::insert(
        &mut *tx,
        &document.site,
        &document.windows,
        &document.supply,
        Some(now),
    )
    .await?;
    db::sites::add_member(&mut *tx, site, account, "owner").await?;
    for zone in &mut document.zones {
        zone.active_from.get_or_insert(FIRST_DAY);
        zone.id = db::zones::insert(&mut *tx, site, zone).await?.0.to_string();
    }

    let days = generator::days(FIRST_DAY, TODAY);
    let import = db::weather::insert_import(&mut *tx, site, None, days.len()).await?;
    db::weather::upsert_days(&mut *tx, site, &days, "demo", Some(import)).await?;
    db::weather::insert_forecast(
        &mut *tx,
        site,
        now,
        &generator::forecast(TODAY, FORECAST_DAYS),
    )
    .await?;

    // What the controller ran: each past morning's own decision.
    let place = weather::place(&document.site);
    let record = weather::series(&place, &days, Gaps::Refuse).map_err(defect)?;
    let yesterday = days.last().map_or(FIRST_DAY, |d| d.date);
    let rows = replay(&document, &record, FIRST_DAY, yesterday, Foresight::None).map_err(defect)?;
    let zone_hours = document.site.zone().map_err(defect)?;
    let mut runs = Vec::new();
    for row in rows {
        let Some(dose) = row.dose else { continue };
        let start = row
            .date
            .at(4, 0, 0, 0)
            .to_zoned(zone_hours.clone())
            .map_err(defect)?;
        runs.push(NewRun {
            zone: ZoneId(row.zone.parse().map_err(defect)?),
            date: row.date,
            started_at: start.timestamp(),
            passes: dose.passes,
            pass_s: dose.pass_s,
            plan: None,
        });
    }
    db::runs::assume(&mut *tx, &runs).await?;

    // The plan of 03:00 this morning first, so that what it asked for has run by the demo's clock.
    sqlx::query!("UPDATE site SET simulated_now = $2::timestamptz - interval '5 hours 45 minutes' WHERE id = $1",
        site.0, jiff_sqlx::ToSqlx::to_sqlx(now) as _).execute(&mut *tx).await?;
    planning::replan(&mut tx, site).await.map_err(defect)?;
    sqlx::query!(
        "UPDATE site SET simulated_now = $2 WHERE id = $1",
        site.0,
        jiff_sqlx::ToSqlx::to_sqlx(now) as _
    )
    .execute(&mut *tx)
    .await?;
    planning::replan(&mut tx, site).await.map_err(defect)?;
    tx.commit().await?;
    Ok(true)
}
