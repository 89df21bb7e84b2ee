//! A test of what the sprinklers of a zone put down: with cans all over, or a quick one. The newest that tells a figure counts.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::measure::cans::CanTest;
use crate::measure::quick::QuickTest;
use crate::measure::result::{Figures, TestResult, Tested, figures_of_cans, of_cans, of_quick};
use crate::measure::unlikely::{self, Unlikely};

/// A test as it was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "method", rename_all = "snake_case")]
pub enum SprinklerTest {
    /// Cans all over the zone: rate and evenness.
    Cans(CanTest),
    /// The rate alone.
    Quick(QuickTest),
}

impl SprinklerTest {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        match self {
            Self::Cans(test) => test.validate(),
            Self::Quick(test) => test.validate(),
        }
    }

    /// What it says; `None` before any can is read.
    #[must_use]
    pub fn result(&self, tested: &Tested) -> Option<TestResult> {
        match self {
            Self::Cans(test) => of_cans(test, tested),
            Self::Quick(test) => Some(of_quick(test, tested)),
        }
    }

    /// Rate and evenness alone, as a test of a day tells them; `None` before any can is read.
    #[must_use]
    pub fn figures(&self, date: Date) -> Option<Figures> {
        match self {
            Self::Cans(test) => figures_of_cans(test, date),
            Self::Quick(test) => Some(Figures {
                rate_mm_h: test.rate(date),
                evenness_du_lq: None,
            }),
        }
    }
}

impl SprinklerTest {
    /// A can that caught many times what the others did, to be looked at again.
    #[must_use]
    pub fn odd_can(&self) -> Option<Unlikely> {
        match self {
            Self::Cans(test) => unlikely::can(test),
            Self::Quick(_) => None,
        }
    }
}

/// Days after which a test is said to be old: heads wear, sink and get moved (common practice, no source).
const OLD_DAYS: i32 = 365;

/// A fault of a head of the zone, as far as it matters to tests.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HeadFault {
    /// Number of the head.
    pub head: u16,
    /// The day on which it was noted.
    pub noted_on: Date,
    /// The day on which it was repaired.
    pub mended_on: Option<Date>,
}

/// Why a test may no longer hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "outdated", rename_all = "snake_case")]
pub enum Outdated {
    /// A head has a fault since: it does not water as it did when it was measured.
    HeadAtFault {
        /// Number of the head.
        head: u16,
        /// The day on which the fault was noted.
        on: Date,
    },
    /// A head was repaired after it.
    HeadMended {
        /// Number of the head.
        head: u16,
        /// The day on which its fault was noted.
        noted_on: Date,
        /// The day on which it was repaired.
        on: Date,
    },
    /// Over a year old.
    OverAYear,
}

/// Whether a test of a date may no longer hold on a day: a head has had a fault since, one was repaired since, or it is old. What is measured while a head has a
/// fault is what the zone waters with it: that holds until the repair.
#[must_use]
pub fn outdated(tested_on: Date, today: Date, faults: &[HeadFault]) -> Option<Outdated> {
    let since = |fault: &&HeadFault| fault.noted_on > tested_on;
    let open = faults
        .iter()
        .filter(|f| f.mended_on.is_none())
        .filter(since);
    if let Some(fault) = open.min_by_key(|f| f.noted_on) {
        return Some(Outdated::HeadAtFault {
            head: fault.head,
            on: fault.noted_on,
        });
    }
    let mended = faults.iter().filter_map(|f| Some((f.mended_on?, f)));
    if let Some((on, fault)) = mended.max_by_key(|m| m.0)
        && on > tested_on
    {
        return Some(Outdated::HeadMended {
            head: fault.head,
            noted_on: fault.noted_on,
            on,
        });
    }
    (today.duration_since(tested_on).as_hours() > i64::from(OLD_DAYS) * 24)
        .then_some(Outdated::OverAYear)
}
