//! Water meters and what is read off them.

use jiff::Timestamp;
use lawn::record::readings::{Follows, Reading, used};
use lawn::site::meter::Meter;
use serde::Serialize;
use sqlx::PgConnection;
use utoipa::ToSchema;

use crate::clock;
use crate::db::meters::{self, MeterId, MeterRow, ReadingRow};
use crate::db::{SiteId, sites, zones};
use crate::http::error::ApiError;

mod add;
mod export;
mod export_minutes;
mod import_minutes;
mod import_readings;
mod list;
mod photo;
mod pulses;
mod read;
mod readings;
mod update;
mod void;

pub(super) use add::*;
pub(super) use export::*;
pub(super) use export_minutes::*;
pub use import_minutes::MinuteFiles;
pub(super) use import_minutes::*;
pub(super) use import_readings::*;
pub(super) use list::*;
pub(super) use photo::*;
pub(super) use pulses::*;
pub(super) use read::*;
pub(super) use readings::*;
pub(super) use update::*;
pub(super) use void::*;

/// A meter.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct MeterView {
    id: MeterId,
    meter: Meter,
    version: i64,
    /// What one count stands for, L.
    count_l: f64,
    /// Its last reading.
    last: Option<ReadingView>,
    /// Of a flow meter: up to when it was heard; `null`: never.
    heard_until: Option<Timestamp>,
    /// Whether somebody should read it.
    due: bool,
}

/// A reading of a meter.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct ReadingView {
    id: i64,
    at: Timestamp,
    /// In the meter's own count.
    register: f64,
    follows: Follows,
    /// What flowed since the reading before, L; `null`: it is the first, or nobody read the old meter.
    used_l: Option<f64>,
    who: Option<String>,
    photo: bool,
}

impl ReadingView {
    fn of(meter: &Meter, before: Option<&Reading>, row: &ReadingRow) -> Self {
        let flowed = before.and_then(|before| used(meter, before, &row.reading));
        Self {
            id: row.id,
            at: row.reading.at,
            register: row.reading.register,
            follows: row.reading.follows,
            used_l: flowed.map(|volume| volume.l()),
            who: row.who.clone(),
            photo: row.photo,
        }
    }
}

/// The readings of a meter as people see them, in time order.
fn views(meter: &Meter, rows: &[&ReadingRow]) -> Vec<ReadingView> {
    let before = std::iter::once(None).chain(rows.iter().map(|row| Some(&row.reading)));
    let pairs = rows.iter().zip(before);
    pairs
        .map(|(row, before)| ReadingView::of(meter, before, row))
        .collect()
}

impl MeterView {
    fn of(row: MeterRow, readings: &[ReadingRow]) -> Self {
        let own: Vec<&ReadingRow> = readings.iter().filter(|r| r.meter == row.id).collect();
        Self {
            last: views(&row.meter, &own).pop(),
            id: row.id,
            count_l: row.meter.volume(1.0).l(),
            version: row.version,
            heard_until: None,
            due: false,
            meter: row.meter,
        }
    }
}

/// A meter of a site.
async fn meter(db: &mut PgConnection, site: SiteId, id: MeterId) -> Result<MeterRow, ApiError> {
    let meters = meters::of_site(db, site).await?;
    let found = meters.into_iter().find(|row| row.id == id);
    found.ok_or(ApiError::NotFound("meter"))
}

/// Checks a meter that is typed, against the zones of its site and its day.
async fn check(db: &mut PgConnection, site: SiteId, meter: &Meter) -> Result<(), ApiError> {
    let zones = zones::of_site(&mut *db, site).await?;
    let zones: Vec<_> = zones.into_iter().map(|row| row.zone).collect();
    meter.validate("", &zones)?;
    let site = sites::get(&mut *db, site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    for (field, day) in [
        ("active_from", meter.active_from),
        ("active_to", meter.active_to),
    ] {
        if let Some(day) = day {
            lawn::days::check(field, day, lawn::days::last_to_plan(today))?;
        }
    }
    Ok(())
}
