//! How likely a planned run is to go ahead, and what water a week is to be expected to take: the plan itself counts on no rain.
//!
//! The zone is run through the outlook's scenarios. On each later opportunity it waters where water is still needed, by the plan's dose
//! or less, or by a refill where the plan has none; rain that came meanwhile cancels or delays it. What the plan holds for rain stays
//! held. Runs of today are decided and certain. No source: a count over our own scenarios, checked in cases whose answer is known.

use crate::engine::decision::{
    Chance, HORIZON, Hold, Verdict, ZoneDay, ZoneWeek, backward, worthwhile,
};
use crate::engine::root_zone::{self, Irrigation};
use crate::engine::skip;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::outlook::{Outlook, SCENARIOS};

/// In which scenarios something happens, one bit each.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Courses(u64);

// One bit a scenario.
const _: () = assert!(SCENARIOS == 64);

impl Courses {
    /// In either.
    #[must_use]
    pub const fn or(self, other: Self) -> Self {
        Self(self.0 | other.0)
    }

    /// Their share, %.
    #[must_use]
    pub fn pct(self) -> f64 {
        100.0 * f64::from(self.0.count_ones()) / 64.0
    }
}

/// What a zone's week is likely to be.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Likely {
    /// By day of the horizon: where the run that the plan has there goes ahead.
    pub runs: [Courses; HORIZON],
    /// Net depth to be expected of the week.
    pub net: Depth,
}

/// Runs a zone through the scenarios, from its depletion at today's dawn and what has run today.
#[must_use]
pub fn likely(
    model: &ZoneModel,
    (start, already): (Depth, Irrigation),
    days: &[ZoneDay; HORIZON],
    chances: &[Chance],
    week: &ZoneWeek,
    outlook: &Outlook,
) -> Likely {
    let mut likely = Likely {
        runs: [Courses::default(); HORIZON],
        net: Depth::ZERO,
    };
    let scenarios = outlook.scenarios();
    for scenario in 0..SCENARIOS {
        let mut depletion = start;
        for (index, day) in days.iter().enumerate() {
            let mut irrigation = if index == 0 {
                already
            } else {
                Irrigation::default()
            };
            let at_dawn = (depletion - irrigation.net).max(Depth::ZERO);
            let wet = index > 0 && skip::is_wet(scenarios.rain(index - 1, scenario));
            let net = gives(model, at_dawn, days, chances, week, index, wet);
            if net > Depth::ZERO {
                irrigation.net += net;
                likely.net += net;
                if week.dose_on(index).is_some() {
                    likely.runs[index].0 |= 1 << scenario;
                }
            }
            let mut weather = day.weather;
            weather.rain = scenarios.rain(index, scenario);
            depletion = root_zone::day(model, depletion, &weather, irrigation).end;
        }
    }
    likely.net = likely.net / 64.0;
    likely
}

/// What an opportunity gives at a depletion; nothing where there is none.
fn gives(
    model: &ZoneModel,
    at_dawn: Depth,
    days: &[ZoneDay; HORIZON],
    chances: &[Chance],
    week: &ZoneWeek,
    index: usize,
    wet: bool,
) -> Depth {
    let Some(at) = chances.iter().position(|c| c.day == index) else {
        return Depth::ZERO;
    };
    let planned = week.dose_on(index).map(|dose| dose.irrigation.net);
    if index == 0 {
        return planned.unwrap_or_default();
    }
    let Some(decision) = week.on(index) else {
        return Depth::ZERO;
    };
    let chance = &chances[at];
    let barred = matches!(
        decision.verdict,
        Verdict::Skip(_) | Verdict::Hold(Hold::ForRain | Hold::NoRoom)
    );
    if barred || wet || chance.skip.is_some() {
        return Depth::ZERO;
    }
    let soak = worthwhile(days[index].raw);
    let (needed, before_next) = backward(at_dawn, days, &chances[at..]);
    let asked_to = planned.is_some() && decision.needed <= Depth::ZERO;
    let wants = needed > Depth::ZERO || (asked_to && at_dawn >= soak);
    if !wants || (at_dawn < soak && before_next <= Depth::ZERO) {
        return Depth::ZERO;
    }
    let net = planned.unwrap_or(chance.capacity).min(at_dawn);
    // Less than the least pass is not run.
    let least = model.net_of_gross(
        model.rate.value * crate::quantity::RunTime::from_whole_s(model.least_pass_s),
    );
    if net < least { Depth::ZERO } else { net }
}
