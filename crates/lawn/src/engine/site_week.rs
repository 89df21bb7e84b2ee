//! The site's week: the zones' own plans, fitted to one clock, night by night.
//!
//! Before each night the nights ahead are levelled ([`crate::engine::levelling`]): what they hold for a zone beside the others is what its school sees. Then
//! each zone's school proposes, and the night gives what it holds ([`crate::engine::night`]). Zones watered by hand are not on the clock. It knows of a school
//! what a [`Proposal`] says and no more.

use crate::engine::chance_to_run::{self, Likely};
use crate::engine::levelling::{self, Load};
use crate::engine::night::{self, Night, Wish, task};
use crate::engine::rationing::{Cap, Rationed};
use crate::engine::remedy::{self, Remedy};
use crate::engine::reserve::Reserve;
use crate::engine::root_zone::{self, Given};
use crate::engine::schools::{Eve, Needs, Proposal};
use crate::engine::sharing::{of_store, ration, spend};
use crate::engine::slot::{At, HORIZON, Opening, Standing};
use crate::engine::timetable::{self, Placed, Task, WHOLE};
use crate::engine::zone_week::{Going, Member, Turn, ZoneWeek, held};
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

/// What cutting and rounding passes may leave of a dose: no more than any figure here can be off.
const LEFT_OVER: Depth = Depth::from_mm(0.5);

/// The site's week.
#[derive(Debug, Clone, Default)]
pub struct SiteWeek {
    /// Each zone's week.
    pub zones: Vec<ZoneWeek>,
    /// Openings in which zones start early for the nights after.
    pub ahead: Vec<FullAhead>,
    /// Zones that give way; of whole weeks only.
    pub gave_way: Vec<GaveWay>,
    /// Zones that get less because of a volume.
    pub rationed: Vec<Rationed>,
    /// What would shorten openings in which not all fits; of whole weeks only.
    pub remedies: Vec<Remedy>,
    /// When each opening's passes start; of a morning alone only where a store is drawn on.
    pub placed: Vec<Vec<Placed>>,
    /// How likely each zone's runs are to go ahead; `None` without an outlook.
    pub likely: Vec<Option<Likely>>,
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
    /// The tank or well as it stands before the first opening.
    pub reserve: Option<Reserve>,
}

/// All members as the first day finds them.
pub(crate) fn begin<'a>(members: &[Member<'a>]) -> Vec<Going<'a>> {
    let of = |m: &Member<'a>| Going {
        depletion: m.start,
        given: m.already,
        rain: m.rain,
        lately: m.lately,
        slots: m.slots.clone(),
        here: 0,
        bed: m.beds.as_ref().map(|beds| beds.begin(m.start)),
    };
    members.iter().map(of).collect()
}

/// Plans the first days of all members' week.
pub(crate) fn plan_site(members: &[Member], frame: &Frame, days: usize) -> SiteWeek {
    let Frame {
        openings,
        targets_s,
        ..
    } = *frame;
    let mut shared = Shared {
        caps: frame.caps.to_vec(),
        reserve: frame.reserve,
        whole: days >= HORIZON,
    };
    let mut week = SiteWeek {
        zones: vec![ZoneWeek::default(); members.len()],
        placed: vec![Vec::new(); openings.len()],
        ..SiteWeek::default()
    };
    let mut going = begin(members);
    for (day, target_s) in targets_s.iter().enumerate().take(days) {
        for (opening, o) in openings.iter().enumerate().filter(|(_, o)| o.day == day) {
            // A window that is open is as it was planned up to where the clock may plan again.
            shared.reserve = shared.reserve.map(|r| r.at(o.window.start_s));
            night(
                members,
                &mut going,
                openings,
                opening,
                &mut shared,
                &mut week,
            );
            // A morning's decision alone asks for the clock only where the next opening draws on the same store.
            let is_timed = shared.whole || shared.reserve.is_some();
            if let Some(window) = o.clock.filter(|_| is_timed) {
                let tasks = tasks(members, &week, opening);
                let reserve = shared.reserve.as_ref();
                week.placed[opening] = timetable::place(&tasks, window, *target_s, reserve);
            }
            if let Some(reserve) = &mut shared.reserve {
                let by_hand = by_hand(members, &week, opening);
                *reserve = timetable::drawn(reserve, &week.placed[opening]).less(by_hand);
            }
        }
        for ((member, going), week) in members.iter().zip(&mut going).zip(&mut week.zones) {
            let balance = match (&member.beds, &mut going.bed) {
                (Some(beds), Some(bed)) => beds.end(bed, day, going.depletion),
                _ => {
                    let weather = &member.days[day].weather;
                    root_zone::day(member.model, going.depletion, weather, going.given)
                }
            };
            going.depletion = balance.end;
            going.given = Given::default();
            week.balances.push(balance);
        }
    }
    if shared.whole {
        week.likely = members
            .iter()
            .zip(&week.zones)
            .map(|(member, week)| Some(chance_to_run::likely(member, week, member.rain.outlook?)))
            .collect();
    }
    week
}

/// What zones share over the days.
struct Shared {
    caps: Vec<Cap>,
    /// The store as it stands when the next opening begins.
    reserve: Option<Reserve>,
    /// Whether the whole week is planned, with its clock and with what would shorten full nights; else decisions alone.
    whole: bool,
}

/// Decides an opening.
fn night(
    members: &[Member],
    going: &mut [Going],
    openings: &[Opening],
    opening: usize,
    shared: &mut Shared,
    week: &mut SiteWeek,
) {
    let day = openings[opening].day;
    let reserve = shared.reserve;
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
    let levelled = level(members, going, nights, opening, reserve.as_ref());
    week.ahead.extend(levelled.full);
    let mut proposals: Vec<Option<Proposal>> = members
        .iter()
        .zip(going.iter_mut())
        .zip(&at)
        .map(|((member, going), at)| {
            (*at)?;
            if let (Some(beds), Some(bed)) = (&member.beds, &mut going.bed) {
                let left = &going.slots[going.here..];
                return beds.propose(bed, member.model, left, &going.lately);
            }
            Some(member.keeping.propose(&At {
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
    let caps = shared.caps.iter().cloned();
    let of_store = reserve
        .iter()
        .flat_map(|r| of_store(members, openings, opening, r));
    for cap in caps
        .chain(of_store)
        .filter(|c| c.from <= day && day <= c.to)
    {
        let rationed = &mut week.rationed;
        ration(members, going, opening, day, &cap, &mut proposals, rationed);
    }
    let longest_s =
        |member: &Member| reserve.map_or(i64::MAX, |r| r.longest_s(member.model.flow_l_min / 60.0));
    for (member, proposal) in members.iter().zip(&mut proposals) {
        if let Some(proposal) = proposal {
            proposal.cut(member.model, longest_s(member));
        }
    }
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
                most_s: longest_s(member),
                model: member.model,
                window_s: proposal.slot.window_s,
                dose: *proposal.dose()?,
                must: proposal.must,
                rank: match proposal.slot.standing {
                    Standing::Fixed(_) => 0,
                    // Trees, and crowns at their due date, come before what is to stay green.
                    _ if member.turn() != Turn::Green => 0,
                    _ => member.priority,
                },
                urgency: proposal.urgency,
                tight: levelled.tight[zone],
            })
        })
        .collect();
    let on_clock = Night {
        window_s: openings[opening].length_s(false),
        reserve: reserve.as_ref(),
    };
    if let Some(fitted) = night::fit(&wishes, on_clock) {
        let more_s = shared.whole.then(|| night::more_s(&wishes, on_clock));
        if more_s.is_some_and(|more_s| more_s > 0) {
            let remedies = remedy::remedies(&wishes, on_clock, opening);
            week.remedies.extend(remedies);
        }
        for (wish, left) in wishes.iter().zip(fitted) {
            let Some(proposal) = &mut proposals[wish.zone] else {
                continue;
            };
            let net = left.map_or(Depth::ZERO, |d| d.irrigation.net);
            let wanted = wish.dose.irrigation.net;
            proposal.give_way(left);
            if let Some(more_s) = more_s.filter(|_| wanted - net > LEFT_OVER) {
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
    spend(members, &proposals, day, &mut shared.caps);
    for (((member, going), proposal), zone) in members
        .iter()
        .zip(going)
        .zip(proposals)
        .zip(&mut week.zones)
    {
        let Some(proposal) = proposal else { continue };
        going.rain.held = held(going.rain.held, &proposal);
        if let (Some(beds), Some(bed)) = (&member.beds, &mut going.bed) {
            beds.water(bed, &proposal);
        }
        if let Some(dose) = proposal.dose() {
            going.given.add(dose.irrigation, proposal.slot.after_noon);
            let date = member.days[day].weather.date;
            going.lately.water(date, &dose.irrigation);
        }
        going.here += 1;
        zone.proposals.push(proposal);
    }
}

/// What people water by hand in an opening.
fn by_hand(members: &[Member], week: &SiteWeek, opening: usize) -> Volume {
    let of = members
        .iter()
        .zip(&week.zones)
        .filter(|(m, _)| m.by_hand)
        .filter_map(|(m, week)| Some((week.dose_at(opening)?.irrigation.gross * m.area).l()));
    Volume::from_l(of.sum())
}

/// What levelling the nights from an opening on tells.
struct Nights {
    /// By zone, see [`Load::tightness`].
    tight: Vec<f64>,
    /// The nights after the opening that are full, if the first of them is.
    full: Option<FullAhead>,
}

/// Levels the nights from an opening on, and tells each zone's slots what the others leave of them.
fn level(
    members: &[Member],
    going: &mut [Going],
    nights: &[Opening],
    first: usize,
    reserve: Option<&Reserve>,
) -> Nights {
    let mut nights_min: Vec<f64> = nights
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
    if let Some(reserve) = reserve {
        let needed_mm = |i: usize| loads[i].needs.by_then_mm.last().copied().unwrap_or(0.0);
        let sum = |of: &dyn Fn(usize) -> f64| -> f64 {
            (0..loads.len()).map(|i| of(i) * needed_mm(i)).sum()
        };
        let minutes = sum(&|i| loads[i].minutes_a_mm);
        let litres = sum(&|i| {
            let member = &members[on_clock[i]];
            (member.model.gross_of_net(Depth::from_mm(1.0)) * member.area).l()
        });
        // By itself, if nights before take nothing: what all of them take together is shared out by volume.
        for (night, min) in nights.iter().zip(&mut nights_min) {
            let holds_l = reserve.gives(night.window).l();
            if litres > 0.0 {
                *min = min.min(holds_l * minutes / litres);
            }
        }
    }
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
        Some(start) => member.keeping.needs(&Eve {
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
        .filter_map(|(zone, (m, week))| Some(task(zone, m.takes, m.model, week.dose_at(opening)?)))
        .collect()
}
