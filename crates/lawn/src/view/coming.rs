//! Which dawn comes next, and which watering.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::engine::chance_to_run::Courses;
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::Opening;
use crate::site::Regime;
use crate::view::week_plan::{AtDawn, NextWatering, ZonePlan};

/// The day whose watering comes next: today while the clock may still plan in one of its windows, else tomorrow. `counts`: whether an opening is for more than new grass, which has
/// its own hours.
pub(crate) fn dawn(openings: &[Opening], today: Date, counts: impl Fn(usize) -> bool) -> Date {
    let mut left = openings.iter().enumerate();
    if left.any(|(at, o)| o.day == 0 && o.clock.is_some() && counts(at)) {
        today
    } else {
        today.saturating_add(1.day())
    }
}

/// Whether a person is reminded of its waterings, several a day: it is new grass by hand.
const fn is_reminded(zone: &ZonePlan) -> bool {
    zone.by_hand && zone.new_grass.is_some()
}

/// What becomes of the zones on a day of the plan.
pub(crate) fn at_dawn(zones: &[ZonePlan], dawn: Date) -> AtDawn {
    let mut found = AtDawn { water: 0, hold: 0 };
    for zone in zones.iter().filter(|zone| !is_reminded(zone)) {
        let cell = zone.cells.iter().find(|c| c.date == dawn);
        match cell.is_some_and(|c| c.run.is_some()) {
            true => found.water += 1,
            // What was let go waits for weeks: that is no news.
            false if zone.regime.is_rooted() && zone.regime != Regime::Dormant => found.hold += 1,
            false => {}
        }
    }
    found
}

/// The next day on which anything waters if no rain comes, and how likely any of it is to go ahead.
pub(crate) fn next_watering(
    zones: &[ZonePlan],
    week: &SiteWeek,
    today: Date,
) -> Option<NextWatering> {
    let date = zones
        .iter()
        .filter(|zone| !is_reminded(zone))
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
    let zones = zones.iter().enumerate();
    for (index, zone) in zones.filter(|(_, zone)| !is_reminded(zone)) {
        let Some(cell) = zone
            .cells
            .iter()
            .find(|c| c.date == date && c.run.is_some())
        else {
            continue;
        };
        next.zones.push(zone.zone.clone());
        any = any.zip(courses(week, index, day)).map(|(a, b)| a.or(b));
        for run in cell.runs() {
            if let (Some(&first), Some(&last)) = (run.starts.first(), run.starts.last()) {
                let ends = last.saturating_add(run.pass_s.seconds()).unwrap_or(last);
                next.starts = Some(next.starts.map_or(first, |s| s.min(first)));
                next.ends = Some(next.ends.map_or(ends, |e| e.max(ends)));
            }
        }
    }
    if let Some(courses) = any {
        next.chance_pct = courses.pct();
    }
    Some(next)
}

/// In which courses any of a zone's runs of a day goes ahead.
fn courses(week: &SiteWeek, zone: usize, day: usize) -> Option<Courses> {
    let likely = week.likely[zone].as_ref()?;
    let runs = week.zones[zone].proposals.iter().zip(&likely.runs);
    Some(
        runs.filter(|(p, _)| p.slot.day == day && p.dose().is_some())
            .fold(Courses::default(), |any, (_, courses)| any.or(*courses)),
    )
}
