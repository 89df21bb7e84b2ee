//! What a zone asks for, told while it is being described: on a summer's day, whatever the weather is, and how far that could be off.

use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::dose::{self, Dose};
use crate::engine::root_zone::{self, Given};
use crate::engine::uncertain::ZoneFigure;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};
use crate::site::draft::dried;
use crate::site::normals::Normals;
use crate::site::{Controller, Site, Zone};
use crate::weather::{DailyWeather, Gaps, place};

/// Reference ET of a warm summer's day, mm (FAO-56 table 2: temperate, warm: 4 to 7; from memory).
const SUMMER_ET0_MM: f64 = 5.0;
/// A window that carries any dose, s.
const ANY_WINDOW_S: i64 = 24 * 3600;

/// A figure between the least and the greatest that it could be.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Between {
    /// Least.
    pub low: f64,
    /// By the figures that plans use.
    pub value: f64,
    /// Greatest.
    pub high: f64,
}

/// A refill of a zone's roots on a summer's day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct FirstLook {
    /// The reference ET that is meant, mm a day.
    pub et0_mm: f64,
    /// What the zone uses of it, mm a day.
    #[schema(value_type = f64)]
    pub etc_mm: Depth,
    /// Days that what may be used lasts, without rain.
    pub every_days: Between,
    /// Minutes of a refill.
    pub minutes: Between,
    /// Passes in which it is given.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Rest after each but the last, s.
    pub soak_s: i64,
    /// Net depth of a refill.
    #[schema(value_type = f64)]
    pub net_mm: Depth,
    /// Water of a refill, L.
    pub volume_l: f64,
}

/// Looks at a zone of a site in July, or January south of the equator. `None` where even the least pass is more than the roots hold.
#[must_use]
pub fn first_look(
    site: &Site,
    controller: &Controller,
    zone: &Zone,
    today: Date,
) -> Option<FirstLook> {
    let model = ZoneModel::new(zone, controller, site.latitude);
    let summer = summer_day(site, today);
    let (days, run) = refill(&model, &summer)?;
    // What each figure that is not measured leaves open, the others at their middle.
    let others = extremes(zone, &model);
    let others = others
        .iter()
        .map(|zone| ZoneModel::new(zone, controller, site.latitude));
    let mut every_days = Between::only(days);
    let mut minutes = Between::only(RunTime::from_whole_s(run.run_s()).minutes());
    for (days, run) in others.filter_map(|model| refill(&model, &summer)) {
        every_days = every_days.or(days);
        minutes = minutes.or(RunTime::from_whole_s(run.run_s()).minutes());
    }
    Some(FirstLook {
        et0_mm: SUMMER_ET0_MM,
        etc_mm: model.etc(&summer),
        every_days,
        minutes,
        passes: run.passes,
        pass_s: run.pass_s,
        soak_s: run.soak_s,
        net_mm: run.irrigation.net,
        volume_l: (run.irrigation.gross * zone.area_m2).l(),
    })
}

/// A warm day in the middle of the summer of a site's half of the Earth.
fn summer_day(site: &Site, today: Date) -> DailyWeather {
    let month = if site.latitude < 0.0 { 1 } else { 7 };
    let date = Date::new(today.year(), month, 15).unwrap_or(today);
    DailyWeather::filled(date, Depth::from_mm(SUMMER_ET0_MM), None)
}

/// How many days the roots last, and what refills them.
fn refill(model: &ZoneModel, day: &DailyWeather) -> Option<(f64, Dose)> {
    let etc = model.etc(day);
    let raw = model.raw(etc);
    Some((raw / etc, dose::dose(model, raw, ANY_WINDOW_S)?))
}

/// Figures that a first look varies: those that decide how long a refill runs and how often.
const VARIED: [ZoneFigure; 5] = [
    ZoneFigure::Available,
    ZoneFigure::RootDepth,
    ZoneFigure::SiteFactor,
    ZoneFigure::Rate,
    ZoneFigure::Evenness,
];

/// The zone with each figure in turn at its least and its greatest.
fn extremes(zone: &Zone, model: &ZoneModel) -> Vec<Zone> {
    let ends = VARIED.into_iter().flat_map(|figure| {
        let of = figure.of(model);
        [of.low, of.high].map(|end| figure.set(zone, model, end))
    });
    ends.collect()
}

impl Between {
    const fn only(value: f64) -> Self {
        Self {
            low: value,
            value,
            high: value,
        }
    }

    const fn or(self, other: f64) -> Self {
        Self {
            low: self.low.min(other),
            high: self.high.max(other),
            ..self
        }
    }
}

/// The depletion at a day's dawn of a zone that was last soaked some days ago: what it has used since, by the days that are known, by the place's
/// normals, or else by [rough](Normals::rough) ones. Where nobody knows when that was, half of what may be used (common practice,
/// no source).
#[must_use]
pub fn depletion_at_begin(
    site: &Site,
    controller: &Controller,
    zone: &Zone,
    observed: &[DailyWeather],
    soaked_days_ago: Option<u32>,
    today: Date,
) -> Depth {
    let model = ZoneModel::new(zone, controller, site.latitude);
    let Some(days) = dried(soaked_days_ago, today) else {
        return model.raw(model.etc(&summer_day(site, today))) / 2.0;
    };
    let normals = site.normals.unwrap_or_else(|| Normals::rough_of(site));
    let gaps = Gaps::Normals(&normals);
    let mut depletion = Depth::ZERO;
    for date in days {
        let known = observed.binary_search_by_key(&date, |d| d.date);
        let day = match known {
            Ok(at) => observed[at],
            Err(at) => gaps.day(&place(site), &observed[..at], date),
        };
        depletion = root_zone::day(&model, depletion, &day, Given::default()).end;
    }
    depletion
}
