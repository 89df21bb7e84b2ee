//! A zone over time: its figures as they hold on each day.

use jiff::civil::Date;

use crate::days;
use crate::engine::zone_model::ZoneModel;
use crate::site::{Controller, Zone, counting};

/// A stretch of days on which nothing of a zone changes.
#[derive(Debug, Clone, PartialEq)]
pub struct Stretch {
    /// Its first day.
    pub from: Date,
    /// The zone as it is then.
    pub zone: Zone,
    /// Its figures.
    pub model: ZoneModel,
}

/// A zone's stretches, in time order; at least one.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneHistory {
    first: Stretch,
    later: Vec<Stretch>,
    /// With its facts, those that its tests tell among them.
    whole: Zone,
}

impl ZoneHistory {
    /// Of a zone with what its tests tell, on a controller, at a latitude.
    #[must_use]
    pub fn new(zone: &Zone, controller: &Controller, latitude: f64) -> Self {
        let whole = counting::counted(zone);
        let stretch = |from: Date| {
            let zone = whole.on(from);
            let model = ZoneModel::new(&zone, controller, latitude);
            let model = match whole.holds_since("regime", from) {
                Some(since) => model.waking_since(since),
                None => model,
            };
            Stretch { from, zone, model }
        };
        let turns = whole.turns().into_iter();
        Self {
            first: stretch(days::FIRST),
            later: turns.filter(|d| *d > days::FIRST).map(stretch).collect(),
            whole,
        }
    }

    /// The stretch that a day lies in.
    #[must_use]
    pub fn on(&self, date: Date) -> &Stretch {
        let held = self.later.iter().rev().find(|s| s.from <= date);
        held.unwrap_or(&self.first)
    }

    /// The day from which a key of the zone has had the value that it has on a day; `None`: always.
    #[must_use]
    pub fn holds_since(&self, key: &str, date: Date) -> Option<Date> {
        self.whole.holds_since(key, date)
    }
}
