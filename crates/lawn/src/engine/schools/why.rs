//! Why a school proposes what it does, in its own figures, recorded where it is decided.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::rain_and_dose::Comparison;
use crate::engine::seedling::Stage;
use crate::engine::skip::Skip;
use crate::quantity::Depth;

/// Why a school proposes what it does.
#[derive(Debug, Clone, Copy, PartialEq)]
#[allow(clippy::large_enum_variant)] // nearly all zones have the larger
pub enum Why {
    /// The water balance's own figures.
    WaterBalance(WaterBalance),
    /// Those of a school that goes by the calendar.
    ByCalendar(ByCalendar),
    /// Those of new grass.
    NewGrass(NewGrass),
}

impl Why {
    /// Notes what leaves it nothing of the slot.
    pub(super) const fn bar(&mut self, by: Because) {
        match self {
            Self::WaterBalance(why) => why.because = by,
            Self::ByCalendar(why) => why.because = by,
            Self::NewGrass(why) => why.because = by,
        }
    }

    /// The one thing that decided.
    #[must_use]
    pub const fn because(&self) -> Because {
        match self {
            Self::WaterBalance(why) => why.because,
            Self::ByCalendar(why) => why.because,
            Self::NewGrass(why) => why.because,
        }
    }

    /// What the school wants of the slot; at most 0 where it wants nothing.
    #[must_use]
    pub const fn wanted(&self) -> Depth {
        match self {
            Self::WaterBalance(why) => why.needed,
            Self::ByCalendar(why) => why.asked,
            Self::NewGrass(why) => why.wanted,
        }
    }

    /// The most of its dose that the slot carries.
    #[must_use]
    pub const fn most(&self) -> Depth {
        match self {
            Self::WaterBalance(why) => why.most,
            Self::ByCalendar(why) => why.most,
            Self::NewGrass(why) => why.wanted,
        }
    }

    /// Hold or dose, where rain was in sight and the school weighs it.
    #[must_use]
    pub const fn compared(&self) -> Option<&Compared> {
        match self {
            Self::WaterBalance(why) => why.compared.as_ref(),
            Self::ByCalendar(_) | Self::NewGrass(_) => None,
        }
    }
}

/// A rule of the calendar with its figures on a day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "rule", rename_all = "snake_case")]
#[schema(as = CalendarRule)]
pub enum Rule {
    /// So much a week, rain counted.
    WeeklyTarget {
        /// Net depth of this week.
        target_mm: Depth,
        /// Its Monday.
        since: Date,
        /// Rain that entered the soil since.
        rain_mm: Depth,
        /// Net irrigation since.
        given_mm: Depth,
        /// The soak that comes next, from 1; the last one again where all were given.
        soak: u8,
        /// Soaks of the week.
        soaks: u8,
    },
    /// The same depth every few days.
    FixedInterval {
        /// Net depth.
        depth_mm: Depth,
        /// Days from a watering to the next, at least.
        every_days: u8,
        /// The last watering that is known.
        last: Option<Date>,
    },
    /// Crowns of a zone that was let go, so many days after they were last wetted.
    Crowns {
        /// Net depth.
        depth_mm: Depth,
        /// Days from one wetting to the next.
        every_days: u8,
        /// The last wetting that is known.
        last: Option<Date>,
    },
    /// The same minutes every few days.
    EveryOtherDay {
        /// Time that water runs, min.
        run_minutes: f64,
        /// Days from a watering to the next, at least.
        every_days: u8,
        /// The last watering that is known.
        last: Option<Date>,
    },
}

/// Why a school that goes by the calendar proposes what it does.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ByCalendar {
    /// What decided.
    pub because: Because,
    /// The rule.
    pub rule: Rule,
    /// The day on which it asks, or asks next.
    pub on: Date,
    /// Net depth that it asks for; 0: nothing on this day.
    pub asked: Depth,
    /// As much of that as the slot carries.
    pub most: Depth,
    /// Day of the next slot; `None`: none within the plan.
    pub next: Option<usize>,
    /// What the water balance would give the zone here; 0: nothing.
    pub balance_gives: Depth,
    /// Why.
    pub balance_because: Because,
}

/// Why new grass is watered at a slot, or not.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NewGrass {
    /// What decided.
    pub because: Because,
    /// How far the grass has come.
    pub stage: Stage,
    /// What its surface lacks then.
    pub surface: Depth,
    /// Total evaporable water of the surface.
    pub tew: Depth,
    /// How dry the surface may become; `None`: it no longer matters by itself.
    pub limit: Option<Depth>,
    /// How dry it would be before the next slot if nothing were given.
    pub driest: Depth,
    /// The same with what is given.
    pub driest_after: Depth,
    /// Day and instant of the next slot, s since 1970-01-01 UTC; `None`: none within the plan.
    pub next: Option<(usize, i64)>,
    /// What it is to get; 0: nothing.
    pub wanted: Depth,
    /// Days from one watering to the next, where it goes by days.
    pub every_days: Option<i32>,
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
    /// Needed, but the volume that a rule leaves goes where it prevents more harm.
    Rationed,
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
