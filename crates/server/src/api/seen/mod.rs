//! What was seen of zones, or read off a probe, with photos.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::measure::hot_spot::HotSpot;
use lawn::measure::outline::Point;
use lawn::measure::seen::Seen;
use lawn::view::advice::{self, Advice};
use serde::Serialize;
use utoipa::ToSchema;

use crate::db::ZoneId;
use crate::db::seen::SeenRow;
use crate::db::zones::ZoneRow;

mod add;
mod list;
mod photo;
mod undo;

pub(super) use add::*;
pub(super) use list::*;
pub(super) use photo::*;
pub(super) use undo::*;

/// What was seen.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct SeenView {
    id: i64,
    zone: ZoneId,
    date: Date,
    /// Whether it was noon or later.
    after_noon: bool,
    /// Where on the zone's plan; `null`: all of it.
    place: Option<Point>,
    /// The kind of place that was looked at alone; `null`: it holds of the zone.
    spot: Option<HotSpot>,
    seen: Seen,
    /// The note that a look at the zone began with, where this is another of it.
    look: Option<i64>,
    who: Option<String>,
    /// When it was written down.
    at: Timestamp,
    /// Whether it has a photo.
    photo: bool,
    /// What to do about it.
    advice: Vec<Advice>,
}

/// What to do about what was seen of a zone.
fn advice(zone: &ZoneRow, seen: &Seen, latitude: f64, today: Date) -> Vec<Advice> {
    advice::about(seen, zone.zone.grass.profile().season, latitude, today)
}

impl SeenView {
    fn of(row: SeenRow, advice: Vec<Advice>) -> Self {
        Self {
            id: row.id,
            zone: row.zone,
            date: row.kept.date,
            after_noon: row.kept.after_noon,
            place: row.kept.place,
            spot: row.kept.spot,
            seen: row.kept.seen,
            look: row.look,
            who: row.who,
            at: row.at,
            photo: row.photo,
            advice,
        }
    }
}
