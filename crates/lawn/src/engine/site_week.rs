//! The site's week: each zone's own plan, fitted to one clock.
//!
//! Zones that fall due together are pulled earlier before any is dropped; what still does not fit waits, by priority, then by least
//! harm. Zones watered by hand are not on the clock.

use jiff::civil::Date;

use crate::engine::chance_to_run::{self, Likely};
use crate::engine::decision::{
    Chance, Decision, HORIZON, RainAhead, Verdict, ZoneDay, ZoneWeek, decide_first, plan_zone,
    worthwhile,
};
use crate::engine::dose::{self, Dose};
use crate::engine::root_zone::Irrigation;
use crate::engine::skip::Skip;
use crate::engine::timetable::{self, Task, Timetable};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};
use crate::site::calendar::CalendarDay;
use crate::site::{Regime, SiteDocument, Zone};

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
    pub days: [ZoneDay; HORIZON],
    /// What the weather forbids, by day.
    pub skips: [Option<Skip>; HORIZON],
    /// Rank when water is short, 1 first.
    pub priority: u8,
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// Longest window of today, s, where it is another than the clock's: a hose is not bound to what the clock has begun.
    pub today_window_s: Option<i64>,
    /// Whether the zone takes part, see [`is_planned`].
    pub planned: bool,
    /// What it knows of rain ahead.
    pub rain: RainAhead<'a>,
}

/// Whether a zone of a site takes part in planning on a day: it exists, it is established, the supply can feed it.
#[must_use]
pub fn is_planned(document: &SiteDocument, zone: &Zone, model: &ZoneModel, today: Date) -> bool {
    zone.regime == Regime::Established
        && zone.is_active(today)
        && document
            .supply
            .flow_l_min
            .is_none_or(|supply| model.flow_l_min <= supply)
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

/// What this morning decides for each member, where that can be told without the rest of the week: there is no window today; or
/// today's tasks fit, and no zone that waits has used enough for a crowded later day to move it here, or no later day can be crowded.
/// `None`: plan the whole week.
#[must_use]
pub fn this_morning(
    members: &[Member],
    calendar: &[CalendarDay],
    capacity: &impl Fn(usize, i64) -> Depth,
) -> Option<Vec<Option<Decision>>> {
    let today = &calendar[0];
    let window_s = today.longest_window_s();
    if window_s == 0 && members.iter().all(|m| m.today_window_s.is_none()) {
        return Some(vec![None; members.len()]);
    }
    let mut decisions = Vec::with_capacity(members.len());
    let mut tasks = Vec::with_capacity(members.len());
    let mut could_be_moved = false;
    for (zone, member) in members.iter().enumerate() {
        if !member.planned {
            decisions.push(None);
            continue;
        }
        let chances = chances(zone, member, calendar, capacity);
        let decision = decide_first(
            member.model,
            member.start,
            &member.days,
            &chances,
            member.rain,
        )?;
        match &decision.verdict {
            Verdict::Water(dose) if !member.by_hand => tasks.push(task(zone, dose)),
            Verdict::Hold(_) if decision.depletion >= worthwhile(member.days[0].raw) => {
                could_be_moved = true;
            }
            _ => {}
        }
        decisions.push(Some(decision));
    }
    if could_be_moved && !never_crowded(members, calendar) {
        return None;
    }
    timetable::fits(&tasks, window_s).then_some(decisions)
}

/// Whether the tasks of all zones fit the shortest window of the week even if all refilled on one day at the driest that they can get.
fn never_crowded(members: &[Member], calendar: &[CalendarDay]) -> bool {
    // Equal passes of a smaller dose may rest a little longer.
    const SLACK: f64 = 0.9;
    let Some(window_s) = calendar
        .iter()
        .map(CalendarDay::longest_window_s)
        .filter(|&s| s > 0)
        .min()
    else {
        return true;
    };
    let tasks: Vec<Task> = members
        .iter()
        .enumerate()
        .filter(|(_, m)| m.planned && !m.by_hand)
        .filter_map(|(zone, m)| {
            let driest = m.start + m.days.iter().map(|d| d.etc).sum::<Depth>();
            let dose = dose::dose(m.model, driest.min(m.model.taw), window_s)?;
            Some(task(zone, &dose))
        })
        .collect();
    let shorter = RunTime::from_s(RunTime::from_whole_s(window_s).s() * SLACK).floor_s();
    timetable::fits(&tasks, shorter)
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
            let whole_s = match member.today_window_s {
                Some(today_s) if day == 0 => today_s,
                _ => c.longest_window_s(),
            };
            // A portable is moved through all its settings within the hours.
            let window_s = whole_s / i64::from(member.model.settings);
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

/// How likely each run of a member's week is to go ahead, and what is to be expected of it all; `None` without an outlook.
#[must_use]
pub fn likely(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
    zone: usize,
    capacity: &impl Fn(usize, i64) -> Depth,
) -> Option<Likely> {
    let member = &members[zone];
    let outlook = member.rain.outlook?;
    Some(chance_to_run::likely(
        member.model,
        (member.start, member.already),
        &member.days,
        &chances(zone, member, calendar, capacity),
        &week.zones[zone],
        outlook,
    ))
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
        plan_zone(m.model, m.start, m.already, &m.days, &options[zone], m.rain)
    };
    let mut week = SiteWeek {
        zones: (0..members.len()).map(|z| replan(z, &options)).collect(),
        pulled: Vec::new(),
    };
    let mut fitting: Vec<Vec<Task>> = vec![Vec::new(); calendar.len()];
    let mut from = 0;
    // Each round pulls one zone to a day or bars it from one: it ends after at most two rounds a zone and day.
    while let Some((day, left_out)) = first_overflow(members, &week, calendar, &mut fitting, from) {
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
            // The days before are as they were.
            from = to;
        } else {
            // A zone that is barred from a day may start earlier.
            from = 0;
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

/// The first day from `from` on whose tasks do not fit its windows, with those left out. `fitting` remembers by day the tasks last found to fit,
/// so that a day is placed again only after one of its zones has changed.
fn first_overflow(
    members: &[Member],
    week: &SiteWeek,
    calendar: &[CalendarDay],
    fitting: &mut [Vec<Task>],
    from: usize,
) -> Option<(usize, Vec<Task>)> {
    calendar.iter().enumerate().skip(from).find_map(|(day, c)| {
        let tasks = tasks(members, &week.zones, day);
        if tasks.is_empty() || tasks == fitting[day] {
            return None;
        }
        if timetable::fits(&tasks, c.longest_window_s()) {
            fitting[day] = tasks;
            return None;
        }
        let left_out = timetable::left_out(&tasks, &c.windows, c.sunrise_s);
        if left_out.is_empty() {
            fitting[day] = tasks;
            return None;
        }
        Some((day, left_out))
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
            let enough = decision.depletion >= worthwhile(raw).max(raw * 0.5);
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
            let fits = timetable::fits(&tasks, c.longest_window_s())
                || timetable::left_out(&tasks, &c.windows, c.sunrise_s).is_empty();
            fits.then_some(chance.day)
        })
}
