//! The days of a plan as all zones share them: weather behind and ahead, windows, notes on the weather's age.

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};

use crate::quantity::Depth;
use crate::record::known::Known;
use crate::site::calendar::{CalendarDay, Interval};
use crate::view::verdict::Note;
use crate::view::week_plan::{EtSource, PlanDay, PlanWindow};
use crate::weather::{self, AheadDay, DailyWeather};

/// Days before today that a plan shows.
pub const PAST_DAYS: usize = 2;

/// The observed days, filled up to yesterday where the record ends before; and how many were filled; `None` without any weather.
pub(super) fn up_to_yesterday(known: &Known) -> Option<(Vec<DailyWeather>, u32)> {
    let yesterday = known.today.saturating_sub(1.day());
    let mut observed: Vec<DailyWeather> = known
        .observed
        .iter()
        .filter(|d| d.date <= yesterday)
        .copied()
        .collect();
    let Some(&last) = observed.last() else {
        if known.forecast.iter().any(|d| d.method.is_some()) {
            return Some((observed, 0));
        }
        return None;
    };
    let mean = weather::mean_et0(&observed);
    let mut date = last.date;
    while date < yesterday {
        date = date.saturating_add(1.day());
        observed.push(DailyWeather::filled(date, mean, last.smoothed_c));
    }
    let recent = observed.len().saturating_sub(weather::MEAN_DAYS);
    let filled = observed[recent..]
        .iter()
        .filter(|d| d.method.is_none())
        .count();
    Some((observed, u32::try_from(filled).unwrap_or(u32::MAX)))
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
                }
            } else if let Some(a) = ahead.get(index - PAST_DAYS) {
                day.et0_mm = a.weather.et0;
                day.et0_from = if a.from_forecast {
                    EtSource::Forecast
                } else {
                    EtSource::RecentMean
                };
                day.forecast_rain_mm = a.forecast_rain;
                day.rain_probability_pct =
                    a.forecast_rain.map(|_| 100.0 * a.forecast_probability());
            }
            day
        })
        .collect()
}

pub(super) fn notes(observed: &[DailyWeather], filled: u32, ahead: &[AheadDay]) -> Vec<Note> {
    let mut notes = Vec::new();
    let known = observed.iter().rev().find(|d| d.method.is_some());
    if filled > 0
        && let Some(last) = known
    {
        notes.push(Note::WeatherFilled {
            days: filled,
            last_known: last.date,
        });
    }
    let forecast_days = ahead.iter().filter(|d| d.from_forecast).count();
    notes.push(Note::EtAhead {
        forecast_days: u32::try_from(forecast_days).unwrap_or(0),
        mean_et0_mm: weather::mean_et0(observed),
    });
    notes
}
