//! Schools that go by the calendar: a weekly target, a fixed interval, minutes every other day (common practice, no source).
//!
//! They read what was given and what fell, not the soil: what they ask is held to the same skips, intake and clock as any other. Beside
//! each choice stands what the water balance would do with the same ground.

use jiff::ToSpan;
use jiff::civil::Date;

use super::crowns::{Crowns, Keeping};
use super::proposal::{Act, Proposal};
use super::water_balance;
use super::why::{Because, ByCalendar, Rule, Why};
use crate::engine::dose;
use crate::engine::lately::Lately;
use crate::engine::rain_and_dose::LEAST_DOSE;
use crate::engine::skip;
use crate::engine::slot::{At, HORIZON, Standing};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::site::{EveryOtherDay, FixedInterval, School, WeeklyTarget};
use crate::weather::DailyWeather;

/// Mean of the last weeks from which a week counts as hot, °C (common practice, no source).
const HOT_C: f64 = 25.0;

/// What a rule asks on a day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Asked {
    /// Net depth; 0 asks for nothing.
    pub net: Depth,
    /// The first day on which it asks again, if nothing falls and nothing is given until then; the day itself where it asks.
    pub on: Date,
    /// The figures.
    pub rule: Rule,
}

/// What is asked for a zone on a day, by what the zone got lately; `None`: it does not go by the calendar. `weather`: the day's.
pub(super) fn asks(
    keeping: &Keeping,
    model: &ZoneModel,
    lately: &Lately,
    weather: &DailyWeather,
    date: Date,
) -> Option<Asked> {
    let school = match keeping {
        Keeping::School(school) => school,
        Keeping::Crowns(crowns) => return Some(for_crowns(crowns, lately, date)),
        Keeping::NewGrass => return None,
    };
    match school {
        School::WaterBalance => None,
        School::WeeklyTarget(target) => Some(weekly(target, model, lately, weather, date)),
        School::FixedInterval(interval) => {
            let FixedInterval {
                depth_mm,
                every_days,
            } = *interval;
            Some(every(every_days, depth_mm, lately, date, |last| {
                Rule::FixedInterval {
                    depth_mm,
                    every_days,
                    last,
                }
            }))
        }
        School::EveryOtherDay(minutes) => {
            let EveryOtherDay {
                run_minutes,
                every_days,
            } = *minutes;
            let net = model.net_of_gross(model.rate.value * minutes.run());
            Some(every(every_days, net, lately, date, |last| {
                Rule::EveryOtherDay {
                    run_minutes,
                    every_days,
                    last,
                }
            }))
        }
    }
}

/// Crowns are wetted again so many days after the last wetting. What was given of it yesterday and the day before counts.
fn for_crowns(crowns: &Crowns, lately: &Lately, date: Date) -> Asked {
    let on = crowns.due(lately.wetted).unwrap_or(date);
    let left = (crowns.depth - lately.given_by(date)).max(Depth::ZERO);
    Asked {
        net: if on <= date { left } else { Depth::ZERO },
        on: on.max(date),
        rule: Rule::Crowns {
            depth_mm: crowns.depth,
            every_days: crowns.every_days,
            last: lately.wetted,
        },
    }
}

fn every(
    days: u8,
    net: Depth,
    lately: &Lately,
    date: Date,
    rule: impl Fn(Option<Date>) -> Rule,
) -> Asked {
    let last = lately.watered.filter(|last| *last <= date);
    let on = last.map_or(date, |last| last.saturating_add(i64::from(days).days()));
    Asked {
        net: if on <= date { net } else { Depth::ZERO },
        on: on.max(date),
        rule: rule(last),
    }
}

/// The target of the week that a day lies in.
fn target_of(target: &WeeklyTarget, model: &ZoneModel, weather: &DailyWeather) -> Depth {
    let hot = weather.smoothed_c.is_some_and(|t| t >= HOT_C);
    if model.is_cold_dormant(weather) {
        target.dormant_target_mm
    } else if let Some(more) = target.hot_target_mm.filter(|_| hot) {
        more
    } else {
        target.target_mm
    }
}

/// What a school wants a zone to get in the week that a day lies in, rain counted; `None`: it has no such target.
pub(super) fn week_target(
    keeping: &Keeping,
    model: &ZoneModel,
    weather: &DailyWeather,
) -> Option<Depth> {
    match keeping {
        Keeping::School(School::WeeklyTarget(target)) => Some(target_of(target, model, weather)),
        Keeping::School(_) | Keeping::Crowns(_) | Keeping::NewGrass => None,
    }
}

/// The week is shared out evenly among its soaks: of two the second is due from Thursday. A soak that was missed is made up with the next.
fn weekly(
    target: &WeeklyTarget,
    model: &ZoneModel,
    lately: &Lately,
    weather: &DailyWeather,
    date: Date,
) -> Asked {
    let target_mm = target_of(target, model, weather);
    let week = lately.week(date);
    let left = (target_mm - week.given - week.rain).max(Depth::ZERO);
    let of = target.soaks.max(1);
    // The day of the soak that comes next; past the last: next Monday.
    let soak_on = |soak: u8| {
        let days = if soak < of {
            i64::from(soak) * 7 / i64::from(of)
        } else {
            7
        };
        week.monday.saturating_add(days.days())
    };
    let (net, on) = if week.soaks >= of || left < LEAST_DOSE {
        (Depth::ZERO, soak_on(of))
    } else if soak_on(week.soaks) > date {
        (Depth::ZERO, soak_on(week.soaks))
    } else {
        (left / f64::from(of - week.soaks), date)
    };
    Asked {
        net,
        on,
        rule: Rule::WeeklyTarget {
            target_mm,
            since: week.monday,
            rain_mm: week.rain,
            given_mm: week.given,
            soak: week.soaks.saturating_add(1).min(of),
            soaks: of,
        },
    }
}

fn asked_at(keeping: &Keeping, at: &At) -> Option<Asked> {
    let weather = &at.days[at.slot().day].weather;
    asks(keeping, at.model, &at.lately, weather, weather.date)
}

/// Proposes for a zone at a slot.
pub(super) fn propose(keeping: &Keeping, at: &At) -> Proposal {
    let balance = water_balance::propose(at);
    let here = *at.slot();
    let Some(asked) = asked_at(keeping, at) else {
        return balance;
    };
    let most = asked.net.min(here.capacity);
    let rained_off = skip::sure_rain(at.rain.outlook, here.day, asked.net);
    let standing = match (here.standing, rained_off) {
        (Standing::Open, Some(skip)) => Standing::Forbidden(skip),
        (standing, _) => standing,
    };
    let (because, act) = match standing {
        Standing::Fixed(dose) => (Because::Fixed, Act::Water(dose)),
        _ if asked.net <= Depth::ZERO => (Because::NotDue, Act::Wait),
        Standing::Forbidden(skip) => (Because::Forbidden(skip), Act::Skip(skip)),
        Standing::Open => match dose::dose(at.model, asked.net, here.window_s) {
            Some(dose) => (Because::Due, Act::Water(dose)),
            None => (Because::TooLittle, Act::Wait),
        },
    };
    let would = balance.dose().map_or(Depth::ZERO, |d| d.irrigation.net);
    Proposal {
        act,
        must: most,
        why: Why::ByCalendar(ByCalendar {
            because,
            rule: asked.rule,
            on: asked.on,
            asked: asked.net,
            most,
            next: at.later().first().map(|s| s.day).filter(|d| *d < HORIZON),
            balance_gives: would,
            balance_because: balance.why.because(),
        }),
        ..balance
    }
}

/// What the zone would be given at a slot with other rain and water behind it.
pub(super) fn would_give(keeping: &Keeping, at: &At, planned: &Proposal) -> Depth {
    let here = at.slot();
    let dose = planned.dose().map(|dose| dose.irrigation.net);
    if let Standing::Fixed(_) = here.standing {
        return dose.unwrap_or_default();
    }
    let barred = matches!(planned.act, Act::Skip(_) | Act::NoRoom);
    if barred || matches!(here.standing, Standing::Forbidden(_)) {
        return Depth::ZERO;
    }
    let asked = asked_at(keeping, at).map_or(Depth::ZERO, |asked| asked.net);
    let net = asked.min(dose.unwrap_or(here.capacity));
    at.model.unless_too_little(net)
}
