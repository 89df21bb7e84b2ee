//! Opportunities to water, and the days of the horizon as a zone sees them: what deciding and comparing both stand on.

use crate::engine::skip::Skip;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::DailyWeather;
pub use crate::weather::HORIZON;

/// Least soak worth making, mm, or a third of RAW if that is more.
const WORTHWHILE_MM: f64 = 6.0;
/// An opportunity to water.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Chance {
    /// Day of the horizon, 0 is today.
    pub day: usize,
    /// Longest window of the day, s.
    pub window_s: i64,
    /// Most net depth that it carries for this zone.
    pub capacity: Depth,
    /// What the weather forbids.
    pub skip: Option<Skip>,
    /// The site has no room for the zone that day.
    pub crowded_out: bool,
    /// The site asks the zone to water here although it could wait.
    pub pulled: bool,
}

impl Chance {
    /// What it can carry, as things stand.
    pub(crate) fn carries(&self) -> Depth {
        if self.skip.is_some() || self.crowded_out {
            Depth::ZERO
        } else {
            self.capacity
        }
    }
}

/// A day of the horizon as one zone sees it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ZoneDay {
    /// Weather expected; rain 0.
    pub weather: DailyWeather,
    /// Crop ET without stress.
    pub etc: Depth,
    /// Readily available water.
    pub raw: Depth,
}

/// The days of a horizon as a zone sees them.
#[must_use]
pub fn zone_days(model: &ZoneModel, ahead: &[DailyWeather; HORIZON]) -> [ZoneDay; HORIZON] {
    ahead.map(|weather| {
        let etc = model.etc(&weather);
        ZoneDay {
            weather,
            etc,
            raw: model.raw(etc),
        }
    })
}

/// The least soak worth making on a day.
#[must_use]
pub fn worthwhile(raw: Depth) -> Depth {
    Depth::from_mm(WORTHWHILE_MM).max(raw / 3.0)
}
