//! The site's week: each zone's own plan, fitted to one clock.
//!
//! Zones that fall due together are pulled earlier before any is dropped; what still does not fit waits, by priority, then by least
//! harm. Zones watered by hand are not on the clock. It knows of a school what a [`Proposal`] says and no more.

use crate::engine::chance_to_run::{self, Likely};
use crate::engine::dose::{self, Dose};
use crate::engine::schools::{Act, Proposal};
use crate::engine::slot::{At, HORIZON, Opening, Standing};
use crate::engine::timetable::{self, Placed, Task};
use crate::engine::zone_week::{Member, ZoneWeek, plan_zone};
use crate::quantity::{Depth, RunTime};

/// A zone moved to an earlier slot because its own had no room.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Pulled {
    /// The zone's place in the list.
    pub zone: usize,
    /// The opening in which it now waters.
    pub to: usize,
    /// The opening that had no room.
    pub from: usize,
}

/// A zone that other zones crowd out of an opening.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Missing {
    /// The zone's place in the list.
    pub zone: usize,
    /// The opening.
    pub opening: usize,
    /// How much longer it would have to be, s.
    pub more_s: i64,
}

/// The site's week.
#[derive(Debug, Clone, Default)]
pub struct SiteWeek {
    /// Each zone's week.
    pub zones: Vec<ZoneWeek>,
    /// Zones pulled earlier.
    pub pulled: Vec<Pulled>,
    /// Zones crowded out.
    pub missing: Vec<Missing>,
    /// When each opening's passes start.
    pub placed: Vec<Vec<Placed>>,
    /// How likely each zone's runs are to go ahead; `None` without an outlook.
    pub likely: Vec<Option<Likely>>,
}

/// What this morning decides for each zone in the one slot that today has, where that can be told without the rest of the week: today's
/// tasks fit, and no zone that waits has used enough for a crowded later slot to move it here, or no later slot can be crowded.
/// `None`: plan the whole week.
pub(crate) fn this_morning(
    members: &[Member],
    openings: &[Opening],
) -> Option<Vec<Option<Proposal>>> {
    let today = openings.iter().take_while(|o| o.day == 0).count();
    if today == 0 {
        return Some(vec![None; members.len()]);
    }
    if today > 1 {
        return None;
    }
    let mut proposals = Vec::with_capacity(members.len());
    let mut tasks = Vec::with_capacity(members.len());
    let mut could_be_moved = false;
    for (zone, member) in members.iter().enumerate() {
        let Some(slot) = member.slots.first().filter(|s| s.day == 0) else {
            proposals.push(None);
            continue;
        };
        let proposal = member.school.propose(&At {
            model: member.model,
            depletion: if slot.after_noon {
                // The day's ET comes first.
                return None;
            } else {
                member.start
            },
            days: &member.days,
            slots: &member.slots,
            here: 0,
            rain: member.rain,
        });
        match &proposal.act {
            Act::Water(dose) if !member.by_hand => tasks.push(task(zone, dose)),
            Act::Wait | Act::WaitForRain if proposal.takes >= proposal.soak => {
                could_be_moved = true;
            }
            _ => {}
        }
        proposals.push(Some(proposal));
    }
    if could_be_moved && !never_crowded(members, openings) {
        return None;
    }
    timetable::fits(&tasks, openings[0].length_s(false)).then_some(proposals)
}

/// Whether the tasks of all zones fit the shortest window of the week even if all refilled on one day at the driest that they can get.
fn never_crowded(members: &[Member], openings: &[Opening]) -> bool {
    // Equal passes of a smaller dose may rest a little longer.
    const SLACK: f64 = 0.9;
    let Some(window_s) = openings
        .iter()
        .map(|o| o.length_s(false))
        .filter(|&s| s > 0)
        .min()
    else {
        return true;
    };
    let tasks: Vec<Task> = members
        .iter()
        .enumerate()
        .filter(|(_, m)| !m.slots.is_empty() && !m.by_hand)
        .filter_map(|(zone, m)| {
            let driest = m.start + m.days.iter().map(|d| d.etc).sum::<Depth>();
            let dose = dose::dose(m.model, driest.min(m.model.taw), window_s)?;
            Some(task(zone, &dose))
        })
        .collect();
    let shorter = RunTime::from_s(RunTime::from_whole_s(window_s).s() * SLACK).floor_s();
    timetable::fits(&tasks, shorter)
}

/// Tasks of an opening, the more urgent first: what a person has fixed, then by priority, then by how far the zone would pass its limit if it
/// waited.
fn tasks(members: &[Member], weeks: &[ZoneWeek], opening: usize) -> Vec<Task> {
    let mut tasks: Vec<(u8, f64, Task)> = members
        .iter()
        .zip(weeks)
        .enumerate()
        .filter(|(_, (m, _))| !m.by_hand)
        .filter_map(|(zone, (member, week))| {
            let proposal = week.at(opening)?;
            let task = task(zone, proposal.dose()?);
            let rank = match proposal.slot.standing {
                Standing::Fixed(_) => 0,
                _ => member.priority,
            };
            Some((rank, -proposal.urgency.mm(), task))
        })
        .collect();
    tasks.sort_by(|a, b| a.0.cmp(&b.0).then(a.1.total_cmp(&b.1)));
    tasks.into_iter().map(|t| t.2).collect()
}

fn task(zone: usize, dose: &Dose) -> Task {
    Task {
        zone,
        passes: dose.passes,
        pass_s: dose.pass_s,
        soak_s: dose.soak_s,
    }
}

/// Plans the week of all members over the site's openings; `targets_s`: by day, when watering should have ended.
pub(crate) fn plan_site(
    members: &mut [Member],
    openings: &[Opening],
    targets_s: &[Option<i64>; HORIZON],
) -> SiteWeek {
    let mut week = SiteWeek {
        zones: members.iter().map(plan_zone).collect(),
        ..SiteWeek::default()
    };
    let mut fitting: Vec<Vec<Task>> = vec![Vec::new(); openings.len()];
    let mut from = 0;
    // Each round pulls one zone to an opening or bars it from one: it ends after at most two rounds a zone and opening.
    while let Some((opening, left_out)) =
        first_overflow(members, &week, openings, &mut fitting, from)
    {
        let found = left_out
            .iter()
            .chain(tasks(members, &week.zones, opening).iter().rev())
            .find_map(|task| {
                earlier_room(members, &week, openings, task.zone, opening).map(|to| (task.zone, to))
            });
        if let Some((zone, to)) = found {
            set(&mut members[zone], to, Standing::AskedFor);
            week.pulled.push(Pulled {
                zone,
                to,
                from: opening,
            });
            week.zones[zone] = plan_zone(&members[zone]);
            // The openings before are as they were.
            from = to;
        } else {
            // A zone that is barred from an opening may start earlier.
            from = 0;
            for task in left_out {
                set(&mut members[task.zone], opening, Standing::Crowded);
                week.zones[task.zone] = plan_zone(&members[task.zone]);
            }
        }
    }
    let zones = &week.zones;
    week.pulled
        .retain(|p| zones[p.zone].dose_at(p.to).is_some());
    week.missing = missing(members, zones, openings);
    week.placed = openings
        .iter()
        .enumerate()
        .map(|(opening, o)| match o.clock {
            Some(window) => {
                timetable::place(&tasks(members, zones, opening), window, targets_s[o.day])
            }
            None => Vec::new(),
        })
        .collect();
    week.likely = members
        .iter()
        .zip(&week.zones)
        .map(|(member, week)| Some(chance_to_run::likely(member, week, member.rain.outlook?)))
        .collect();
    week
}

/// Sets a slot's standing, but for what a person has fixed.
fn set(member: &mut Member, opening: usize, standing: Standing) {
    let slot = member.slots.iter_mut().find(|s| s.opening == opening);
    if let Some(slot) = slot.filter(|s| !matches!(s.standing, Standing::Fixed(_))) {
        slot.standing = standing;
    }
}

/// How much longer each opening would have to be for the zones that it has no room for.
fn missing(members: &[Member], zones: &[ZoneWeek], openings: &[Opening]) -> Vec<Missing> {
    let mut missing = Vec::new();
    for (zone, week) in zones.iter().enumerate() {
        for proposal in week.proposals.iter().filter(|p| p.act == Act::NoRoom) {
            let slot = &proposal.slot;
            let window_s = openings[slot.opening].length_s(false);
            let wanted = proposal.takes.min(slot.capacity);
            let mut tasks = tasks(members, zones, slot.opening);
            tasks.extend(
                dose::dose(members[zone].model, wanted, window_s).map(|dose| task(zone, &dose)),
            );
            missing.push(Missing {
                zone,
                opening: slot.opening,
                more_s: (timetable::length_s(&tasks) - window_s).max(0),
            });
        }
    }
    missing
}

/// The first opening from `from` on whose tasks do not fit it, with those left out. `fitting` remembers by opening the tasks last found to
/// fit, so that it is placed again only after one of its zones has changed.
fn first_overflow(
    members: &[Member],
    week: &SiteWeek,
    openings: &[Opening],
    fitting: &mut [Vec<Task>],
    from: usize,
) -> Option<(usize, Vec<Task>)> {
    openings
        .iter()
        .enumerate()
        .skip(from)
        .find_map(|(opening, o)| {
            let tasks = tasks(members, &week.zones, opening);
            if tasks.is_empty() || tasks == fitting[opening] {
                return None;
            }
            let window_s = o.length_s(false);
            let left_out = if timetable::fits(&tasks, window_s) {
                Vec::new()
            } else {
                let mut left_out = timetable::left_out(&tasks, window_s);
                left_out.retain(|task| may_give_way(&members[task.zone], opening));
                left_out
            };
            if left_out.is_empty() {
                fitting[opening] = tasks;
                return None;
            }
            Some((opening, left_out))
        })
}

/// Whether a zone may be barred from an opening: not where a person has fixed what runs.
fn may_give_way(member: &Member, opening: usize) -> bool {
    member
        .slots
        .iter()
        .find(|s| s.opening == opening)
        .is_none_or(|s| !matches!(s.standing, Standing::Fixed(_)))
}

/// The latest earlier opening in which a zone could water: open to it, not used by it yet, enough used for its school, with room.
fn earlier_room(
    members: &[Member],
    week: &SiteWeek,
    openings: &[Opening],
    zone: usize,
    before: usize,
) -> Option<usize> {
    let member = &members[zone];
    member
        .slots
        .iter()
        .rev()
        .filter(|slot| slot.opening < before && slot.standing == Standing::Open)
        .find_map(|slot| {
            let proposal = week.zones[zone].at(slot.opening)?;
            if proposal.takes < proposal.early_from || proposal.dose().is_some() {
                return None;
            }
            let dose = dose::dose(
                member.model,
                proposal.takes.min(slot.capacity),
                slot.window_s,
            )?;
            let mut tasks = tasks(members, &week.zones, slot.opening);
            tasks.push(task(zone, &dose));
            timetable::fits(&tasks, openings[slot.opening].length_s(false)).then_some(slot.opening)
        })
}
