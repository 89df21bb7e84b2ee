//! The site's week: each zone's own plan, fitted to one clock.
//!
//! Zones that fall due together are pulled earlier before any is dropped; what still does not fit waits, by priority, then by least
//! harm. Zones watered by hand are not on the clock.

use crate::calendar::CalendarDay;
use crate::decision::{Chance, ZoneDay, ZoneWeek, plan_zone};
use crate::dose::{self, Dose};
use crate::quantity::Depth;
use crate::root_zone::Irrigation;
use crate::skip::Skip;
use crate::timetable::{self, Task, Timetable};
use crate::zone_model::ZoneModel;

/// One zone as the site's week needs it.
#[derive(Debug, Clone)]
pub struct Member<'a> {
    /// Its figures.
    pub model: &'a ZoneModel,
    /// Depletion at today's dawn.
    pub start: Depth,
    /// What has run today already.
    pub already: Irrigation,
    /// The horizon as it sees it.
    pub days: Vec<ZoneDay>,
    /// What the weather forbids, by day.
    pub skips: Vec<Option<Skip>>,
    /// Rank when water is short, 1 first.
    pub priority: u8,
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// Whether the zone takes part: it exists, it is established, the supply can feed it.
    pub planned: bool,
}

/// A zone moved to an earlier day because its own had no room.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pulled {
    /// The zone's place in the list.
    pub zone: usize,
    /// The day it now waters.
    pub to: usize,
    /// The day that had no room.
    pub from: usize,
}

/// The site's week.
#[derive(Debug, Clone)]
pub struct SiteWeek {
    /// Each member's week.
    pub zones: Vec<ZoneWeek>,
    /// Zones pulled earlier.
    pub pulled: Vec<Pulled>,
}

/// The opportunities of a member.
fn chances(
    zone: usize,
    member: &Member,
    calendar: &[CalendarDay],
    capacity: &impl Fn(usize, i64) -> Depth,
) -> Vec<Chance> {
    calendar
        .iter()
        .enumerate()
        .filter_map(|(day, c)| {
            let window_s = c.longest_window_s();
            (window_s > 0).then(|| Chance {
                day,
                window_s,
                capacity: capacity(zone, window_s),
                skip: member.skips.get(day).copied().flatten(),
                crowded_out: false,
                pulled: false,
            })
        })
        .collect()
}

/// Tasks of a day, the more urgent first: by priority, then by how far the zone would pass RAW if it waited.
fn tasks(members: &[Member], weeks: &[ZoneWeek], day: usize) -> Vec<Task> {
    let mut tasks: Vec<(u8, f64, Task)> = members
        .iter()
        .zip(weeks)
        .enumerate()
        .filter(|(_, (m, _))| !m.by_hand)
        .filter_map(|(zone, (member, week))| {
            let decision = week.on(day)?;
            let task = task(zone, week.dose_on(day)?);
            Some((member.priority, -decision.before_next.mm(), task))
        })
        .collect();
    tasks.sort_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)));
    tasks.into_iter().map(|t| t.2).collect()
}

/// The timetable of a day of the week.
#[must_use]
pub fn timetable(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
    day: usize,
) -> Timetable {
    let c = &calendar[day];
    timetable::place(&tasks(members, &week.zones, day), &c.windows, c.sunrise_s)
}

/// How much longer a day's window would have to be, s, for a zone that other zones crowd out of it; 0 where it is not.
#[must_use]
pub fn missing_s(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
    zone: usize,
    day: usize,
) -> i64 {
    let Some(decision) = week.zones[zone].on(day) else {
        return 0;
    };
    let window_s = calendar[day].longest_window_s();
    let model = members[zone].model;
    let wanted = dose::dose(model, decision.depletion.min(decision.capacity), window_s);
    let mut tasks = tasks(members, &week.zones, day);
    tasks.extend(wanted.map(|dose| task(zone, &dose)));
    (timetable::length_s(&tasks) - window_s).max(0)
}

fn task(zone: usize, dose: &Dose) -> Task {
    Task {
        zone,
        passes: dose.passes,
        pass_s: dose.pass_s,
        soak_s: dose.soak_s,
    }
}

/// Plans the week of all members over a calendar of as many days. `capacity` says what a window of so many seconds
/// carries for a member ([`dose::capacity`], or a memory of it).
#[must_use]
pub fn plan_site(
    members: &[Member],
    calendar: &[CalendarDay],
    capacity: &impl Fn(usize, i64) -> Depth,
) -> SiteWeek {
    let mut options: Vec<Vec<Chance>> = members
        .iter()
        .enumerate()
        .map(|(zone, m)| {
            if m.planned {
                chances(zone, m, calendar, capacity)
            } else {
                Vec::new()
            }
        })
        .collect();
    let replan = |zone: usize, options: &[Vec<Chance>]| {
        let m = &members[zone];
        plan_zone(m.model, m.start, m.already, &m.days, &options[zone])
    };
    let mut week = SiteWeek {
        zones: (0..members.len()).map(|z| replan(z, &options)).collect(),
        pulled: Vec::new(),
    };
    // Each round pulls one zone to a day or bars it from one: it ends after at most two rounds a zone and day.
    while let Some((day, left_out)) = first_overflow(members, &week, calendar) {
        let found = left_out
            .iter()
            .chain(tasks(members, &week.zones, day).iter().rev())
            .find_map(|task| {
                earlier_room(members, &week, calendar, &options, task.zone, day)
                    .map(|to| (task.zone, to))
            });
        if let Some((zone, to)) = found {
            set(&mut options[zone], to, |c| c.pulled = true);
            week.pulled.push(Pulled {
                zone,
                to,
                from: day,
            });
            week.zones[zone] = replan(zone, &options);
        } else {
            for task in left_out {
                set(&mut options[task.zone], day, |c| c.crowded_out = true);
                week.zones[task.zone] = replan(task.zone, &options);
            }
        }
    }
    week.pulled
        .retain(|p| week.zones[p.zone].dose_on(p.to).is_some());
    week
}

fn set(chances: &mut [Chance], day: usize, change: impl Fn(&mut Chance)) {
    if let Some(chance) = chances.iter_mut().find(|c| c.day == day) {
        change(chance);
    }
}

/// The first day whose tasks do not fit its windows, with those left out.
fn first_overflow(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
) -> Option<(usize, Vec<Task>)> {
    calendar.iter().enumerate().find_map(|(day, c)| {
        let tasks = tasks(members, &week.zones, day);
        if timetable::surely_fits(&tasks, c.longest_window_s()) {
            return None;
        }
        let left_out = timetable::place(&tasks, &c.windows, c.sunrise_s).left_out;
        (!left_out.is_empty()).then_some((day, left_out))
    })
}

/// The latest earlier day on which a zone could water: open to it, not used by it yet, at least half of RAW depleted, with room.
fn earlier_room(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
    options: &[Vec<Chance>],
    zone: usize,
    before: usize,
) -> Option<usize> {
    let member = &members[zone];
    options[zone]
        .iter()
        .rev()
        .filter(|c| c.day < before)
        .find_map(|chance| {
            if chance.pulled || chance.crowded_out || chance.skip.is_some() {
                return None;
            }
            let decision = week.zones[zone].on(chance.day)?;
            let raw = member.days[chance.day].raw;
            let enough = decision.depletion >= crate::decision::worthwhile(raw).max(raw * 0.5);
            if !enough || week.zones[zone].dose_on(chance.day).is_some() {
                return None;
            }
            let dose = dose::dose(
                member.model,
                decision.depletion.min(chance.capacity),
                chance.window_s,
            )?;
            let mut tasks = tasks(members, &week.zones, chance.day);
            tasks.push(task(zone, &dose));
            let c = &calendar[chance.day];
            let fits = timetable::surely_fits(&tasks, c.longest_window_s())
                || timetable::place(&tasks, &c.windows, c.sunrise_s)
                    .left_out
                    .is_empty();
            fits.then_some(chance.day)
        })
}
