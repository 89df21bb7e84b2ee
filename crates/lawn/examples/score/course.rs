//! What the days of a stretch are for a site's zones, whoever plans them: what the bound and the figures share.

use lawn::engine::dose;
use lawn::engine::history::ZoneHistory;
use lawn::engine::root_zone::{self, Irrigation};
use lawn::engine::skip;
use lawn::engine::zone_model::ZoneModel;
use lawn::quantity::Depth;
use lawn::site::SiteDocument;
use lawn::site::calendar::{self, CalendarDay};
use lawn::weather::DailyWeather;

use crate::skies::Sky;

/// A zone over the stretch.
pub struct ZoneCourse {
    pub model: ZoneModel,
    pub by_hand: bool,
    pub begins: Depth,
    pub days: Vec<ZoneDay>,
}

/// A day of it.
#[derive(Clone, Copy)]
pub struct ZoneDay {
    pub etc: Depth,
    pub raw: Depth,
    pub effective_rain: Depth,
    /// Most net depth that the night carries; 0: closed, or forbidden by the weather.
    pub carries: Depth,
}

/// A site over the stretch.
pub struct Course {
    pub zones: Vec<ZoneCourse>,
    /// Length of each day's window, s; one a day at most.
    pub window_s: Vec<i64>,
    pub days: Vec<DailyWeather>,
}

impl Course {
    pub fn of(document: &SiteDocument, sky: &Sky) -> Result<Self, String> {
        let time_zone = document.site.zone().map_err(|e| e.to_string())?;
        let inside = |d: &&DailyWeather| d.date >= sky.from && d.date <= sky.to;
        let days: Vec<DailyWeather> = sky.record.iter().filter(inside).copied().collect();
        let before = sky.record.iter().rfind(|d| d.date < sky.from);
        let calendar = calendar::days(document, &time_zone, sky.from, days.len());
        let lengths_s = calendar.iter().map(window_s).collect();
        let zones = document.zones.iter().map(|zone| {
            let history = ZoneHistory::of(document, zone);
            let model = history.on(sky.from).model.clone();
            let mut yesterday = before;
            let zone_days = days.iter().zip(&calendar).map(|(day, open)| {
                let etc = model.etc(day);
                let dry = root_zone::day(&model, model.taw, day, Irrigation::default());
                let window = window_s(open) / i64::from(model.settings);
                let barred = skip::skip(&model, day, false, yesterday).is_some();
                yesterday = Some(day);
                ZoneDay {
                    etc,
                    raw: model.raw(etc),
                    effective_rain: dry.effective_rain,
                    carries: match window {
                        0 => Depth::ZERO,
                        _ if barred => Depth::ZERO,
                        s => dose::capacity(&model, s),
                    },
                }
            });
            ZoneCourse {
                days: zone_days.collect(),
                by_hand: zone.by_hand(),
                begins: zone.initial_depletion_mm.unwrap_or_default().min(model.taw),
                model,
            }
        });
        Ok(Self {
            zones: zones.collect(),
            window_s: lengths_s,
            days,
        })
    }

    /// ΣETc of a zone.
    pub fn etc(&self, zone: usize) -> Depth {
        self.zones[zone].days.iter().map(|d| d.etc).sum()
    }
}

/// The length of a day's windows, s.
fn window_s(day: &CalendarDay) -> i64 {
    day.windows.iter().map(|w| w.length_s()).sum()
}
