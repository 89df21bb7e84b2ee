//! The working of a cell, line by line, with its figures. The front end words the lines in the reader's units; tests assert on them.
//!
//! Its depths add up to the depletion ([`Line::Account`]), its times ([`Line::Refill`], [`Line::Unevenness`], [`Line::SprayLoss`],
//! [`Line::Rounding`]) to the run time, to the second.

use jiff::civil::{Date, DateTime};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::rain_and_dose::Candidate;
use crate::engine::schools::why::Rule;
use crate::engine::skip::Skip;
use crate::engine::zone_model::PassLimit;
use crate::measure::seen::Seen;
use crate::quantity::{Depth, Rate, Volume};
use crate::record::watered::Watered;
use crate::sourced::Sourced;
use crate::view::verdict::{HeldForRain, Surface};

/// What limits a pass, for people.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Limit {
    /// The soil drinks as fast as the sprinklers rain.
    None,
    /// What may stand on the surface, and intake.
    Intake,
    /// Measured minutes to runoff.
    MeasuredRunoff,
    /// Time to ponding, by Green and Ampt.
    Ponding,
    /// Water-repellent soil: light passes with soaks.
    Repellent,
    /// The controller's longest run.
    Controller,
}

impl From<PassLimit> for Limit {
    fn from(limit: PassLimit) -> Self {
        match limit {
            PassLimit::None => Self::None,
            PassLimit::Intake => Self::Intake,
            PassLimit::MeasuredRunoff => Self::MeasuredRunoff,
            PassLimit::Ponding => Self::Ponding,
            PassLimit::Repellent => Self::Repellent,
            PassLimit::Controller => Self::Controller,
        }
    }
}

/// A candidate of the comparison of rain and dose; expectations over its scenarios.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct RainCandidate {
    /// Net depth; 0 holds.
    pub net_mm: Depth,
    /// mm beyond RAW until the next opportunity, summed over its days.
    pub stress_mm: Depth,
    /// Water below the roots.
    pub drained_mm: Depth,
    /// Waterings.
    pub waterings: f64,
    /// The sum, weighted.
    pub cost_mm: Depth,
}

impl From<&Candidate> for RainCandidate {
    fn from(c: &Candidate) -> Self {
        Self {
            net_mm: c.net,
            stress_mm: c.stress,
            drained_mm: c.drained,
            waterings: c.waterings,
            cost_mm: c.cost,
        }
    }
}

/// One line with its figures; depths in mm, times in s.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
#[schema(as = LedgerLine)]
pub enum Line {
    /// Crop ET of the day: Kc · how green · growth · site factor · ET0.
    CropEt {
        /// Crop coefficient.
        kc: f64,
        /// How green.
        how_green: f64,
        /// Growth state.
        growth: f64,
        /// Shade, wind, hot edges.
        site_factor: f64,
        /// Reference ET.
        et0_mm: Depth,
        /// Crop ET without stress.
        etc_mm: Depth,
    },
    /// How depletion came to be: start + ET − rain − irrigation + drainage + adjustment.
    Account {
        /// First day of the account.
        from: Date,
        /// Depletion at its dawn.
        start_mm: Depth,
        /// ET since.
        eta_mm: Depth,
        /// Rain that entered the soil since.
        effective_rain_mm: Depth,
        /// Irrigation that entered the soil since.
        irrigation_mm: Depth,
        /// Water beyond field capacity since.
        drainage_mm: Depth,
        /// Corrections since.
        adjustment_mm: Depth,
        /// Depletion now.
        depletion_mm: Depth,
    },
    /// What was seen, or read off a probe, moved the balance.
    Corrected {
        /// The day.
        date: Date,
        /// What was seen.
        seen: Seen,
        /// Depletion by the book.
        book_mm: Depth,
        /// Depletion as it was told.
        told_mm: Depth,
        /// How much of the difference counts, 0 to 1.
        gain: f64,
        /// What was added to the depletion; positive dries.
        adjustment_mm: Depth,
    },
    /// What readings of a probe have taught: each day the book counts this much more than its ETc; it is among the corrections.
    Drift {
        /// Share of ETc, positive where the turf uses more than the book says.
        share: f64,
        /// How many readings there were; 0 in plans that did not count them.
        #[serde(default)]
        readings: u32,
    },
    /// Depletion against what may be used.
    Depletion {
        /// Depletion at dawn.
        depletion_mm: Depth,
        /// Readily available water.
        raw_mm: Depth,
        /// Total available water.
        taw_mm: Depth,
    },
    /// Nothing is needed before the next opportunity.
    NotDue {
        /// The next opportunity; `None`: none within the plan.
        next: Option<Date>,
        /// Room that is left before it.
        room_mm: Depth,
    },
    /// Water is needed.
    Due {
        /// The next opportunity; `None`: none within the plan.
        next: Option<Date>,
        /// The day on which RAW would be passed without; `None`: not within the plan.
        passes_on: Option<Date>,
        /// The least that this opportunity must give.
        needed_mm: Depth,
    },
    /// Later windows cannot carry what the zone needs: it starts early.
    StartsEarly {
        /// What one window carries.
        window_carries_mm: Depth,
    },
    /// It could wait, but the nights after this one do not hold what the site needs: it starts early.
    StartsForOthers {
        /// The last of the nights that are full.
        until: Date,
        /// What these nights hold.
        hold_s: i64,
        /// What the zones need by then.
        needed_s: i64,
    },
    /// It gives way to other zones.
    GivesWay {
        /// What it would have been given.
        wanted_mm: Depth,
        /// What it gets.
        gives_mm: Depth,
        /// How much longer the window would have to be for all.
        more_s: i64,
    },
    /// What the zone's rule of the calendar asks.
    Rule {
        /// The rule with its figures.
        rule: Rule,
        /// The day on which it asks, or asks next.
        on: Date,
        /// Net depth that it asks for here; 0: nothing.
        asks_mm: Depth,
    },
    /// The surface of new grass.
    Surface(Surface),
    /// What the water balance would do with the same ground.
    BalanceWould {
        /// Net depth; 0: nothing.
        gives_mm: Depth,
        /// Whether it would wait for rain.
        for_rain: bool,
    },
    /// A rule, or the tank or well, leaves so much of a volume that the zone gets less.
    Rationed {
        /// The rule's name; `None`: the tank or well leaves no more.
        rule: Option<String>,
        /// What it would have been given.
        wanted_mm: Depth,
        /// What it gets.
        gives_mm: Depth,
        /// What was left of the volume before, L.
        left_l: Volume,
        /// What it would have to be greater by so that no zone is harmed, L.
        more_l: Volume,
    },
    /// A soak would not be worth it yet.
    NotWorthwhile {
        /// The worthwhile soak.
        soak_mm: Depth,
    },
    /// Less than the least pass is needed.
    TooLittle {
        /// The least pass.
        least_pass_s: i64,
    },
    /// Rain is likely enough to wait for: what holding saves and what it costs, against the refill.
    HeldForRain(HeldForRain),
    /// Rain in sight: holding and doses compared over the same scenarios.
    RainCompared {
        /// Scenarios.
        scenarios: u32,
        /// Days that each was run forward.
        days: u32,
        /// What a mm beyond RAW counts for.
        stress_weight: f64,
        /// What a watering counts for.
        watering_mm: Depth,
        /// Rain expected within the days compared.
        expected_mm: Depth,
        /// The candidates, deepest first.
        candidates: Vec<RainCandidate>,
        /// Index of the one that costs least.
        best: u32,
    },
    /// Less than the refill: room is left for rain.
    RoomForRain {
        /// The refill.
        refill_mm: Depth,
        /// What is given.
        gives_mm: Depth,
    },
    /// Needed, but other zones fill the window.
    NoRoom {
        /// What stays short.
        short_mm: Depth,
        /// How much longer the window would have to be.
        more_s: i64,
    },
    /// Needed, and forbidden by the weather.
    Skipped {
        /// By what.
        skip: Skip,
    },
    /// The dose: the depletion is refilled.
    Refill {
        /// Net depth.
        net_mm: Depth,
        /// Time for it with even sprinklers and no loss.
        seconds: i64,
    },
    /// The dose that a rule of the calendar asks for.
    Asked {
        /// Net depth.
        net_mm: Depth,
        /// Time for it with even sprinklers and no loss.
        seconds: i64,
    },
    /// The window carries less than the refill, or than what is asked.
    WindowCarries {
        /// The refill, or what is asked.
        refill_mm: Depth,
        /// What the window carries.
        carries_mm: Depth,
    },
    /// More, so that the driest quarter gets enough.
    Unevenness {
        /// Uniformity of the low quarter.
        evenness: Sourced<f64>,
        /// The day from which it is so; `None`: always.
        since: Option<Date>,
        /// Run-time multiplier.
        multiplier: f64,
        /// Depth added.
        added_mm: Depth,
        /// Time added.
        seconds: i64,
    },
    /// More, for what drifts away.
    SprayLoss {
        /// Share lost.
        share: Sourced<f64>,
        /// Depth added.
        added_mm: Depth,
        /// Time added.
        seconds: i64,
    },
    /// Rounding to the controller's step, passes equal; below 0 where time is taken off. The balance keeps it.
    Rounding {
        /// The step.
        step_s: i64,
        /// Time added.
        seconds: i64,
    },
    /// The rate that turns depth into time.
    AtRate {
        /// Precipitation rate.
        rate_mm_h: Sourced<Rate>,
        /// The day from which it is so; `None`: always.
        since: Option<Date>,
    },
    /// How the run is split.
    Passes {
        /// Number.
        passes: u32,
        /// Length of each.
        pass_s: i64,
        /// Rest between.
        soak_s: i64,
        /// Longest pass; `None`: no limit.
        longest_pass_s: Option<i64>,
        /// What limits it.
        limit: Limit,
        /// Most passes in a window, if there is such a limit.
        most_passes: Option<u32>,
        /// Intake of the soil.
        intake_mm_h: Sourced<Rate>,
        /// What may stand on the surface.
        accumulation_mm: Depth,
    },
    /// Storage in the root zone: available water times root depth.
    Storage {
        /// Available water, mm/mm.
        available_mm_per_mm: Sourced<f64>,
        /// Effective root depth.
        root_depth_mm: Sourced<Depth>,
        /// The day from which that storage is so; `None`: always.
        available_since: Option<Date>,
        /// The day from which that root depth is so; `None`: always.
        root_depth_since: Option<Date>,
    },
    /// There is no allowed day within the plan.
    NoWindow {
        /// The day on which RAW is passed; `None`: not within the plan.
        passes_on: Option<Date>,
        /// How far it is passed by the end of the plan.
        short_mm: Depth,
    },
    /// A local rule leaves the zone nothing of the day's hours.
    ClosedByRule {
        /// Its name.
        rule: String,
        /// The zone's next day with hours; `None`: not within the plan.
        next: Option<Date>,
    },
    /// The day's hours are too late for the zone: leaves would not dry by night, or its grass is not watered after noon.
    TooLate,
    /// A person wants the zone dry on this day.
    KeptDry,
    /// The zone must stay dry for some hours.
    KeptDryHours {
        /// From when on, on the site's clock.
        #[schema(value_type = String)]
        from: DateTime,
        /// Until when.
        #[schema(value_type = String)]
        until: DateTime,
    },
    /// What was put down is watered in.
    WatersIn {
        /// By when, on the site's clock.
        #[schema(value_type = String)]
        by: DateTime,
        /// Net depth that is asked.
        net_mm: Depth,
    },
    /// A person has fixed what runs.
    Fixed,
    /// What must be set on the controller, whose seasonal adjust makes it the pass.
    SetOnController {
        /// The adjust that stands on it, %.
        adjust_pct: u16,
        /// Time to set for each pass, s.
        set_s: i64,
    },
    /// A run that is in the record.
    Ran {
        /// Time that water ran.
        seconds: i64,
        /// Net depth.
        net_mm: Depth,
        /// Whether it was taken from the plan because nobody said otherwise.
        assumed: bool,
        /// What it watered, and by what.
        watered: Watered,
    },
}

impl Line {
    /// The time that this line adds to a run, s; the lines of a run add up to it.
    #[must_use]
    pub const fn seconds(&self) -> Option<i64> {
        match self {
            Self::Refill { seconds, .. }
            | Self::Asked { seconds, .. }
            | Self::Unevenness { seconds, .. }
            | Self::SprayLoss { seconds, .. }
            | Self::Rounding { seconds, .. } => Some(*seconds),
            _ => None,
        }
    }
}
