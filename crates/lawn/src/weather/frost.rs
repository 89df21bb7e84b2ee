//! When growing ends: the first hard frost of past autumns.

use jiff::civil::{Date, date};

use crate::weather::DailyWeather;

/// Least air temperature of a day of hard frost, °C (28 °F; common practice).
pub const HARD_FROST_C: f64 = -2.0;

/// An autumn of a record.
#[derive(Debug, Clone, Copy)]
pub struct Autumn<'a> {
    /// The calendar year in which it begins.
    pub year: i16,
    /// The record up to its first hard frost, that day the last; `None`: there was none.
    pub until_frost: Option<&'a [DailyWeather]>,
}

/// The calendar year of the autumn that is on or comes next, on a latitude in degrees.
#[must_use]
pub fn autumn_of(latitude_deg: f64, day: Date) -> i16 {
    let is_over = latitude_deg < 0.0 && day.month() > 6;
    day.year().saturating_add(i16::from(is_over))
}

/// Days in which an autumn's first frost is looked for: from late summer to midwinter.
fn days_of(latitude_deg: f64, year: i16) -> (Date, Date) {
    if latitude_deg < 0.0 {
        (date(year, 2, 1), date(year, 7, 15))
    } else {
        (date(year, 8, 1), date(year, 12, 31))
    }
}

/// Autumns of a contiguous record; those of which it does not know all days are left out.
pub fn autumns(latitude_deg: f64, record: &[DailyWeather]) -> impl Iterator<Item = Autumn<'_>> {
    let years = record
        .first()
        .zip(record.last())
        .map(|(begin, end)| begin.date.year()..=end.date.year());
    years.into_iter().flatten().filter_map(move |year| {
        let (from, to) = days_of(latitude_deg, year);
        let at = |day: Date| record.partition_point(|known| known.date < day);
        let (begin, end) = (at(from), at(to));
        if record.get(begin)?.date != from || record.get(end)?.date != to {
            return None;
        }
        let is_frost = |day: &DailyWeather| day.tmin_c.is_some_and(|min| min <= HARD_FROST_C);
        let frost = record[begin..=end].iter().position(is_frost);
        Some(Autumn {
            year,
            until_frost: frost.map(|frost| &record[..=begin + frost]),
        })
    })
}
