//! From a net depth to gross, minutes, passes and soaks.
//!
//! gross = net · M / (1 − spray loss); minutes = gross / PR; passes = minutes over the longest pass rounded up, equal, rounded down
//! to the controller's step; a soak before the next pass. What the rounding leaves stays in the balance.

use crate::engine::root_zone::Irrigation;
use crate::engine::zone_model::{PassLimit, ZoneModel};
use crate::quantity::{Depth, RunTime};

/// Slack before a quotient counts as the next whole number of passes.
const PASS_SLACK: f64 = 1e-9;
/// Slack before a run time counts as a whole step, s: 20 min turned into a depth and back are 20 min.
const STEP_SLACK_S: f64 = 1e-6;
/// More passes than a window can hold: a bound for the search.
const MOST_PASSES: u32 = 400;

/// What to run, and what it gives.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dose {
    /// Net depth that was wanted.
    pub wanted: Depth,
    /// Number of passes, at least 1.
    pub passes: u32,
    /// Length of each, whole seconds.
    pub pass_s: i64,
    /// Rest after each but the last, whole seconds.
    pub soak_s: i64,
    /// What it gives.
    pub irrigation: Irrigation,
}

impl Dose {
    /// Time that water runs, s.
    #[must_use]
    pub fn run_s(&self) -> i64 {
        self.pass_s * i64::from(self.passes)
    }

    /// Time from the first start to the last stop, s.
    #[must_use]
    pub fn span_s(&self) -> i64 {
        span_s(self.passes, self.pass_s, self.soak_s)
    }
}

fn span_s(passes: u32, pass_s: i64, soak_s: i64) -> i64 {
    pass_s * i64::from(passes) + soak_s * i64::from(passes.saturating_sub(1))
}

/// The dose for a net depth within a window of whole seconds; as much of it as the window holds. `None` where not even the least
/// pass fits the depth or the window.
#[must_use]
pub fn dose(model: &ZoneModel, net: Depth, window_s: i64) -> Option<Dose> {
    let ideal = model.gross_of_net(net) / model.rate.value;
    let (passes, pass_s) = best_run(model, Some(ideal), window_s)?;
    Some(Dose {
        wanted: net,
        passes,
        pass_s,
        soak_s: model.soak_s(pass_s),
        irrigation: irrigation(model, passes, RunTime::from_whole_s(pass_s)),
    })
}

/// The same dose in more and shorter passes, between which other zones may run: only where the ground
/// hardly needs a soak, and of no less than the least pass.
#[must_use]
pub fn in_parts(model: &ZoneModel, dose: Dose, part_s: i64) -> Dose {
    let part_s = part_s.max(model.least_pass_s);
    if model.soak_s(part_s) > part_s / 2 {
        return dose;
    }
    cut(model, dose, part_s)
}

/// The same dose in passes no longer than what a store can give at once, where the least pass allows.
#[must_use]
pub fn cut(model: &ZoneModel, dose: Dose, part_s: i64) -> Dose {
    if dose.pass_s <= part_s || part_s <= 0 {
        return dose;
    }
    let run_s = dose.run_s();
    let Ok(passes) = u32::try_from((run_s + part_s - 1) / part_s) else {
        return dose;
    };
    let pass_s = floor_to_step(model, RunTime::from_whole_s(run_s).s() / f64::from(passes));
    if pass_s < model.least_pass_s || model.most_passes.is_some_and(|most| passes > most) {
        return dose;
    }
    Dose {
        passes,
        pass_s,
        soak_s: model.soak_s(pass_s),
        irrigation: irrigation(model, passes, RunTime::from_whole_s(pass_s)),
        ..dose
    }
}

/// Passes of a length as a person sets them, whatever is needed.
#[must_use]
pub fn of_passes(model: &ZoneModel, passes: u32, pass_s: i64) -> Dose {
    let irrigation = irrigation(model, passes, RunTime::from_whole_s(pass_s));
    Dose {
        wanted: irrigation.net,
        passes,
        pass_s,
        soak_s: model.soak_s(pass_s),
        irrigation,
    }
}

/// Passes that give a run time as the ground takes it; `None` where it is less than the least pass.
#[must_use]
pub fn of_minutes(model: &ZoneModel, minutes: RunTime) -> Option<Dose> {
    let (passes, pass_s) = best_run(model, Some(minutes), i64::MAX / 4)?;
    Some(of_passes(model, passes, pass_s))
}

/// The most net depth that a window of whole seconds can carry.
#[must_use]
pub fn capacity(model: &ZoneModel, window_s: i64) -> Depth {
    best_run(model, None, window_s).map_or(Depth::ZERO, |(passes, pass_s)| {
        irrigation(model, passes, RunTime::from_whole_s(pass_s)).net
    })
}

/// What passes of a length give: gross, net, and what runs off where a pass is longer than the ground takes.
#[must_use]
pub fn irrigation(model: &ZoneModel, passes: u32, pass: RunTime) -> Irrigation {
    let n = f64::from(passes);
    let gross = model.rate.value * pass * n;
    let excess = model.rate.value - model.intake.value;
    let runoff = match (model.longest_pass, model.pass_limit) {
        (Some(longest), PassLimit::Intake | PassLimit::MeasuredRunoff | PassLimit::Ponding)
            if pass.s() > longest.s() + STEP_SLACK_S && excess.mm_h() > 0.0 =>
        {
            excess * RunTime::from_s(pass.s() - longest.s()) * n
        }
        _ => Depth::ZERO,
    };
    let net = if gross > Depth::ZERO {
        model.net_of_gross(gross) * (1.0 - runoff / gross)
    } else {
        Depth::ZERO
    };
    Irrigation { gross, net, runoff }
}

/// Number and length of passes that come closest to the ideal run time (`None`: as long as possible) without passing it, within
/// the window.
fn best_run(model: &ZoneModel, ideal: Option<RunTime>, window_s: i64) -> Option<(u32, i64)> {
    let most = model.most_passes.unwrap_or(MOST_PASSES);
    if let Some(ideal) = ideal {
        let passes = passes_for(model, ideal).min(most);
        let candidate = pass_of(model, passes, ideal, most);
        if let Some((passes, pass_s)) = candidate
            && span_s(passes, pass_s, model.soak_s(pass_s)) <= window_s
        {
            return Some((passes, pass_s));
        }
        candidate?;
    }
    // The equal passes that fill the window best: few long ones rest long, many short ones rest often.
    let mut best: Option<(u32, i64)> = None;
    for passes in 1..=most {
        let Some(pass_s) = longest_equal_pass(model, passes, window_s) else {
            break;
        };
        let pass_s = match ideal {
            Some(ideal) => pass_s.min(floor_to_step(model, ideal.s() / f64::from(passes))),
            None => pass_s,
        };
        if pass_s < model.least_pass_s {
            break;
        }
        let run = pass_s * i64::from(passes);
        if best.is_none_or(|(n, p)| run > p * i64::from(n)) {
            best = Some((passes, pass_s));
        }
    }
    best
}

/// Passes that the longest pass asks for.
fn passes_for(model: &ZoneModel, ideal: RunTime) -> u32 {
    let Some(longest) = model.longest_pass else {
        return 1;
    };
    let passes = RunTime::from_s(ideal.s() / longest.s() - PASS_SLACK)
        .s()
        .ceil();
    // A pass of almost no length would ask for millions; the window bounds them anyway.
    u32::try_from(RunTime::from_s(passes.clamp(1.0, f64::from(MOST_PASSES))).round_s())
        .unwrap_or(MOST_PASSES)
}

/// The equal pass of `passes` for an ideal run time: rounded down to the step, not shorter than the least (then fewer passes), not
/// longer than the longest where a person's patience bounds their number.
fn pass_of(model: &ZoneModel, passes: u32, ideal: RunTime, most: u32) -> Option<(u32, i64)> {
    let mut seconds = ideal.s() / f64::from(passes);
    if passes == most
        && let Some(longest) = model.longest_pass
    {
        seconds = seconds.min(longest.s());
    }
    let pass_s = floor_to_step(model, seconds);
    if pass_s >= model.least_pass_s {
        return Some((passes, pass_s));
    }
    let least = model.least_pass_s;
    let fewer = u32::try_from(ideal.floor_s() / least).ok()?.min(most);
    (fewer >= 1).then_some((fewer, least))
}

/// The longest pass, whole steps, of which a number with their soaks fits the window; `None` where the least does not.
fn longest_equal_pass(model: &ZoneModel, passes: u32, window_s: i64) -> Option<i64> {
    let per_pass = window_s / i64::from(passes);
    let longest = model
        .longest_pass
        .map_or(per_pass, |l| l.floor_s().max(model.least_pass_s))
        .min(per_pass);
    let fits = |pass_s: i64| span_s(passes, pass_s, model.soak_s(pass_s)) <= window_s;
    // Span grows with the pass: halve the steps between the least and the longest.
    let step = model.step_s;
    let least = model.least_pass_s;
    if longest < least || !fits(least) {
        return None;
    }
    let (mut low, mut high) = (least / step, longest / step);
    if high < low {
        return Some(least);
    }
    while low < high {
        let middle = low + (high - low + 1) / 2;
        if fits(middle * step) {
            low = middle;
        } else {
            high = middle - 1;
        }
    }
    Some((low * step).max(least))
}

fn floor_to_step(model: &ZoneModel, seconds: f64) -> i64 {
    let whole = RunTime::from_s(seconds + STEP_SLACK_S).floor_s();
    whole - whole.rem_euclid(model.step_s)
}
