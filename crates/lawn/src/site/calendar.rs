//! The days and hours in which watering is allowed, as instants; sunrise.

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use science::sun::sunrise_s as sunrise;

use crate::quantity::RunTime;
use crate::site::{DateRule, SiteDocument, Weekday, Window};

const NOON: Time = Time::constant(12, 0, 0, 0);

/// An open interval of time, seconds since 1970-01-01 UTC.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Interval {
    /// It opens.
    pub start_s: i64,
    /// It closes.
    pub end_s: i64,
}

impl Interval {
    /// How long it is open, s.
    #[must_use]
    pub const fn length_s(self) -> i64 {
        self.end_s - self.start_s
    }
}

/// What the clock says of one civil day.
#[derive(Debug, Clone, PartialEq)]
pub struct CalendarDay {
    /// The civil day.
    pub date: Date,
    /// The allowed windows in time order; none: no watering that day.
    pub windows: Vec<Interval>,
    /// Sunrise, seconds since 1970-01-01 UTC; `None` in polar day and night.
    pub sunrise_s: Option<i64>,
    /// Local noon, seconds since 1970-01-01 UTC: a window that opens then or later waters after the day's ET.
    pub noon_s: i64,
}

/// Days since 1970-01-01.
#[must_use]
pub fn unix_day(date: Date) -> i64 {
    let epoch = Date::constant(1970, 1, 1);
    date.since(epoch)
        .map_or(0, |span| i64::from(span.get_days()))
}

/// `count` days from `from` on. Windows follow the local clock: on days when it changes they are as long as its hours are.
#[must_use]
pub fn days(
    document: &SiteDocument,
    zone: &TimeZone,
    from: Date,
    count: usize,
) -> Vec<CalendarDay> {
    let mut date = from;
    (0..count)
        .map(|_| {
            let day = CalendarDay {
                date,
                windows: windows(&document.windows, zone, date),
                sunrise_s: sunrise_s(document, date),
                noon_s: instant_s(zone, date, NOON).unwrap_or(i64::MAX),
            };
            date = date.saturating_add(1.day());
            day
        })
        .collect()
}

fn windows(windows: &[Window], zone: &TimeZone, date: Date) -> Vec<Interval> {
    let weekday = Weekday::of(date);
    let odd = date.day() % 2 == 1;
    let mut open: Vec<Interval> = windows
        .iter()
        .filter(|w| w.days.contains(&weekday))
        .filter(|w| match w.dates {
            DateRule::Any => true,
            DateRule::Odd => odd,
            DateRule::Even => !odd,
        })
        .filter_map(|w| {
            let interval = Interval {
                start_s: instant_s(zone, date, w.from)?,
                end_s: instant_s(zone, date, w.to)?,
            };
            // An hour that the clock skips is no window.
            (interval.length_s() > 0).then_some(interval)
        })
        .collect();
    open.sort_by_key(|w| (w.start_s, w.end_s));
    // Windows that overlap or touch are one.
    let mut merged: Vec<Interval> = Vec::with_capacity(open.len());
    for window in open {
        match merged.last_mut() {
            Some(last) if window.start_s <= last.end_s => {
                last.end_s = last.end_s.max(window.end_s);
            }
            _ => merged.push(window),
        }
    }
    merged
}

fn instant_s(zone: &TimeZone, date: Date, time: Time) -> Option<i64> {
    zone.to_ambiguous_timestamp(date.to_datetime(time))
        .compatible()
        .map(Timestamp::as_second)
        .ok()
}

fn sunrise_s(document: &SiteDocument, date: Date) -> Option<i64> {
    let day = unix_day(date);
    let after_midnight = sunrise(day, document.site.latitude, document.site.longitude)?;
    Some(day * 86_400 + RunTime::from_s(after_midnight).round_s())
}

/// The horizon that is left from an instant on: earlier windows are past, an open one is what remains of it.
#[must_use]
pub fn from_now(mut days: Vec<CalendarDay>, now: Option<Timestamp>) -> Vec<CalendarDay> {
    let Some(now) = now.map(Timestamp::as_second) else {
        return days;
    };
    for day in &mut days {
        day.windows.retain_mut(|w| {
            w.start_s = w.start_s.max(now);
            w.length_s() > 0
        });
    }
    days
}
