//! The roles of people on a site.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A role on a site, least first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Role {
    /// Reads.
    Viewer,
    /// Adds readings, runs, observations.
    Crew,
    /// Zones, rules, imports, edits, publishing.
    Manager,
    /// People, deletion, export of all.
    Owner,
}

impl Role {
    /// The name in the database.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Viewer => "viewer",
            Self::Crew => "crew",
            Self::Manager => "manager",
            Self::Owner => "owner",
        }
    }

    /// The role of a name.
    #[must_use]
    pub fn of(name: &str) -> Option<Self> {
        Some(match name {
            "viewer" => Self::Viewer,
            "crew" => Self::Crew,
            "manager" => Self::Manager,
            "owner" => Self::Owner,
            _ => return None,
        })
    }
}
