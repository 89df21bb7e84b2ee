//! What is wrong with a head, noted while walking the zone.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What is wrong with a head.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Fault {
    /// Not upright.
    Tilted,
    /// Below the turf.
    Sunk,
    /// Little or no water comes.
    Clogged,
    /// It does not turn, rise or close.
    Broken,
    /// It waters paving, walls or road.
    AtPaving,
    /// It runs while the zone does not, or beside its nozzle.
    Leaking,
    /// A nozzle of another rate or arc than the others.
    WrongNozzle,
    /// It sprays another way than it should.
    Misaimed,
}

impl Fault {
    /// Whether a mower may have done it.
    #[must_use]
    pub const fn may_be_the_mower(self) -> bool {
        matches!(self, Self::Tilted | Self::Broken)
    }
}
