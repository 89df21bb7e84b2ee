//! What a school proposes for a zone at a slot: what the site's level needs to fit zones to one clock.

use super::why::{Because, Why};
use crate::engine::dose::{self, Dose};
use crate::engine::skip::Skip;
use crate::engine::slot::Slot;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;

/// What is done at a slot.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Act {
    /// Water.
    Water(Dose),
    /// Wait: nothing is needed, or it is better later.
    Wait,
    /// Wait for rain.
    WaitForRain,
    /// Needed, but other zones fill the slot.
    NoRoom,
    /// Needed, and forbidden.
    Skip(Skip),
}

/// What is proposed for a zone at a slot.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Proposal {
    /// The slot.
    pub slot: Slot,
    /// Depletion then.
    pub depletion: Depth,
    /// What is done.
    pub act: Act,
    /// How far the zone would pass its limit before the next slot, if nothing were given; the greater, the more urgent.
    pub urgency: Depth,
    /// The least that is worth giving.
    pub soak: Depth,
    /// The least that it needs here, at most what it waters: it gives way last.
    pub must: Depth,
    /// Why.
    pub why: Why,
}

impl Proposal {
    /// The same with what other zones leave of it; nothing, where they leave nothing.
    pub(crate) const fn give_way(&mut self, left: Option<Dose>) {
        self.leave(left, Because::NoRoom);
    }

    /// The same with its share of a volume; nothing, where it has none.
    pub(crate) const fn ration(&mut self, share: Option<Dose>) {
        self.leave(share, Because::Rationed);
    }

    /// The same in passes no longer than what a store can give at once.
    pub(crate) fn cut(&mut self, model: &ZoneModel, longest_s: i64) {
        if let Act::Water(dose) = &mut self.act {
            *dose = dose::cut(model, *dose, longest_s);
        }
    }

    const fn leave(&mut self, dose: Option<Dose>, by: Because) {
        self.act = match dose {
            Some(dose) => Act::Water(dose),
            None => {
                self.why.bar(by);
                Act::NoRoom
            }
        };
    }

    /// The dose, where it waters.
    #[must_use]
    pub const fn dose(&self) -> Option<&Dose> {
        match &self.act {
            Act::Water(dose) => Some(dose),
            _ => None,
        }
    }
}
