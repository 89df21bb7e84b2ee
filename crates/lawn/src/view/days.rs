//! The days of a plan as all zones share them: weather behind and ahead, windows, notes on the weather's age.

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};

use crate::quantity::Depth;
use crate::record::known::Known;
use crate::site::calendar::{CalendarDay, Interval};
use crate::view::verdict::Note;
use crate::view::week_plan::{EtSource, PlanDay, PlanWindow};
use crate::weather::{self, AheadDay, DailyWeather, EtFrom, Gaps};

/// Days before today that a plan shows.
pub const PAST_DAYS: usize = 2;

/// The observed days, filled up to yesterday where the record ends before; `None` where there is nothing to plan from.
pub(super) fn up_to_yesterday(known: &Known) -> Option<Vec<DailyWeather>> {
    let site = &known.document.site;
    let yesterday = known.today.saturating_sub(1.day());
    let mut observed: Vec<DailyWeather> = known
        .observed
        .iter()
        .filter(|d| d.date <= yesterday)
        .copied()
        .collect();
    let gaps = Gaps::filled(site);
    let first = match observed.last() {
        Some(last) => last.date.saturating_add(1.day()),
        None if site.normals.is_some() => begun(known),
        None if known.forecast.iter().any(|d| d.method.is_some()) => return Some(observed),
        None => return None,
    };
    let place = weather::place(site);
    // Without normals all that is filled is like the last seven days known.
    let known_days = observed.len();
    for date in first.series(1.day()).take_while(|date| *date <= yesterday) {
        let before = match gaps {
            Gaps::Normals(_) => &observed[..],
            Gaps::Fill | Gaps::Refuse => &observed[..known_days],
        };
        let day = gaps.day(&place, before, date);
        observed.push(day);
    }
    Some(observed)
}

/// The day on which the record of a site without any weather begins: its first zone's, yesterday at the latest.
fn begun(known: &Known) -> Date {
    let zones = known.document.zones.iter();
    let first = zones.filter_map(|zone| zone.active_from).min();
    let yesterday = known.today.saturating_sub(1.day());
    first.map_or(yesterday, |first| first.min(yesterday))
}

pub(super) fn window(interval: &Interval) -> PlanWindow {
    PlanWindow {
        opens: instant(interval.start_s),
        closes: instant(interval.end_s),
    }
}

pub(super) fn instant(s: i64) -> Timestamp {
    // Civil days of the plan lie far within what a timestamp can say.
    Timestamp::from_second(s).unwrap_or(Timestamp::UNIX_EPOCH)
}

pub(super) fn plan_days(
    today: Date,
    calendar: &[CalendarDay],
    observed: &[DailyWeather],
    ahead: &[AheadDay],
) -> Vec<PlanDay> {
    calendar
        .iter()
        .enumerate()
        .map(|(index, c)| {
            let windows = c.windows.iter().map(window);
            let mut day = PlanDay {
                date: c.date,
                et0_mm: Depth::ZERO,
                et0_from: EtSource::Filled,
                rain_mm: None,
                rain_expected: false,
                forecast_rain_mm: None,
                rain_probability_pct: None,
                windows: windows.collect(),
                sunrise: c.sunrise_s.map(instant),
            };
            if c.date < today {
                if let Ok(i) = observed.binary_search_by_key(&c.date, |d| d.date) {
                    day.et0_mm = observed[i].et0;
                    day.et0_from = observed[i].method.into();
                    day.rain_mm = Some(observed[i].rain);
                    day.rain_expected = observed[i].rain_expected;
                }
            } else if let Some(a) = ahead.get(index - PAST_DAYS) {
                day.et0_mm = a.weather.et0;
                day.et0_from = match a.from {
                    EtFrom::Forecast => EtSource::Forecast,
                    EtFrom::RecentMean => EtSource::RecentMean,
                    EtFrom::Normals => EtSource::Normals,
                };
                day.forecast_rain_mm = a.forecast_rain;
                day.rain_probability_pct =
                    a.forecast_rain.map(|_| 100.0 * a.forecast_probability());
            }
            day
        })
        .collect()
}

/// Days back from yesterday of which the missing are named.
const NAMED_DAYS: usize = 14;

pub(super) fn notes(known: &Known, observed: &[DailyWeather], ahead: &[AheadDay]) -> Vec<Note> {
    let mut notes = Vec::new();
    let recent = &observed[observed.len().saturating_sub(NAMED_DAYS)..];
    let dates = recent.iter().filter(|d| d.method.is_none());
    let dates: Vec<Date> = dates.map(|d| d.date).collect();
    if !dates.is_empty() {
        let last = observed.iter().rev().find(|d| d.method.is_some());
        notes.push(Note::WeatherMissing {
            dates,
            last_known: last.map(|d| d.date),
            by_normals: known.document.site.normals.is_some(),
        });
    }
    let forecast_days = ahead.iter().filter(|d| d.from == EtFrom::Forecast).count();
    let beyond = ahead.iter().find(|d| d.from != EtFrom::Forecast);
    notes.push(Note::EtAhead {
        forecast_days: u32::try_from(forecast_days).unwrap_or(0),
        mean_et0_mm: beyond.map_or_else(|| weather::mean_et0(observed), |d| d.weather.et0),
        by_normals: ahead.iter().any(|d| d.from == EtFrom::Normals),
    });
    notes
}
