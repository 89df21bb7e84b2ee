//! The site's week: the zones' own plans, fitted to one clock, night by night.
//!
//! Before each night the nights ahead are levelled ([`crate::engine::levelling`]): what they hold for a zone beside the others is what its school sees. Then
//! each zone's school proposes, and the night gives what it holds ([`crate::engine::night`]). Zones watered by hand are not on the clock. It knows of a school
//! what a [`Proposal`] says and no more.

use crate::engine::chance_to_run::{self, Likely};
use crate::engine::dose;
use crate::engine::lately::Lately;
use crate::engine::levelling::{self, Load};
use crate::engine::night::{self, Wish, task, weight};
use crate::engine::rationing::{self, Cap, Claim};
use crate::engine::root_zone::{self, Given};
use crate::engine::schools::{Eve, Needs, Proposal};
use crate::engine::slot::{At, HORIZON, Opening, RainAhead, Slot, Standing};
use crate::engine::timetable::{self, Placed, Task, WHOLE};
use crate::engine::zone_week::{Member, ZoneWeek, held};
use crate::quantity::{Depth, RunTime, Volume};

/// Why zones start early in an opening although they could wait: the nights after it do not hold what the site needs.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct FullAhead {
    /// The opening.
    pub opening: usize,
    /// The last of the nights after it that are full.
    pub until: usize,
    /// What these nights hold, s.
    pub hold_s: i64,
    /// What the zones need by then beyond what is due in the opening itself, s.
    pub needed_s: i64,
}

/// A zone that gives way to others in an opening.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct GaveWay {
    /// The zone's place in the list.
    pub zone: usize,
    /// The opening.
    pub opening: usize,
    /// What it would have been given.
    pub wanted: Depth,
    /// What is missing of the least that it needs there.
    pub short: Depth,
    /// How much longer the opening would have to be for all, s.
    pub more_s: i64,
}

/// A zone that gets less because of a volume that a rule does not let pass.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rationed {
    /// The zone's place in the list.
    pub zone: usize,
    /// The opening.
    pub opening: usize,
    /// The rule, by its place.
    pub rule: usize,
    /// What it would have been given.
    pub wanted: Depth,
    /// What it gets.
    pub gives: Depth,
    /// What was left of the volume before the opening.
    pub left: Volume,
    /// What would have to be left so that nobody is harmed.
    pub needed: Volume,
}

/// What cutting and rounding passes may leave of a dose: no more than any figure here can be off.
const LEFT_OVER: Depth = Depth::from_mm(0.5);

/// The site's week.
#[derive(Debug, Clone, Default)]
pub struct SiteWeek {
    /// Each zone's week.
    pub zones: Vec<ZoneWeek>,
    /// Openings in which zones start early for the nights after.
    pub ahead: Vec<FullAhead>,
    /// Zones that give way.
    pub gave_way: Vec<GaveWay>,
    /// Zones that get less because of a volume.
    pub rationed: Vec<Rationed>,
    /// When each opening's passes start.
    pub placed: Vec<Vec<Placed>>,
    /// How likely each zone's runs are to go ahead; `None` without an outlook.
    pub likely: Vec<Option<Likely>>,
}

/// A zone on its way through the days.
struct Going<'a> {
    /// Depletion at the day's dawn.
    depletion: Depth,
    /// What the day has given so far.
    given: Given,
    rain: RainAhead<'a>,
    /// What it got lately.
    lately: Lately,
    /// Its slots, with what the other zones leave of them as things stand.
    slots: Vec<Slot>,
    /// The first of them that is not decided yet.
    here: usize,
}

/// What all members share.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Frame<'a> {
    /// The site's openings.
    pub openings: &'a [Opening],
    /// By day, when watering should have ended.
    pub targets_s: &'a [Option<i64>; HORIZON],
    /// Volumes that rules do not let pass.
    pub caps: &'a [Cap],
}

/// Plans the first days of all members' week.
pub(crate) fn plan_site(members: &[Member], frame: &Frame, days: usize) -> SiteWeek {
    let Frame {
        openings,
        targets_s,
        ..
    } = *frame;
    let mut caps = frame.caps.to_vec();
    let mut week = SiteWeek {
        zones: vec![ZoneWeek::default(); members.len()],
        placed: vec![Vec::new(); openings.len()],
        ..SiteWeek::default()
    };
    let mut going: Vec<Going> = members
        .iter()
        .map(|m| Going {
            depletion: m.start,
            given: m.already,
            rain: m.rain,
            lately: m.lately,
            slots: m.slots.clone(),
            here: 0,
        })
        .collect();
    for (day, target_s) in targets_s.iter().enumerate().take(days) {
        for (opening, o) in openings.iter().enumerate().filter(|(_, o)| o.day == day) {
            night(members, &mut going, openings, opening, &mut caps, &mut week);
            if let Some(window) = o.clock {
                week.placed[opening] =
                    timetable::place(&tasks(members, &week, opening), window, *target_s);
            }
        }
        for ((member, going), week) in members.iter().zip(&mut going).zip(&mut week.zones) {
            let balance = root_zone::day(
                member.model,
                going.depletion,
                &member.days[day].weather,
                going.given,
            );
            going.depletion = balance.end;
            going.given = Given::default();
            week.balances.push(balance);
        }
    }
    if days >= HORIZON {
        week.likely = members
            .iter()
            .zip(&week.zones)
            .map(|(member, week)| Some(chance_to_run::likely(member, week, member.rain.outlook?)))
            .collect();
    }
    week
}

/// Decides an opening.
fn night(
    members: &[Member],
    going: &mut [Going],
    openings: &[Opening],
    opening: usize,
    caps: &mut [Cap],
    week: &mut SiteWeek,
) {
    let day = openings[opening].day;
    let at: Vec<Option<Depth>> = members
        .iter()
        .zip(going.iter())
        .map(|(member, going)| {
            let slot = going
                .slots
                .get(going.here)
                .filter(|s| s.opening == opening)?;
            Some(root_zone::depletion_at(
                member.model,
                going.depletion,
                &member.days[day].weather,
                &going.given,
                slot.after_noon,
            ))
        })
        .collect();
    let nights = &openings[opening..];
    let levelled = level(members, going, nights, opening);
    week.ahead.extend(levelled.full);
    let mut proposals: Vec<Option<Proposal>> = members
        .iter()
        .zip(going.iter())
        .zip(&at)
        .map(|((member, going), at)| {
            Some(member.school.propose(&At {
                model: member.model,
                depletion: (*at)?,
                days: &member.days,
                slots: &going.slots,
                here: going.here,
                rain: going.rain,
                lately: going.lately,
            }))
        })
        .collect();
    ration(members, going, opening, day, caps, &mut proposals, week);
    let wishes: Vec<Wish> = members
        .iter()
        .zip(&proposals)
        .enumerate()
        .filter(|(_, (member, _))| !member.by_hand)
        .filter_map(|(zone, (member, proposal))| {
            let proposal = proposal.as_ref()?;
            Some(Wish {
                zone,
                takes: member.takes,
                model: member.model,
                window_s: proposal.slot.window_s,
                dose: *proposal.dose()?,
                must: proposal.must,
                rank: match proposal.slot.standing {
                    Standing::Fixed(_) => 0,
                    _ => member.priority,
                },
                urgency: proposal.urgency,
                tight: levelled.tight[zone],
            })
        })
        .collect();
    let window_s = openings[opening].length_s(false);
    if let Some(fitted) = night::fit(&wishes, window_s) {
        let more_s = night::more_s(&wishes, window_s);
        for (wish, left) in wishes.iter().zip(fitted) {
            let Some(proposal) = &mut proposals[wish.zone] else {
                continue;
            };
            let net = left.map_or(Depth::ZERO, |d| d.irrigation.net);
            let wanted = wish.dose.irrigation.net;
            proposal.give_way(left);
            if wanted - net > LEFT_OVER {
                week.gave_way.push(GaveWay {
                    zone: wish.zone,
                    opening,
                    wanted,
                    short: (wish.must.min(wanted) - net).max(Depth::ZERO),
                    more_s,
                });
            }
        }
    }
    spend(members, &proposals, day, caps);
    for (((member, going), proposal), zone) in members
        .iter()
        .zip(going)
        .zip(proposals)
        .zip(&mut week.zones)
    {
        let Some(proposal) = proposal else { continue };
        going.rain.held = held(going.rain.held, &proposal);
        if let Some(dose) = proposal.dose() {
            going.given.add(dose.irrigation, proposal.slot.after_noon);
            let date = member.days[day].weather.date;
            going.lately.water(date, &dose.irrigation);
        }
        going.here += 1;
        zone.proposals.push(proposal);
    }
}

/// Shares out what rules leave of the night's volumes, where they do not leave all that is wanted then and later.
fn ration(
    members: &[Member],
    going: &[Going],
    opening: usize,
    day: usize,
    caps: &[Cap],
    proposals: &mut [Option<Proposal>],
    week: &mut SiteWeek,
) {
    for cap in caps.iter().filter(|c| c.from <= day && day <= c.to) {
        let about: Vec<usize> = (0..members.len()).filter(|&z| cap.about[z]).collect();
        let claims: Vec<Claim> = about
            .iter()
            .map(|&z| claim(&members[z], &going[z], day, cap.to))
            .collect();
        let shared = rationing::share(&claims, cap.left, cap.to);
        // What is over goes to what is wanted tonight, the greatest need first.
        let mut over_l = shared.over_l;
        let mut order: Vec<usize> = (0..about.len()).collect();
        let urgency = |i: usize| proposals[about[i]].map_or(f64::MIN, |p| p.urgency.mm());
        order.sort_by(|&a, &b| urgency(b).total_cmp(&urgency(a)));
        for i in order {
            let zone = about[i];
            let (member, claim) = (&members[zone], &claims[i]);
            let Some(proposal) = &mut proposals[zone] else {
                continue;
            };
            let Some(dose) = proposal.dose().copied() else {
                continue;
            };
            if matches!(proposal.slot.standing, Standing::Fixed(_)) {
                continue;
            }
            let wanted = dose.irrigation.net;
            let l_per_mm = claim.litres(Depth::from_mm(1.0));
            let more =
                Depth::from_mm((over_l / l_per_mm).min((wanted - shared.net[i]).mm().max(0.0)));
            over_l -= claim.litres(more);
            let share = shared.net[i] + more;
            if share >= wanted {
                continue;
            }
            let less = dose::dose(member.model, share, proposal.slot.window_s);
            let gives = less.map_or(Depth::ZERO, |d| d.irrigation.net);
            proposal.ration(less);
            week.rationed.push(Rationed {
                zone,
                opening,
                rule: cap.rule,
                wanted,
                gives,
                left: cap.left,
                needed: Volume::from_l(shared.needed_l),
            });
        }
    }
}

/// What a zone claims of a volume from an opening's day to the last day of the volume.
fn claim<'a>(member: &'a Member, going: &Going, day: usize, to: usize) -> Claim<'a> {
    let slots = going.slots.get(going.here..).unwrap_or_default();
    Claim {
        model: member.model,
        days: member.daybook(),
        depletion: going.depletion - going.given.all().net,
        day,
        carries: slots
            .iter()
            .filter(|s| s.day <= to)
            .map(|s| (s.first_use(), s.carries()))
            .collect(),
        weight: weight(member.priority),
        area: member.area,
    }
}

/// Takes what a night gives off its volumes.
fn spend(members: &[Member], proposals: &[Option<Proposal>], day: usize, caps: &mut [Cap]) {
    for cap in caps.iter_mut().filter(|c| c.from <= day && day <= c.to) {
        let given = members.iter().zip(proposals).zip(&cap.about);
        let given: f64 = given
            .filter(|(_, about)| **about)
            .filter_map(|((member, proposal), _)| {
                let dose = proposal.as_ref()?.dose()?;
                Some((dose.irrigation.gross * member.area).l())
            })
            .sum();
        cap.left = Volume::from_l((cap.left.l() - given).max(0.0));
    }
}

/// What levelling the nights from an opening on tells.
struct Nights {
    /// By zone, see [`Load::tightness`].
    tight: Vec<f64>,
    /// The nights after the opening that are full, if the first of them is.
    full: Option<FullAhead>,
}

/// Levels the nights from an opening on, and tells each zone's slots what the others leave of them.
fn level(members: &[Member], going: &mut [Going], nights: &[Opening], first: usize) -> Nights {
    let nights_min: Vec<f64> = nights
        .iter()
        .map(|o| RunTime::from_whole_s(o.length_s(false)).s() / 60.0)
        .collect();
    let on_clock: Vec<usize> = (0..members.len())
        .filter(|&z| !members[z].by_hand)
        .collect();
    let loads: Vec<Load> = on_clock
        .iter()
        .map(|&z| load(&members[z], &going[z], nights, first))
        .collect();
    let levelled = levelling::level(&nights_min, &loads);
    let mut tight = vec![0.0; members.len()];
    for (i, &z) in on_clock.iter().enumerate() {
        tight[z] = loads[i].tightness();
        let here = going[z].here;
        for slot in going[z].slots[here..].iter_mut().skip(1) {
            let left = levelled.left_mm(i, slot.opening - first, &loads[i]);
            slot.left = Depth::from_mm(left);
        }
    }
    let full_nights = levelled.full_after_first();
    let full = (full_nights > 0).then(|| {
        let minutes = |min: f64| RunTime::from_minutes(min).round_s();
        let needed =
            |l: &Load| (l.needs.by_then_mm[full_nights] - l.needs.by_then_mm[0]) * l.minutes_a_mm;
        FullAhead {
            opening: first,
            until: first + full_nights,
            hold_s: minutes(nights_min[1..=full_nights].iter().sum()),
            needed_s: minutes(loads.iter().map(needed).sum()),
        }
    });
    Nights { tight, full }
}

/// What a zone asks of the nights from an opening on.
fn load(member: &Member, going: &Going, nights: &[Opening], first: usize) -> Load {
    let slots = &going.slots[going.here..];
    let a_minute = member
        .model
        .net_of_gross(member.model.rate.value * RunTime::from_minutes(1.0));
    let mut carries_mm = vec![0.0; nights.len()];
    for slot in slots {
        carries_mm[slot.opening - first] = match slot.standing {
            Standing::Forbidden(_) => 0.0,
            _ => slot.capacity.mm(),
        };
    }
    let needs = match slots.first() {
        Some(start) => member.school.needs(&Eve {
            model: member.model,
            days: member.daybook(),
            depletion: going.depletion - going.given.dawn.net,
            day: start.day,
            lately: going.lately,
            nights,
            carries_mm: &carries_mm,
        }),
        None => Needs {
            by_then_mm: vec![0.0; nights.len()],
            room_mm: vec![0.0; nights.len()],
        },
    };
    Load {
        // Minutes of all that may run at a time.
        minutes_a_mm: f64::from(member.takes) / f64::from(WHOLE) / a_minute.mm(),
        needs,
        carries_mm,
    }
}

/// The passes of an opening's zones on the clock.
fn tasks(members: &[Member], week: &SiteWeek, opening: usize) -> Vec<Task> {
    members
        .iter()
        .zip(&week.zones)
        .enumerate()
        .filter(|(_, (m, _))| !m.by_hand)
        .filter_map(|(zone, (m, week))| Some(task(zone, m.takes, week.dose_at(opening)?)))
        .collect()
}
