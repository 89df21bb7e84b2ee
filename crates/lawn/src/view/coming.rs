//! Which dawn comes next, and which watering.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::chance_to_run::{Courses, Likely};
use crate::site::calendar::CalendarDay;
use crate::view::week_plan::{NextWatering, ZonePlan};

/// The day whose watering comes next: today while one of its windows is still to come, else tomorrow.
pub(crate) fn dawn(calendar: &[CalendarDay], today: Date) -> Date {
    if calendar.first().is_some_and(|day| !day.windows.is_empty()) {
        today
    } else {
        today.saturating_add(1.day())
    }
}

/// The next day on which anything waters if no rain comes, and how likely any of it is to go ahead.
pub(crate) fn next_watering(
    zones: &[ZonePlan],
    likely: &[Option<Likely>],
    today: Date,
) -> Option<NextWatering> {
    let date = zones
        .iter()
        .flat_map(|z| &z.cells)
        .filter(|c| c.run.is_some())
        .map(|c| c.date)
        .min()?;
    let mut next = NextWatering {
        date,
        starts: None,
        ends: None,
        chance_pct: 100.0,
        zones: Vec::new(),
    };
    let mut any = Some(Courses::default());
    let day = usize::try_from(date.since(today).map_or(0, |span| span.get_days())).unwrap_or(0);
    for (zone, likely) in zones.iter().zip(likely) {
        let Some(run) = zone
            .cells
            .iter()
            .find(|c| c.date == date)
            .and_then(|c| c.run.as_ref())
        else {
            continue;
        };
        next.zones.push(zone.zone.clone());
        any = any
            .zip(likely.and_then(|l| l.runs.get(day).copied()))
            .map(|(a, b)| a.or(b));
        if let (Some(&first), Some(&last)) = (run.starts.first(), run.starts.last()) {
            let ends = last.saturating_add(run.pass_s.seconds()).unwrap_or(last);
            next.starts = Some(next.starts.map_or(first, |s| s.min(first)));
            next.ends = Some(next.ends.map_or(ends, |e| e.max(ends)));
        }
    }
    if let Some(courses) = any {
        next.chance_pct = courses.pct();
    }
    Some(next)
}
