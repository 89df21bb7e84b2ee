//! Water, hold or skip: the water-balance school.
//!
//! A backward pass from the last opportunity to the first finds the least each must give so that depletion does not pass RAW before
//! the next; what a window cannot carry moves to the window before. It never counts on rain. Then, forward: deep and seldom. Where
//! water is needed the dose refills (Dr, at most what the window carries); below a worthwhile soak it waits unless RAW would be
//! passed before the next opportunity. With rain in sight, holding and smaller doses are compared with the refill
//! ([`crate::engine::rain_and_dose`]).

use super::proposal::{Act, Proposal};

use super::why::{Because, Compared, WaterBalance, Why};
use crate::engine::dose;
use crate::engine::rain_and_dose::{self, Choice, LEAST_DOSE, RELIEF};
use crate::engine::slot::{At, HORIZON, Slot, Standing, ZoneDay, worthwhile};
use crate::quantity::Depth;
use crate::weather::outlook::COMPARED_DAYS;

/// Depths below this count as none: sums of floats miss by less.
const EPSILON_MM: f64 = 1e-9;
/// Times running that a zone in need may be held for rain: a guard against a forecast that goes on promising.
pub const MOST_HOLDS: u32 = 4;

/// Proposes for a zone at a slot.
#[must_use]
pub(super) fn propose(at: &At) -> Proposal {
    let here = *at.slot();
    let today = &at.days[here.day];
    let (needed, before_next) = backward(at.depletion, at.days, at.left(), Slot::carries);
    let due = needed.mm() > EPSILON_MM;
    let soak = worthwhile(today.raw);
    let most = at.depletion.min(here.capacity);
    let next = at.later().first().filter(|s| s.day < HORIZON);
    let mut why = WaterBalance {
        because: Because::NotDue,
        needed,
        before_next,
        next: next.map(|s| s.day),
        passes_raw: passes_raw(at, &here),
        most,
        compared: None,
    };
    let act = match here.standing {
        Standing::Fixed(dose) => {
            why.because = Because::Fixed;
            Act::Water(dose)
        }
        _ if !due => Act::Wait,
        Standing::Forbidden(skip) => {
            why.because = Because::Forbidden(skip);
            Act::Skip(skip)
        }
        Standing::Open if at.depletion < soak && before_next.mm() <= EPSILON_MM => {
            why.because = Because::NotWorthwhile;
            Act::Wait
        }
        Standing::Open => {
            why.compared = compared(at, &here, LEAST_DOSE.max(before_next).min(most));
            let wanted = why.compared.map_or(most, |c| c.comparison.chosen().net);
            if why.compared.is_some() && wanted <= Depth::ZERO {
                why.because = Because::ForRain;
                Act::WaitForRain
            } else if let Some(dose) = dose::dose(at.model, wanted, here.window_s) {
                why.because = if before_next.mm() > EPSILON_MM {
                    Because::Due
                } else if alone(at) > Depth::ZERO {
                    Because::StartsEarly
                } else {
                    Because::StartsForOthers
                };
                Act::Water(dose)
            } else {
                why.because = Because::TooLittle;
                Act::Wait
            }
        }
    };
    Proposal {
        slot: here,
        depletion: at.depletion,
        act,
        urgency: before_next,
        soak,
        must: needed.max(Depth::ZERO),
        why: Why::WaterBalance(why),
    }
}

/// What the slot must give if no other zone used the later windows.
fn alone(at: &At) -> Depth {
    backward(at.depletion, at.days, at.left(), Slot::carries_alone).0
}

/// Weighs rain in sight where there is something to choose; `least`: what must be given for the days before the next opportunity. That later
/// windows carry too little is no reason by itself: what they carry enters the comparison.
fn compared(at: &At, here: &Slot, least: Depth) -> Option<Compared> {
    let outlook = at.rain.outlook?;
    if !outlook.rain_in_sight(here.day) || here.first_use() >= HORIZON {
        return None;
    }
    let next = at.later().first().filter(|s| s.first_use() <= HORIZON);
    let choice = Choice {
        least,
        most: at.depletion.min(here.capacity),
        may_hold: next.is_some() && at.rain.held < MOST_HOLDS,
    };
    // With one candidate there is nothing to compare.
    if !choice.may_hold && choice.least >= choice.most {
        return None;
    }
    let comparison = rain_and_dose::compare(at, choice, outlook);
    let by = at.later().get(RELIEF - 1).or(at.later().last());
    let by = by.map_or(HORIZON, |slot| slot.day);
    let expected = outlook.rain_within(here.day, by - here.day).1;
    Some(Compared {
        comparison,
        by,
        expected,
        expected_in_all: outlook.rain_within(here.day, COMPARED_DAYS).1,
    })
}

/// The day on which RAW would be passed if nothing were given from a slot on.
fn passes_raw(at: &At, here: &Slot) -> Option<usize> {
    let mut dry = at.depletion;
    (here.first_use()..HORIZON).find(|&day| {
        dry += at.days[day].etc;
        dry > at.days[day].raw
    })
}

/// The least that the first slot must give, and how far RAW would be passed before the second. The end of the horizon is the sentinel
/// after the last. Two slots with no day's ET between them: the first must give only what the second cannot.
pub(crate) fn backward(
    depletion: Depth,
    days: &[ZoneDay; HORIZON],
    slots: &[Slot],
    carries: impl Fn(&Slot) -> Depth,
) -> (Depth, Depth) {
    let mut dry = depletion;
    let mut carried = Depth::ZERO;
    let mut before_next = None;
    let mut needed = Depth::from_mm(f64::NEG_INFINITY);
    let mut at = 0;
    for (index, day) in days.iter().enumerate().skip(slots[0].first_use()) {
        while let Some(next) = slots.get(at + 1).filter(|s| s.first_use() <= index) {
            carried += carries(next);
            at += 1;
        }
        dry += day.etc;
        let beyond = dry - day.raw;
        if at == 0 {
            before_next = Some(before_next.unwrap_or(beyond).max(beyond));
        }
        needed = needed.max(beyond - carried);
    }
    if needed.mm().is_finite() {
        (needed, before_next.unwrap_or(needed))
    } else {
        // No ET is left in the horizon: as things stand.
        let room = dry - days[HORIZON - 1].raw;
        (room, room)
    }
}

/// What the zone would be given at a slot at another depletion: the planned dose or less, or nothing where water is no longer needed.
pub(super) fn would_give(at: &At, planned: &Proposal) -> Depth {
    let here = at.slot();
    let dose = planned.dose().map(|dose| dose.irrigation.net);
    if let Standing::Fixed(_) = here.standing {
        return dose.unwrap_or_default();
    }
    let barred = matches!(planned.act, Act::Skip(_) | Act::WaitForRain | Act::NoRoom);
    if barred || matches!(here.standing, Standing::Forbidden(_)) {
        return Depth::ZERO;
    }
    let (needed, before_next) = backward(at.depletion, at.days, at.left(), Slot::carries);
    let asked = dose.is_some() && starts_for_others(planned);
    let wants = needed > Depth::ZERO || (asked && at.depletion >= planned.soak);
    if !wants || (at.depletion < planned.soak && before_next <= Depth::ZERO) {
        return Depth::ZERO;
    }
    at.model
        .unless_too_little(dose.unwrap_or(here.capacity).min(at.depletion))
}

fn starts_for_others(planned: &Proposal) -> bool {
    planned.why.because() == Because::StartsForOthers
}
