//! Water-repellent soil: how long a drop stands on dry soil.
//!
//! # References
//! Dekker and Jungerius (1990), classes of water-drop penetration time (from memory): below 5 s wettable, to 60 s slightly, to 600 s strongly, to an
//! hour severely, beyond it extremely repellent.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Class of repellency, the least first.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the variants are the classes' own names
pub enum Repellency {
    Wettable,
    Slight,
    Strong,
    Severe,
    Extreme,
}

impl Repellency {
    /// Of a drop that stood for some seconds.
    ///
    /// ```
    /// use science::water_drop::Repellency;
    /// assert_eq!(Repellency::of_drop(59.9), Repellency::Slight);
    /// assert_eq!(Repellency::of_drop(60.0), Repellency::Strong);
    /// ```
    #[must_use]
    pub fn of_drop(seconds: f64) -> Self {
        if seconds < 5.0 {
            Self::Wettable
        } else if seconds < 60.0 {
            Self::Slight
        } else if seconds < 600.0 {
            Self::Strong
        } else if seconds < 3600.0 {
            Self::Severe
        } else {
            Self::Extreme
        }
    }
}
