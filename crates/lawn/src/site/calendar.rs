//! The days and hours in which watering is allowed, as instants; sunrise.

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use science::sun::{SunTimes, sun_times};

use crate::quantity::RunTime;
use crate::site::rules::{Rule, Says};
use crate::site::{Hours, SiteDocument, Weekday, Window, Zone};

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

    /// Whether another lies within it.
    #[must_use]
    const fn holds(self, other: Self) -> bool {
        self.start_s <= other.start_s && other.end_s <= self.end_s
    }

    /// Its parts between some instants in time order.
    fn cut(self, at: &[i64]) -> Vec<Self> {
        let mut parts = Vec::new();
        let mut start_s = self.start_s;
        let inside = at.iter().filter(|s| **s > self.start_s && **s < self.end_s);
        for end_s in inside.chain([&self.end_s]) {
            parts.push(Self {
                start_s,
                end_s: *end_s,
            });
            start_s = *end_s;
        }
        parts
    }
}

/// What the clock says of one civil day.
#[derive(Debug, Clone, PartialEq)]
pub struct CalendarDay {
    /// The civil day.
    pub date: Date,
    /// The windows in which at least one zone is allowed, in time order; none: no watering that day. Who is allowed does not change within one.
    pub windows: Vec<Interval>,
    /// Of each window, the zones that a rule bars from it, by their place in the site; empty: no rule bars any zone of any window.
    pub barred: Vec<Vec<usize>>,
    /// The zones to which rules leave nothing of the day's hours, by their place, each with the place of the first such rule.
    pub closed: Vec<(usize, usize)>,
    /// Sunrise, seconds since 1970-01-01 UTC; `None` in polar day and night.
    pub sunrise_s: Option<i64>,
    /// Sunset, seconds since 1970-01-01 UTC; `None` in polar day and night.
    pub sunset_s: Option<i64>,
    /// Local noon, seconds since 1970-01-01 UTC: a window that opens then or later waters after the day's ET.
    pub noon_s: i64,
}

impl CalendarDay {
    /// Whether rules bar a zone from a window.
    #[must_use]
    pub fn bars(&self, window: usize, zone: usize) -> bool {
        self.barred.get(window).is_some_and(|b| b.contains(&zone))
    }

    /// Whether a zone has a window.
    #[must_use]
    pub fn opens_for(&self, zone: usize) -> bool {
        (0..self.windows.len()).any(|window| !self.bars(window, zone))
    }

    /// The rule, by its place, that leaves a zone nothing of the day's hours.
    #[must_use]
    pub fn closed_by(&self, zone: usize) -> Option<usize> {
        let found = self.closed.iter().find(|(z, _)| *z == zone);
        found.map(|(_, rule)| *rule)
    }
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
    let zones: Vec<&Zone> = document.zones.iter().collect();
    days_of(document, &zones, zone, from, count)
}

/// The same, where the site's zones are others than its document says: new grass grows up by itself.
#[must_use]
pub(crate) fn days_of(
    document: &SiteDocument,
    zones: &[&Zone],
    zone: &TimeZone,
    from: Date,
    count: usize,
) -> Vec<CalendarDay> {
    let mut date = from;
    (0..count)
        .map(|_| {
            let open = allowed(
                document,
                zones,
                zone,
                date,
                windows(&document.windows, zone, date),
            );
            let (sunrise_s, sunset_s) = sun(document, date).unzip();
            let day = CalendarDay {
                date,
                windows: open.windows,
                barred: open.barred,
                closed: open.closed,
                sunrise_s,
                sunset_s,
                noon_s: instant_s(zone, date, NOON).unwrap_or(i64::MAX),
            };
            date = date.saturating_add(1.day());
            day
        })
        .collect()
}

/// The hours of a day in which a zone with new grass may be watered: its own, as far as rules leave them to it, or the day's windows that are open to it. `zones`: the site's, as they
/// are that day.
#[must_use]
pub(crate) fn open_to_new_grass(
    document: &SiteDocument,
    zones: &[&Zone],
    time_zone: &TimeZone,
    day: &CalendarDay,
    place: usize,
) -> Vec<Interval> {
    let own = zones.get(place).and_then(|zone| zone.new_grass_hours);
    let Some(own) = own else {
        let windows = day.windows.iter().enumerate();
        let open = windows.filter(|(window, _)| !day.bars(*window, place));
        return open.map(|(_, window)| *window).collect();
    };
    let hours = instants(time_zone, day.date, own.from, own.to);
    let left = allowed(document, zones, time_zone, day.date, hours);
    let left = left.windows.into_iter().enumerate().filter(|(window, _)| {
        let barred = left.barred.get(*window);
        barred.is_none_or(|barred| !barred.contains(&place))
    });
    left.map(|(_, window)| window).collect()
}

fn windows(windows: &[Window], zone: &TimeZone, date: Date) -> Vec<Interval> {
    let weekday = Weekday::of(date);
    let mut open: Vec<Interval> = windows
        .iter()
        .filter(|w| w.days.contains(&weekday))
        .filter(|w| w.dates.allows(date))
        .flat_map(|w| instants(zone, date, w.from, w.to))
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

/// What rules leave of a day's windows.
#[derive(Default)]
struct Allowed {
    windows: Vec<Interval>,
    barred: Vec<Vec<usize>>,
    closed: Vec<(usize, usize)>,
}

/// Cuts the windows of a day where rules change who may water.
fn allowed(
    document: &SiteDocument,
    zones: &[&Zone],
    time_zone: &TimeZone,
    date: Date,
    windows: Vec<Interval>,
) -> Allowed {
    let rules = &document.rules;
    if rules.list.is_empty() || windows.is_empty() {
        return Allowed {
            windows,
            ..Allowed::default()
        };
    }
    let zones: Vec<Option<&Zone>> = match zones {
        // Of a site without zones the rules for all are shown.
        [] => vec![None],
        zones => zones.iter().copied().map(Some).collect(),
    };
    let in_force: Vec<Vec<(usize, &Rule)>> = zones
        .iter()
        .map(|zone| rules.in_force(date, *zone).collect())
        .collect();
    let parts = |hours: Hours| instants(time_zone, date, hours.from, hours.to);
    let mut cuts: Vec<i64> = in_force
        .iter()
        .flatten()
        .filter_map(|(_, rule)| hours_of(rule))
        .flat_map(parts)
        .flat_map(|h| [h.start_s, h.end_s])
        .collect();
    cuts.sort_unstable();
    cuts.dedup();
    let within = |hours: Hours, part: Interval| parts(hours).iter().any(|h| h.holds(part));
    let bars = |rule: &Rule, part: Interval| match &rule.says {
        Says::OnlyOn(only) => {
            !only.allows(date) || only.hours.is_some_and(|hours| !within(hours, part))
        }
        Says::Never(never) => never.hours.is_none_or(|hours| within(hours, part)),
        Says::AtMost(_) => false,
    };
    let mut open = Allowed::default();
    let mut first_bar: Vec<Option<usize>> = vec![None; zones.len()];
    let mut may: Vec<bool> = vec![false; zones.len()];
    for window in windows {
        for part in window.cut(&cuts) {
            let barring: Vec<Option<usize>> = in_force
                .iter()
                .map(|rules| {
                    rules
                        .iter()
                        .find(|(_, rule)| bars(rule, part))
                        .map(|(i, _)| *i)
                })
                .collect();
            let mut barred = Vec::new();
            for (zone, by) in barring.iter().enumerate() {
                match by {
                    Some(rule) => {
                        first_bar[zone] = first_bar[zone].or(Some(*rule));
                        barred.push(zone);
                    }
                    None => may[zone] = true,
                }
            }
            if barred.len() == zones.len() {
                continue;
            }
            match (open.windows.last_mut(), open.barred.last()) {
                (Some(last), Some(before)) if last.end_s == part.start_s && *before == barred => {
                    last.end_s = part.end_s;
                }
                _ => {
                    open.windows.push(part);
                    open.barred.push(barred);
                }
            }
        }
    }
    let closed = first_bar.iter().zip(&may).enumerate();
    let closed = closed.filter_map(|(zone, (by, may))| Some((zone, by.filter(|_| !may)?)));
    open.closed = closed.collect();
    open
}

fn hours_of(rule: &Rule) -> Option<Hours> {
    match &rule.says {
        Says::OnlyOn(only) => only.hours,
        Says::Never(never) => never.hours,
        Says::AtMost(_) => None,
    }
}

/// The instants of a day whose local time lies between two times: two stretches where the clock is turned back among them, none in an hour that it skips.
fn instants(zone: &TimeZone, date: Date, from: Time, to: Time) -> Vec<Interval> {
    let (Some(begins), Some(ends)) = (
        instant_s(zone, date, Time::midnight()),
        instant_s(zone, date.saturating_add(1.day()), Time::midnight()),
    ) else {
        return Vec::new();
    };
    // Stretches of the day with one offset each.
    let mut stretches = vec![Interval {
        start_s: begins,
        end_s: ends,
    }];
    if let (Ok(first), Ok(last)) = (
        Timestamp::from_second(begins),
        Timestamp::from_second(ends - 1),
    ) && zone.to_offset(first) != zone.to_offset(last)
    {
        let turns: Vec<i64> = zone
            .following(first)
            .map(|turn| turn.timestamp().as_second())
            .take_while(|s| *s < ends)
            .collect();
        stretches = stretches[0].cut(&turns);
    }
    let civil_s = |time: Time| unix_day(date) * 86_400 + seconds(time);
    let of = |stretch: Interval| {
        let at = Timestamp::from_second(stretch.start_s).ok()?;
        let offset_s = i64::from(zone.to_offset(at).seconds());
        let open = Interval {
            start_s: (civil_s(from) - offset_s).max(stretch.start_s),
            end_s: (civil_s(to) - offset_s).min(stretch.end_s),
        };
        (open.length_s() > 0).then_some(open)
    };
    stretches.into_iter().filter_map(of).collect()
}

fn seconds(time: Time) -> i64 {
    i64::from(time.hour()) * 3600 + i64::from(time.minute()) * 60 + i64::from(time.second())
}

pub(super) fn instant_s(zone: &TimeZone, date: Date, time: Time) -> Option<i64> {
    zone.to_ambiguous_timestamp(date.to_datetime(time))
        .compatible()
        .map(Timestamp::as_second)
        .ok()
}

/// Sunrise and sunset of a civil date.
fn sun(document: &SiteDocument, date: Date) -> Option<(i64, i64)> {
    let day = unix_day(date);
    let at = |after_midnight: f64| day * 86_400 + RunTime::from_s(after_midnight).round_s();
    match sun_times(day, document.site.latitude, document.site.longitude) {
        SunTimes::Rises {
            sunrise_s,
            sunset_s,
        } => Some((at(sunrise_s), at(sunset_s))),
        SunTimes::StaysUp | SunTimes::StaysDown => None,
    }
}

/// The same days with their windows cut at some instants in time order.
#[must_use]
pub fn cut(mut days: Vec<CalendarDay>, at: &[i64]) -> Vec<CalendarDay> {
    for day in &mut days {
        let barred = std::mem::take(&mut day.barred);
        let windows = std::mem::take(&mut day.windows);
        for (place, window) in windows.into_iter().enumerate() {
            for part in window.cut(at) {
                day.windows.push(part);
                day.barred.extend(barred.get(place).cloned());
            }
        }
    }
    days
}

/// The horizon that is left from an instant on: earlier windows are past, an open one is what remains of it.
#[must_use]
pub fn from_now(mut days: Vec<CalendarDay>, now: Option<Timestamp>) -> Vec<CalendarDay> {
    let Some(now) = now.map(Timestamp::as_second) else {
        return days;
    };
    for day in &mut days {
        let past = day.windows.partition_point(|w| w.end_s <= now);
        day.windows.drain(..past);
        day.barred.drain(..past.min(day.barred.len()));
        if let Some(open) = day.windows.first_mut() {
            open.start_s = open.start_s.max(now);
        }
    }
    days
}
