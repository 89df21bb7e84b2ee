//! Whether a test counts.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Whether a test counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Standing {
    /// The newest of the zone counts.
    #[default]
    Automatic,
    /// This one counts, whatever comes after it.
    Pinned,
    /// It does not count.
    Void,
}

impl Standing {
    /// As files and the API name it.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Automatic => "automatic",
            Self::Pinned => "pinned",
            Self::Void => "void",
        }
    }

    #[allow(clippy::trivially_copy_pass_by_ref)] // as serde calls it
    pub(super) fn is_automatic(&self) -> bool {
        *self == Self::Automatic
    }
}
