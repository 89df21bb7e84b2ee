//! Water, hold or skip: the water-balance school.
//!
//! A backward pass from the last opportunity to the first finds the least each must give so that depletion does not pass RAW before
//! the next; what a window cannot carry moves to the window before. It never counts on rain. Then, forward: deep and seldom. Where
//! water is needed the dose refills (Dr, at most what the window carries); below a worthwhile soak it waits unless RAW would be
//! passed before the next opportunity. With rain in sight, holding and smaller doses are compared with the refill
//! ([`crate::engine::rain_and_dose`]).

use crate::engine::dose::{self, Dose};
pub use crate::engine::opportunity::{Chance, HORIZON, ZoneDay, worthwhile, zone_days};
use crate::engine::rain_and_dose::{self, Choice, Comparison};
use crate::engine::root_zone::{self, DayBalance, Irrigation};
use crate::engine::skip::Skip;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::outlook::Outlook;

/// Depths below this count as none: sums of floats miss by less.
const EPSILON_MM: f64 = 1e-9;

/// Why a zone waits.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Hold {
    /// Nothing is needed before the next opportunity.
    NotDue,
    /// A soak of this depth would not yet be worth it.
    NotWorthwhile {
        /// The worthwhile soak.
        soak: Depth,
    },
    /// Less than the least pass is needed.
    TooLittle,
    /// Rain is likely enough to wait for.
    ForRain,
    /// Needed, but other zones fill the window.
    NoRoom,
}

/// What is decided for a zone at an opportunity.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Verdict {
    /// Water.
    Water(Dose),
    /// Wait.
    Hold(Hold),
    /// Needed, and forbidden.
    Skip(Skip),
}

/// A decision with the figures behind it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Decision {
    /// Day of the horizon.
    pub day: usize,
    /// Depletion at that dawn.
    pub depletion: Depth,
    /// The least that this opportunity must give; at most 0 where nothing is needed.
    pub needed: Depth,
    /// How far depletion would pass RAW before the next opportunity, if nothing were given; negative: room left.
    pub before_next: Depth,
    /// Most that the window carries.
    pub capacity: Depth,
    /// What is done.
    pub verdict: Verdict,
    /// What was compared, where rain was in sight.
    pub compared: Option<Comparison>,
}

/// What a zone knows of rain ahead.
#[derive(Debug, Clone, Copy, Default)]
pub struct RainAhead<'a> {
    /// The site's outlook; `None`: plain refills.
    pub outlook: Option<&'a Outlook>,
    /// Opportunities running, up to now, at which the zone was held for rain.
    pub held: u32,
}

/// Times running that a zone may be held for rain.
pub const MOST_HOLDS: u32 = 2;

/// A zone's week.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneWeek {
    /// The decision of each day that has an opportunity.
    pub decisions: [Option<Decision>; HORIZON],
    /// The balance of each day of the horizon under them.
    pub balances: Vec<DayBalance>,
}

impl ZoneWeek {
    /// The decision of a day of the horizon.
    #[must_use]
    pub fn on(&self, day: usize) -> Option<&Decision> {
        self.decisions.get(day)?.as_ref()
    }

    /// The next decision after a day.
    #[must_use]
    pub fn after(&self, day: usize) -> Option<&Decision> {
        self.decisions.iter().skip(day + 1).find_map(Option::as_ref)
    }

    /// Whether there is any opportunity.
    #[must_use]
    pub fn has_opportunity(&self) -> bool {
        self.decisions.iter().any(Option::is_some)
    }

    /// The dose of a day of the horizon.
    #[must_use]
    pub fn dose_on(&self, day: usize) -> Option<&Dose> {
        match &self.on(day)?.verdict {
            Verdict::Water(dose) => Some(dose),
            _ => None,
        }
    }

    /// The first day that ends beyond RAW, and the most that any day does.
    #[must_use]
    pub fn shortfall(&self) -> Option<(usize, Depth)> {
        let beyond = |b: &DayBalance| b.end - b.raw;
        let first = self
            .balances
            .iter()
            .position(|b| beyond(b).mm() > EPSILON_MM)?;
        let most = self
            .balances
            .iter()
            .map(beyond)
            .fold(Depth::ZERO, Depth::max);
        Some((first, most))
    }
}

/// Plans one zone's week from its depletion at today's dawn and what has run today already.
#[must_use]
pub fn plan_zone(
    model: &ZoneModel,
    start: Depth,
    already: Irrigation,
    days: &[ZoneDay],
    chances: &[Chance],
    rain: RainAhead,
) -> ZoneWeek {
    let mut week = ZoneWeek {
        decisions: [None; HORIZON],
        balances: Vec::with_capacity(days.len()),
    };
    let mut depletion = start;
    let mut rain = rain;
    let mut next = 0;
    for (index, day) in days.iter().enumerate() {
        let mut irrigation = if index == 0 {
            already
        } else {
            Irrigation::default()
        };
        if chances.get(next).is_some_and(|c| c.day == index) {
            let at_dawn = (depletion - irrigation.net).max(Depth::ZERO);
            let decision = decide(model, at_dawn, days, chances, next, rain);
            rain.held = match decision.verdict {
                Verdict::Hold(Hold::ForRain) => rain.held + 1,
                _ => 0,
            };
            if let Verdict::Water(dose) = &decision.verdict {
                irrigation += dose.irrigation;
            }
            week.decisions[index] = Some(decision);
            next += 1;
        }
        let balance = root_zone::day(model, depletion, &day.weather, irrigation);
        depletion = balance.end;
        week.balances.push(balance);
    }
    week
}

/// Decides one opportunity alone, without the days after it.
#[must_use]
pub fn decide_first(
    model: &ZoneModel,
    depletion: Depth,
    days: &[ZoneDay],
    chances: &[Chance],
    rain: RainAhead,
) -> Option<Decision> {
    (!chances.is_empty()).then(|| decide(model, depletion, days, chances, 0, rain))
}

/// Decides at one of the opportunities, with the depletion of its dawn.
fn decide(
    model: &ZoneModel,
    depletion: Depth,
    days: &[ZoneDay],
    chances: &[Chance],
    at: usize,
    rain: RainAhead,
) -> Decision {
    let left = &chances[at..];
    let here = &left[0];
    let mut compared = None;
    let (needed, before_next) = backward(depletion, days, left);
    let due = needed.mm() > EPSILON_MM;
    let soak = worthwhile(days[here.day].raw);
    let pressing = before_next.mm() > EPSILON_MM;
    let verdict = if !due && !here.pulled {
        Verdict::Hold(Hold::NotDue)
    } else if let Some(skip) = here.skip {
        Verdict::Skip(skip)
    } else if here.crowded_out {
        Verdict::Hold(Hold::NoRoom)
    } else if depletion < soak && !pressing {
        Verdict::Hold(Hold::NotWorthwhile { soak })
    } else {
        let most = depletion.min(here.capacity);
        let mut wanted = most;
        if let Some(outlook) = rain.outlook
            && outlook.rain_in_sight(here.day)
        {
            let choice = Choice {
                // What must be given for the days before the next opportunity, or because later windows cannot carry it.
                least: soak.max(needed).min(most),
                most,
                may_hold: due
                    && rain.held < MOST_HOLDS
                    && needed <= before_next
                    && left
                        .get(1)
                        .is_some_and(|next| may_wait(model, depletion, &days[here.day..next.day])),
            };
            // With one candidate there is nothing to compare.
            if choice.may_hold || choice.least < choice.most {
                let comparison =
                    rain_and_dose::compare(model, depletion, days, chances, at, choice, outlook);
                wanted = comparison.chosen().net;
                compared = Some(comparison);
            }
        }
        if compared.is_some() && wanted <= Depth::ZERO {
            Verdict::Hold(Hold::ForRain)
        } else {
            dose::dose(model, wanted, here.window_s)
                .map_or(Verdict::Hold(Hold::TooLittle), Verdict::Water)
        }
    };
    Decision {
        day: here.day,
        depletion,
        needed,
        before_next,
        capacity: here.capacity,
        verdict,
        compared,
    }
}

/// Whether a zone may be held for rain over the days before the next opportunity: without rain it would pass RAW by at most a day's
/// crop ET, and stay below halfway from RAW to TAW.
fn may_wait(model: &ZoneModel, depletion: Depth, before_next: &[ZoneDay]) -> bool {
    let Some(last) = before_next.last() else {
        return false;
    };
    let projected = depletion + before_next.iter().map(|d| d.etc).sum::<Depth>();
    projected <= last.raw + last.etc && projected < (last.raw + model.taw) / 2.0
}

/// The least that the first opportunity must give, and how far RAW would be passed before the second. The end of the horizon is
/// the sentinel after the last.
pub(crate) fn backward(depletion: Depth, days: &[ZoneDay], left: &[Chance]) -> (Depth, Depth) {
    // Depletion at the end of each day if nothing were given, less its RAW, greatest of each stretch between opportunities.
    let mut dry = depletion;
    let mut beyond = [Depth::from_mm(f64::NEG_INFINITY); HORIZON];
    let mut stretch = 0;
    for (index, day) in days.iter().enumerate().skip(left[0].day) {
        if left.get(stretch + 1).is_some_and(|c| c.day <= index) {
            stretch += 1;
        }
        dry += day.etc;
        beyond[stretch] = beyond[stretch].max(dry - day.raw);
    }
    let mut needed = Depth::from_mm(f64::NEG_INFINITY);
    for (chance, beyond) in left.iter().zip(&beyond).skip(1).rev() {
        needed = beyond.max(needed) - chance.carries();
    }
    (beyond[0].max(needed), beyond[0])
}
