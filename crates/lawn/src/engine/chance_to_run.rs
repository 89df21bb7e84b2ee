//! How likely a planned run is to go ahead, and what water a week is to be expected to take: the plan itself counts on no rain.
//!
//! The zone is run through the outlook's scenarios. On each later opportunity it waters where water is still needed, by the plan's dose
//! or less, or by a refill where the plan has none; rain that came meanwhile cancels or delays it. What the plan holds for rain stays
//! held. Runs of today are decided and certain. No source: a count over our own scenarios, checked in cases whose answer is known.

use crate::engine::root_zone::{self, DayBalance, Given, Irrigation};
use crate::engine::schools::Proposal;
use crate::engine::skip;
use crate::engine::slot::{At, RainAhead};
use crate::engine::zone_week::{Member, ZoneWeek};
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
#[derive(Debug, Clone, PartialEq)]
pub struct Likely {
    /// By proposal of the zone's week: where the run that it has there goes ahead.
    pub runs: Vec<Courses>,
    /// Net depth to be expected of the week.
    pub net: Depth,
    /// Water below the roots to be expected, of irrigation and rain.
    pub drained: Depth,
    /// Days to be expected that end beyond RAW.
    pub stress_days: f64,
}

impl Likely {
    fn count(&mut self, balance: &DayBalance) {
        self.drained += balance.drainage;
        if balance.end > balance.raw {
            self.stress_days += 1.0;
        }
    }
}

/// Runs a zone through the scenarios, from its depletion at today's dawn and what has run today.
#[must_use]
pub(crate) fn likely(member: &Member, week: &ZoneWeek, outlook: &Outlook) -> Likely {
    let mut likely = Likely {
        runs: vec![Courses::default(); week.proposals.len()],
        net: Depth::ZERO,
        drained: Depth::ZERO,
        stress_days: 0.0,
    };
    if member.beds.is_some() {
        // New grass waits for no rain: what is planned of it runs.
        for (runs, dose) in likely
            .runs
            .iter_mut()
            .zip(week.proposals.iter().map(Proposal::dose))
        {
            if let Some(dose) = dose {
                *runs = Courses(u64::MAX);
                likely.net += dose.irrigation.net;
            }
        }
        return likely;
    }
    let scenarios = outlook.scenarios();
    for scenario in 0..SCENARIOS {
        let mut depletion = member.start;
        let mut lately = member.lately;
        let mut here = 0;
        for (index, day) in member.days.iter().enumerate() {
            let mut given = if index == 0 {
                member.already
            } else {
                Given::default()
            };
            while let Some(planned) = week.proposals.get(here).filter(|p| p.slot.day == index) {
                let after_noon = planned.slot.after_noon;
                let wet = index > 0 && skip::is_wet(scenarios.rain(index - 1, scenario));
                let net = if index == 0 {
                    // Decided, and certain.
                    planned.dose().map(|dose| dose.irrigation.net)
                } else if wet {
                    None
                } else {
                    Some(member.keeping.would_give(
                        &At {
                            model: member.model,
                            depletion: root_zone::depletion_at(
                                member.model,
                                depletion,
                                &day.weather,
                                &given,
                                after_noon,
                            ),
                            days: &member.days,
                            slots: &member.slots,
                            here,
                            rain: RainAhead::default(),
                            lately,
                        },
                        planned,
                    ))
                };
                let net = net.unwrap_or_default();
                if net > Depth::ZERO {
                    let irrigation = Irrigation::of_net(member.model, net);
                    given.add(irrigation, after_noon);
                    lately.water(day.weather.date, &irrigation);
                    likely.net += net;
                    if planned.dose().is_some() {
                        likely.runs[here].0 |= 1 << scenario;
                    }
                }
                here += 1;
            }
            let mut weather = day.weather;
            weather.rain = scenarios.rain(index, scenario);
            let balance = root_zone::day(member.model, depletion, &weather, given);
            lately.rain(weather.date, balance.effective_rain);
            likely.count(&balance);
            depletion = balance.end;
        }
    }
    likely.net = likely.net / 64.0;
    likely.drained = likely.drained / 64.0;
    likely.stress_days /= 64.0;
    likely
}
