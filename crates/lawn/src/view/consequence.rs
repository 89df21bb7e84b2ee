//! What a zone's week comes to, in few figures: to be set beside another before a change of it is kept.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::quantity::{Depth, Volume};
use crate::view::week_plan::{State, ZonePlan};

/// What a zone's week comes to from today on, if no rain comes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Consequence {
    /// Time that water runs, s.
    pub run_s: i64,
    /// Litres out of the sprinklers.
    pub volume_l: Volume,
    /// Days that end beyond what may be used.
    pub days_too_dry: u32,
    /// The most that a day ends beyond it.
    pub most_too_dry_mm: Depth,
    /// What is used at the end of the week.
    pub depletion_mm: Depth,
}

/// Of a zone's plan.
#[must_use]
pub fn consequence(zone: &ZonePlan) -> Consequence {
    let beyond = zone
        .cells
        .iter()
        .filter(|c| !matches!(c.state, State::Past | State::Ran | State::Absent))
        .map(|c| c.depletion_mm - c.raw_mm)
        .filter(|beyond| *beyond > Depth::from_mm(0.05));
    let (mut days_too_dry, mut most_too_dry_mm) = (0, Depth::ZERO);
    for beyond in beyond {
        days_too_dry += 1;
        most_too_dry_mm = most_too_dry_mm.max(beyond);
    }
    Consequence {
        run_s: zone.totals.run_s,
        volume_l: zone.totals.volume_l,
        days_too_dry,
        most_too_dry_mm,
        depletion_mm: zone.cells.last().map_or(Depth::ZERO, |c| c.depletion_mm),
    }
}
