//! Schools of watering. A school looks at a zone at a slot and proposes what to do there; it explains itself in its own [`Why`]. The
//! site's level ([`crate::engine::site_week`]) knows nothing of a school's inside: what it needs to fit zones to one clock is in [`Proposal`].

pub mod water_balance;

use crate::engine::dose::Dose;
use crate::engine::rain_and_dose::Comparison;
use crate::engine::skip::Skip;
use crate::engine::slot::{HORIZON, Slot, ZoneDay};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
use crate::weather::outlook::Outlook;

/// By which school a zone is watered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum School {
    /// Deep and seldom, by the balance of the root zone.
    #[default]
    WaterBalance,
}

/// What a zone knows of rain ahead.
#[derive(Debug, Clone, Copy, Default)]
pub struct RainAhead<'a> {
    /// The site's outlook; `None`: plain refills.
    pub outlook: Option<&'a Outlook>,
    /// Opportunities running, up to now, at which the zone was held for rain.
    pub held: u32,
}

/// A zone at a slot.
#[derive(Debug, Clone, Copy)]
pub struct At<'a> {
    /// Its figures.
    pub model: &'a ZoneModel,
    /// Its depletion then.
    pub depletion: Depth,
    /// The horizon.
    pub days: &'a [ZoneDay; HORIZON],
    /// All its slots, in time order.
    pub slots: &'a [Slot],
    /// Which of them it stands at.
    pub here: usize,
    /// What it knows of rain.
    pub rain: RainAhead<'a>,
}

impl<'a> At<'a> {
    /// The slot.
    #[must_use]
    pub fn slot(&self) -> &'a Slot {
        &self.slots[self.here]
    }

    /// The slot and those after it.
    #[must_use]
    pub fn left(&self) -> &'a [Slot] {
        &self.slots[self.here..]
    }

    /// Those after it.
    #[must_use]
    pub fn later(&self) -> &'a [Slot] {
        &self.slots[self.here + 1..]
    }
}

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

/// Why a school proposes what it does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Why {
    /// The water balance's own figures.
    WaterBalance(water_balance::Why),
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
    /// The most that it could take.
    pub takes: Depth,
    /// The least that is worth giving.
    pub soak: Depth,
    /// What it must be able to take before the site asks it to water early.
    pub early_from: Depth,
    /// Why.
    pub why: Why,
}

impl Proposal {
    /// The dose, where it waters.
    #[must_use]
    pub const fn dose(&self) -> Option<&Dose> {
        match &self.act {
            Act::Water(dose) => Some(dose),
            _ => None,
        }
    }

    /// What was compared, where rain was in sight.
    #[must_use]
    pub const fn compared(&self) -> Option<&Comparison> {
        let Why::WaterBalance(why) = &self.why;
        match &why.compared {
            Some(compared) => Some(&compared.comparison),
            None => None,
        }
    }
}

impl School {
    /// What the school proposes for a zone at the first of its slots left.
    #[must_use]
    pub fn propose(self, at: &At) -> Proposal {
        match self {
            Self::WaterBalance => water_balance::propose(at),
        }
    }

    /// What the zone would be given at a slot at another depletion than the one that was planned with: the planned dose or less, or
    /// nothing where it is no longer wanted.
    #[must_use]
    pub fn would_give(self, at: &At, planned: &Proposal) -> Depth {
        match self {
            Self::WaterBalance => water_balance::would_give(at, planned),
        }
    }
}
