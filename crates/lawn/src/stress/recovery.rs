//! Waking turf: what is done when, and from which day on what died can be told from what sleeps. By temperature, not by the calendar.

use jiff::ToSpan;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::site::Regime;
use crate::stress::dormancy::Day;
use crate::stress::repair::SowBy;

/// Mild days since it woke from which on it shows new blades, and is fed; and from which on what is still brown is dead (three weeks, as long as it takes to use
/// water as before; common practice, no source).
const MILD_DAYS: (u16, u16) = (10, 21);
/// Share of TAW used at most in soil that was wetted well (no source).
const WET_SHARE: f64 = 0.25;

/// Something that is done while a lawn wakes, in their order.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = RecoveryStep)]
pub enum Step {
    /// Wet the soil through to the roots.
    WetWell,
    /// Rake the mats of dead blades loose, before new ones are long.
    RakeMats,
    /// Feed it, once it grows.
    Feed,
    /// Tell what is dead, patch by patch.
    Judge,
}

/// When a step is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(tag = "when", rename_all = "snake_case")]
#[schema(as = RecoveryWhen)]
pub enum When {
    /// It was done, or its time is over.
    Past {
        /// Since when.
        on: Date,
    },
    /// Now.
    Now,
    /// Later.
    Later {
        /// The first day on which it can be, where every day until then is mild.
        not_before: Date,
    },
}

/// A step with its day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[schema(as = RecoveryStepDay)]
pub struct StepDay {
    /// What.
    pub step: Step,
    /// When.
    #[serde(flatten)]
    pub when: When,
}

/// How a waking zone stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Recovery {
    /// The first day on which it was watered as waking turf.
    pub since: Date,
    /// Mild days since.
    pub mild_days: u16,
    /// How many of them tell dead from asleep.
    pub judged_after: u16,
    /// The first day on which what is still brown is dead; `None`: it is not yet.
    pub judged_from: Option<Date>,
    /// What is done when, in its order.
    pub steps: Vec<StepDay>,
}

/// The last day of sowing where it comes before dead is told from asleep: what shows no green by then is sown without waiting.
#[must_use]
pub fn sown_unjudged(recovery: &Recovery, by: SowBy) -> Option<Date> {
    let SowBy::Day { date, .. } = by else {
        return None;
    };
    let judged = recovery.steps.iter().find(|step| step.step == Step::Judge);
    let comes_before = matches!(judged?.when, When::Later { not_before } if date < not_before);
    (comes_before && date > recovery.since).then_some(date)
}

/// Whether a look at a patch on a day says too little of whether it is dead: its zone sleeps, or had not been awake for long enough.
#[must_use]
pub fn is_early(regime: Regime, recovery: Option<&Recovery>, looked: Date) -> bool {
    match recovery {
        Some(recovery) => recovery.judged_from.is_none_or(|from| looked < from),
        None => regime == Regime::Dormant,
    }
}

/// How a zone stands that wakes or woke, by its ledger up to yesterday; `None`: it did not sleep, or sleeps.
#[must_use]
pub fn recovery(ledger: &[Day], regime: Regime, today: Date) -> Option<Recovery> {
    let woken = ledger
        .windows(2)
        .rposition(|days| days[0].regime == Regime::Dormant && days[1].regime != Regime::Dormant);
    let slept_last = ledger
        .last()
        .is_some_and(|last| last.regime == Regime::Dormant);
    let days = match woken {
        // It was woken today, whether or not it had slept and woken before.
        _ if slept_last => &[],
        Some(at) => &ledger[at + 1..],
        None => return None,
    };
    if regime == Regime::Dormant || !regime.is_rooted() {
        return None;
    }
    let since = days.first().map_or(today, |first| first.date);
    let mild = |days: &[Day]| {
        u16::try_from(days.iter().filter(|day| day.is_mild).count()).unwrap_or(u16::MAX)
    };
    let mild_days = mild(days);
    let wet = days
        .iter()
        .find(|day| day.used <= WET_SHARE)
        .map(|day| day.date);
    let reached = |of: u16| {
        let mut count = 0;
        let reaches = days.iter().find(|day| {
            count += u16::from(day.is_mild);
            count >= of
        });
        reaches.map(|day| day.date)
    };
    let earliest = |of: u16| {
        let more = i64::from(of.saturating_sub(mild_days));
        today.saturating_add(more.days())
    };
    let (grows, judged) = MILD_DAYS;
    let steps = [
        (Step::WetWell, wet.map_or(When::Now, |on| When::Past { on })),
        (
            Step::RakeMats,
            match (wet, reached(grows)) {
                (_, Some(on)) => When::Past { on },
                (Some(_), None) => When::Now,
                (None, None) => When::Later {
                    not_before: today.saturating_add(1.day()),
                },
            },
        ),
        (
            Step::Feed,
            match (reached(grows), reached(judged)) {
                (_, Some(on)) => When::Past { on },
                (Some(_), None) => When::Now,
                (None, None) => When::Later {
                    not_before: earliest(grows),
                },
            },
        ),
        (
            Step::Judge,
            match reached(judged) {
                Some(_) => When::Now,
                None => When::Later {
                    not_before: earliest(judged),
                },
            },
        ),
    ];
    Some(Recovery {
        since,
        mild_days,
        judged_after: judged,
        judged_from: reached(judged).and_then(|day| day.tomorrow().ok()),
        steps: steps.map(|(step, when)| StepDay { step, when }).into(),
    })
}
