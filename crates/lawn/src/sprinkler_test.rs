//! A test of what the sprinklers of a zone put down: with cans all over, or a quick one. The newest that tells a figure counts.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::can_test::CanTest;
use crate::quick_test::QuickTest;
use crate::site::Invalid;
use crate::test_result::{TestResult, Tested, of_cans, of_quick};

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
}

/// Days after which a test is said to be old: heads wear, sink and get moved (common practice, no source).
const OLD_DAYS: i32 = 365;

/// Why a test may no longer hold.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "outdated", rename_all = "snake_case")]
pub enum Outdated {
    /// A head was mended after it.
    HeadMended {
        /// The day of the latest mending.
        on: Date,
    },
    /// Over a year old.
    OverAYear,
}

/// Whether a test of a date may no longer hold on a day, with the zone's last mending of a head.
#[must_use]
pub fn outdated(tested_on: Date, today: Date, last_mended: Option<Date>) -> Option<Outdated> {
    if let Some(on) = last_mended.filter(|mended| *mended > tested_on) {
        return Some(Outdated::HeadMended { on });
    }
    (today.duration_since(tested_on).as_hours() > i64::from(OLD_DAYS) * 24)
        .then_some(Outdated::OverAYear)
}
