//! A value that knows where it came from, and how far it could be off.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Where a value came from.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Source {
    /// Measured here.
    Measured {
        /// Which test, in the person's words.
        test: String,
        /// The day of the test.
        date: Date,
    },
    /// Typed by a person, without a test that we know of.
    Entered {
        /// The day on which it was typed.
        date: Date,
    },
    /// Looked up.
    Handbook {
        /// Which table.
        table: String,
    },
    /// Guessed.
    Assumed,
}

impl Source {
    /// The day on which the figure was measured or typed, where it was.
    #[must_use]
    pub const fn date(&self) -> Option<Date> {
        match self {
            Self::Measured { date, .. } | Self::Entered { date } => Some(*date),
            Self::Handbook { .. } | Self::Assumed => None,
        }
    }
}

/// A value with its plausible low and high and where it came from. Low ≤ value ≤ high.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sourced<T> {
    /// The value that plans use.
    pub value: T,
    /// The least it plausibly is.
    pub low: T,
    /// The greatest it plausibly is.
    pub high: T,
    /// Where it came from.
    pub source: Source,
}

impl<T> Sourced<T> {
    /// A value looked up in the named table.
    pub fn handbook(low: T, value: T, high: T, table: &str) -> Self {
        Self {
            value,
            low,
            high,
            source: Source::Handbook {
                table: table.to_owned(),
            },
        }
    }

    /// The same with every figure turned into another type.
    pub fn map<U>(self, f: impl Fn(T) -> U) -> Sourced<U> {
        Sourced {
            value: f(self.value),
            low: f(self.low),
            high: f(self.high),
            source: self.source,
        }
    }
}
