//! Past years of a record put on the days of another, to see what these would come to.

use std::ops::RangeInclusive;

use jiff::ToSpan;
use jiff::civil::Date;

use crate::days::in_year;
use crate::weather::DailyWeather;

/// Each past year of a contiguous record that knows all of some days: the calendar year in which they began then, and its weather on those days. The newest last.
pub fn on_days(
    record: &[DailyWeather],
    days: RangeInclusive<Date>,
) -> impl Iterator<Item = (i16, Vec<DailyWeather>)> {
    let (from, to) = days.into_inner();
    let ends = record.first().zip(record.last());
    let years = ends.map(|(begin, _)| begin.date.year()..from.year());
    years.into_iter().flatten().filter_map(move |year| {
        let (begin, end) = ends?;
        let first = in_year(from, year)?;
        let shift = first.until(from).ok()?;
        let last = to.saturating_sub(shift);
        if first < begin.date || end.date < last {
            return None;
        }
        let at = |day: Date| record.partition_point(|known| known.date < day);
        let then = &record[at(first)..=at(last)];
        let mut date = from;
        let moved = then.iter().map(|day| {
            let moved = DailyWeather { date, ..*day };
            date = date.saturating_add(1.day());
            moved
        });
        Some((year, moved.collect()))
    })
}
