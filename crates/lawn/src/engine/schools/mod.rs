//! Schools of watering. A school looks at a zone at a slot and proposes what to do there; it explains itself in its own [`Why`]. The
//! site's level ([`crate::engine::site_week`]) knows nothing of a school's inside: what it needs to fit zones to one clock is in [`Proposal`] and
//! [`School::needs`].

mod calendar;
mod crowns;
mod needs;
pub mod new_grass;
mod proposal;
pub mod water_balance;
pub mod why;

pub use crowns::{Crowns, Keeping};
pub(crate) use needs::Eve;
pub use needs::Needs;
pub use proposal::{Act, Proposal};
pub use why::Why;

use crate::engine::lately::Lately;
use crate::engine::slot::At;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
pub use crate::site::School;
use crate::weather::DailyWeather;

impl Keeping {
    /// What is proposed for a zone at the first of its slots left.
    #[must_use]
    pub fn propose(&self, at: &At) -> Proposal {
        match self {
            Self::School(School::WaterBalance) => water_balance::propose(at),
            _ => calendar::propose(self, at),
        }
    }

    /// Net depth that is asked for on a day by the calendar; 0: nothing, or it does not go by the calendar. `weather`: the day's.
    pub(crate) fn asks(&self, model: &ZoneModel, lately: &Lately, weather: &DailyWeather) -> Depth {
        let asked = calendar::asks(self, model, lately, weather, weather.date);
        asked.map_or(Depth::ZERO, |asked| asked.net)
    }

    /// What a zone is to get in the week that a day lies in, rain counted; `None`: it has no such target.
    #[must_use]
    pub fn week_target(&self, model: &ZoneModel, weather: &DailyWeather) -> Option<Depth> {
        calendar::week_target(self, model, weather)
    }

    /// What the zone would be given at a slot at another depletion than the one that was planned with: the planned dose or less, or
    /// nothing where it is no longer wanted.
    #[must_use]
    pub fn would_give(&self, at: &At, planned: &Proposal) -> Depth {
        match self {
            Self::School(School::WaterBalance) => water_balance::would_give(at, planned),
            _ => calendar::would_give(self, at, planned),
        }
    }
}
