//! Whose word a run of the record is.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Whose word a run of the record is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Said {
    /// Nobody's: it was taken from the plan in force.
    Assumed,
    /// A person says that it ran as planned.
    Confirmed,
    /// A person says that it ran for another time.
    Changed,
    /// A person says that it did not run.
    Denied,
    /// A person watered with the zone's own sprinklers.
    Hand,
    /// A person watered with a hose.
    Hose,
    /// The controller reported it.
    Controller,
}

impl Said {
    /// All of them.
    pub const ALL: [Self; 7] = [
        Self::Assumed,
        Self::Confirmed,
        Self::Changed,
        Self::Denied,
        Self::Hand,
        Self::Hose,
        Self::Controller,
    ];

    /// Its name in files and the record.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Assumed => "assumed",
            Self::Confirmed => "confirmed",
            Self::Changed => "changed",
            Self::Denied => "denied",
            Self::Hand => "hand",
            Self::Hose => "hose",
            Self::Controller => "controller",
        }
    }

    /// The one of a name.
    #[must_use]
    pub fn named(name: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|said| said.name() == name)
    }

    /// Whether a person has not said anything of it yet.
    #[must_use]
    pub const fn is_open(self) -> bool {
        matches!(self, Self::Assumed | Self::Controller)
    }

    /// Whether it answers a run that was planned.
    #[must_use]
    pub const fn is_answer(self) -> bool {
        matches!(self, Self::Confirmed | Self::Changed | Self::Denied)
    }

    /// Whether a person opened the water.
    #[must_use]
    pub const fn is_by_hand(self) -> bool {
        matches!(self, Self::Hand | Self::Hose)
    }
}
