//! One zone's week by its own school, before the site fits it to the clock.

use serde::Serialize;
use utoipa::ToSchema;

use crate::engine::dose::Dose;
use crate::engine::lately::Lately;
use crate::engine::root_zone::{DayBalance, Given};
use crate::engine::schools::new_grass::{self, Beds};
use crate::engine::schools::{Act, Keeping, Proposal};
use crate::engine::slot::{Daybook, HORIZON, RainAhead, Slot, ZoneDay};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Area, Depth};
use crate::site::Plants;

/// Depths below this count as none: sums of floats miss by less.
const EPSILON_MM: f64 = 1e-9;

/// One zone as the site's week needs it.
#[derive(Debug, Clone)]
pub(crate) struct Member<'a> {
    /// Its figures.
    pub model: &'a ZoneModel,
    /// How it is watered.
    pub keeping: Keeping,
    /// Depletion at today's dawn.
    pub start: Depth,
    /// What has run today already.
    pub already: Given,
    /// The horizon as it sees it.
    pub days: [ZoneDay; HORIZON],
    /// Crop ET and RAW of the days after it.
    pub beyond: [(Depth, Depth); HORIZON],
    /// Its opportunities, in time order; none where it takes no part.
    pub slots: Vec<Slot>,
    /// Rank when water is short, 1 first.
    pub priority: u8,
    /// Its area.
    pub area: Area,
    /// What it takes of what may run at a time, of [`crate::engine::timetable::WHOLE`].
    pub takes: u32,
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// What it knows of rain ahead.
    pub rain: RainAhead<'a>,
    /// What it got lately, today's included.
    pub lately: Lately,
    /// Its surface, where it is new grass.
    pub beds: Option<Beds<'a>>,
}

/// The least rank with which trees come before all others (the middle one, which is what zones have unless the manager says otherwise).
const TREES_FIRST: u8 = 5;

/// Who comes before whom when water is short, the first first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = WaterTurn)]
pub enum Turn {
    /// Trees in the lawn, unless the manager ranks them lower.
    Trees,
    /// New grass until it is rooted.
    NewGrass,
    /// Crowns of what is let go, at their due date.
    Crowns,
    /// What is to stay green.
    Green,
}

impl Member<'_> {
    /// When it comes when water is short.
    pub const fn turn(&self) -> Turn {
        if matches!(self.model.plants, Plants::Trees) && self.priority <= TREES_FIRST {
            Turn::Trees
        } else if self.beds.is_some() {
            Turn::NewGrass
        } else if self.keeping.is_crowns() {
            Turn::Crowns
        } else {
            Turn::Green
        }
    }

    /// Its days ahead.
    pub const fn daybook(&self) -> Daybook<'_> {
        Daybook {
            days: &self.days,
            beyond: &self.beyond,
        }
    }
}

/// A zone on its way through the days.
pub(crate) struct Going<'a> {
    /// Depletion at the day's dawn.
    pub depletion: Depth,
    /// What the day has given so far.
    pub given: Given,
    pub rain: RainAhead<'a>,
    /// What it got lately.
    pub lately: Lately,
    /// Its slots, with what the other zones leave of them as things stand.
    pub slots: Vec<Slot>,
    /// The first of them that is not decided yet.
    pub here: usize,
    /// Its surface, where it is new grass.
    pub bed: Option<new_grass::Going>,
}

/// A zone's week.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ZoneWeek {
    /// What is decided at each of its slots, in time order.
    pub proposals: Vec<Proposal>,
    /// The balance of each day of the horizon under them.
    pub balances: Vec<DayBalance>,
}

impl ZoneWeek {
    /// What is decided on a day of the horizon.
    pub fn on(&self, day: usize) -> impl Iterator<Item = &Proposal> {
        self.proposals.iter().filter(move |p| p.slot.day == day)
    }

    /// What is decided in an opening.
    #[must_use]
    pub fn at(&self, opening: usize) -> Option<&Proposal> {
        self.proposals.iter().find(|p| p.slot.opening == opening)
    }

    /// The dose of an opening.
    #[must_use]
    pub fn dose_at(&self, opening: usize) -> Option<&Dose> {
        self.at(opening)?.dose()
    }

    /// Whether there is any opportunity.
    #[must_use]
    pub fn has_opportunity(&self) -> bool {
        !self.proposals.is_empty()
    }

    /// The first day that ends beyond RAW, and the most that any day does.
    #[must_use]
    pub fn shortfall(&self) -> Option<(usize, Depth)> {
        let beyond = |b: &DayBalance| b.end - b.raw;
        let first = self
            .balances
            .iter()
            .position(|b| beyond(b).mm() > EPSILON_MM)?;
        let most = self
            .balances
            .iter()
            .map(beyond)
            .fold(Depth::ZERO, Depth::max);
        Some((first, most))
    }
}

/// Opportunities running at which a zone was held for rain, after one more.
pub(crate) fn held(before: u32, proposal: &Proposal) -> u32 {
    match proposal.act {
        Act::WaitForRain => before + 1,
        _ => 0,
    }
}
