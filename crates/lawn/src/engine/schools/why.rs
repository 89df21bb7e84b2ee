//! Why a school proposes what it does, in its own figures, recorded where it is decided.

use crate::engine::rain_and_dose::Comparison;
use crate::engine::skip::Skip;
use crate::quantity::Depth;

/// Why a school proposes what it does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Why {
    /// The water balance's own figures.
    WaterBalance(WaterBalance),
}

impl Why {
    /// Notes that other zones fill the slot.
    pub(super) fn crowd_out(&mut self) {
        match self {
            Self::WaterBalance(why) => why.because = Because::NoRoom,
        }
    }
}

/// The one thing that decided.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Because {
    /// Nothing is needed before the next opportunity.
    NotDue,
    /// Water is needed before the next opportunity.
    Due,
    /// Later windows cannot carry what the zone needs.
    StartsEarly,
    /// Other zones need the nights after it: it starts early.
    StartsForOthers,
    /// A soak would not yet be worth it.
    NotWorthwhile,
    /// Less than the least pass is needed.
    TooLittle,
    /// Rain is likely enough to wait for.
    ForRain,
    /// Needed, but other zones fill the window.
    NoRoom,
    /// Needed, and forbidden.
    Forbidden(Skip),
    /// A person has fixed what runs.
    Fixed,
}

/// Hold or dose, compared over scenarios.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Compared {
    /// The candidates and the one that costs least.
    pub comparison: Comparison,
    /// The day by which rain should have come if the zone is held: of the third opportunity from here.
    pub by: usize,
    /// Rain expected by then.
    pub expected: Depth,
    /// Rain expected within the days compared.
    pub expected_in_all: Depth,
}

impl Compared {
    /// Water that the refill would send below the roots, more than what is chosen does, over the days compared.
    #[must_use]
    pub fn saves(&self) -> Depth {
        self.comparison.refill().drained - self.comparison.chosen().drained
    }

    /// mm beyond RAW over the days compared, more than after the refill.
    #[must_use]
    pub fn stress(&self) -> Depth {
        self.comparison.chosen().stress - self.comparison.refill().stress
    }
}

/// Why the water balance proposes what it does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct WaterBalance {
    /// What decided.
    pub because: Because,
    /// The least that this slot must give; at most 0 where nothing is needed.
    pub needed: Depth,
    /// How far depletion would pass RAW before the next slot, if nothing were given; negative: room left.
    pub before_next: Depth,
    /// Day of the next slot; `None`: none within the plan.
    pub next: Option<usize>,
    /// The day on which RAW would be passed if nothing were given from here on; `None`: not within the plan.
    pub passes_raw: Option<usize>,
    /// The most that the slot carries of the depletion: the refill.
    pub most: Depth,
    /// What was compared, where rain was in sight.
    pub compared: Option<Compared>,
}
