//! What a cell of the week comes to, and the one thing that decided it: structured, with figures. The front end words it in the reader's
//! units; everything else that bore on it is in the [`crate::view::ledger`].

use jiff::civil::{Date, DateTime};
use science::water_drop::Repellency;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::schools::new_grass::DryBecause;
use crate::engine::schools::why::Rule;
use crate::engine::seedling::Stage;
use crate::engine::skip::Skip;
use crate::quantity::{Depth, Volume};

/// What holding for rain saves and what it costs, against the refill.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeldForRain {
    /// Probability that rain brings it back within RAW by the day by which it should have come, %.
    pub probability_pct: f64,
    /// Rain expected by then.
    pub expected_mm: Depth,
    /// That day: of the third opportunity from here, or the last.
    pub before: Date,
    /// Water that the refill would send below the roots, more than holding does, over the days compared.
    pub saves_mm: Depth,
    /// The same out of the sprinklers, over the zone's area, L.
    pub saves_l: Volume,
    /// What that costs, in the site's currency; `None` without a price.
    pub saves_cost: Option<f64>,
    /// mm beyond RAW over the days compared, more than after the refill.
    pub stress_mm: Depth,
}

/// The surface of new grass at a slot.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Surface {
    /// How far the grass has come.
    pub stage: Stage,
    /// What the surface lacks then.
    pub lacks_mm: Depth,
    /// Total evaporable water of the surface.
    pub tew_mm: Depth,
    /// How much it may lack; `None`: it no longer matters by itself.
    pub limit_mm: Option<Depth>,
    /// What it would lack at most before the next slot if nothing were given.
    pub driest_mm: Depth,
    /// When the next slot begins, on the site's clock; `None`: none within the plan.
    #[schema(value_type = Option<String>)]
    pub next: Option<DateTime>,
    /// Days from one watering to the next, where it goes by days.
    pub every_days: Option<i32>,
}

/// What decided a zone's day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "verdict", rename_all = "snake_case")]
pub enum Verdict {
    /// The zone does not exist that day.
    Absent,
    /// The day is over: the ledger says what ran.
    Over,
    /// Water: the surface of new grass would be too dry before its next slot, or its day has come.
    SurfaceDue(Surface),
    /// Wait: the surface of new grass stays moist enough until its next slot, or its day has not come.
    SurfaceWaits(Surface),
    /// The zone is switched off.
    SwitchedOff,
    /// The zone takes more flow than the supply gives: it cannot run.
    FlowAboveSupply {
        /// What the zone takes.
        flow_l_min: f64,
        /// What the supply gives.
        supply_l_min: f64,
    },
    /// Water: it is due.
    Due {
        /// The next opportunity; `None`: none within the plan.
        next: Option<Date>,
        /// The day on which RAW would be passed without; `None`: not within the plan.
        passes_on: Option<Date>,
        /// Whether less than the refill is given, for rain that may come.
        leaves_room: bool,
    },
    /// Water: later windows cannot carry what the zone needs.
    StartsEarly {
        /// What one window carries.
        window_carries_mm: Depth,
    },
    /// Water: the nights after this one do not hold what the site needs.
    StartsForOthers {
        /// The last of the nights that are full.
        until: Date,
    },
    /// Water: the zone's rule of the calendar asks for it.
    RuleDue {
        /// The rule with its figures.
        rule: Rule,
        /// What the water balance would give the zone then; 0: nothing.
        balance_mm: Depth,
    },
    /// Wait: the zone's rule of the calendar asks for nothing.
    RuleWaits {
        /// The rule with its figures.
        rule: Rule,
        /// The day on which it asks next, if nothing comes between.
        on: Date,
        /// What the water balance would give the zone then; 0: nothing.
        balance_mm: Depth,
    },
    /// Water: what was put down is watered in.
    WatersIn {
        /// By when, on the site's clock.
        #[schema(value_type = String)]
        by: DateTime,
    },
    /// Water: a person has fixed what runs.
    Fixed,
    /// Wait: nothing is needed before the next opportunity.
    NotDue {
        /// The next opportunity; `None`: none within the plan.
        next: Option<Date>,
        /// Room that is left before it.
        room_mm: Depth,
    },
    /// Wait: a soak would not be worth it yet.
    NotWorthwhile {
        /// The worthwhile soak.
        soak_mm: Depth,
    },
    /// Wait: less than the least pass is needed.
    TooLittle {
        /// The least pass.
        least_pass_s: i64,
    },
    /// Wait: rain is likely enough.
    HeldForRain(HeldForRain),
    /// Needed, but other zones fill the window.
    NoRoom {
        /// What stays short.
        short_mm: Depth,
        /// How much longer the window would have to be.
        more_s: i64,
    },
    /// Needed, but what a rule leaves of a volume goes where it prevents more harm.
    Rationed {
        /// The rule's name; `None`: the tank or well leaves no more.
        rule: Option<String>,
        /// What stays short.
        short_mm: Depth,
        /// What the volume would have to be greater by so that no zone is harmed, L.
        more_l: Volume,
    },
    /// Needed, and forbidden.
    Skipped {
        /// By what.
        skip: Skip,
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
    TooLate {
        /// The zone's next day with hours; `None`: not within the plan.
        next: Option<Date>,
    },
    /// There are no allowed hours on this day, or none are left.
    NoHours,
}

/// Why something is not watered in.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "because", rename_all = "snake_case")]
pub enum NotWateredIn {
    /// The zone is not planned: switched off, or it takes more than the supply gives.
    NotPlanned,
    /// There are no allowed hours before.
    NoHours,
    /// Rules, or the late hour, leave the zone none of the hours before.
    Closed,
    /// Weather forbids it, or it must stay dry.
    Forbidden {
        /// By what.
        skip: Skip,
    },
    /// The hours are too few for so much, or a volume is.
    NoRoom,
}

/// What a person should see to, whatever is decided.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "warning", rename_all = "snake_case")]
pub enum Warning {
    /// The soil drinks next to nothing: repair it.
    RepairSoil {
        /// The intake that plans use instead, mm/h.
        #[schema(value_type = f64)]
        intake_mm_h: crate::quantity::Rate,
    },
    /// The sprinklers are so uneven that the plan does not follow: repair them first.
    RepairSprinklers {
        /// Uniformity of the low quarter.
        evenness: f64,
    },
    /// The ground repels water: it is watered in light passes with soaks until drops go in.
    RepelsWater {
        /// How much.
        repellency: Repellency,
    },
    /// Even the least pass is longer than the ground takes: some runs off.
    RunsOff {
        /// Depth that runs off.
        runoff_mm: Depth,
    },
    /// The root zone holds less than about a day's use: dawn watering cannot hold it.
    RootsLimit {
        /// Readily available water.
        raw_mm: Depth,
        /// Crop ET of a day.
        etc_mm: Depth,
        /// Days that it lasts, at least 1.
        every_days: u32,
    },
    /// Other zones fill the window.
    NoRoom {
        /// What stays short.
        short_mm: Depth,
    },
    /// A rule leaves too little of a volume.
    Rationed {
        /// The rule's name; `None`: the tank or well leaves no more.
        rule: Option<String>,
        /// What stays short.
        short_mm: Depth,
        /// What the volume would have to be greater by so that no zone is harmed, L.
        more_l: Volume,
    },
    /// The surface of new grass is too dry for some hours of the day.
    SurfaceDry {
        /// The first of them, from 0 to 23.
        from_hour: u8,
        /// How many.
        hours: u8,
        /// Why.
        why: DryBecause,
        /// The rule that leaves it none of the hours, where one does.
        rule: Option<String>,
    },
    /// A person set what runs, and some of it drains below the roots: rain came, or it was more than is missing.
    EditDrains {
        /// What drains.
        drains_mm: Depth,
    },
    /// A person set what runs, and it may freeze then: water on paving turns to ice.
    EditFreezes {
        /// Least air temperature expected, °C.
        tmin_c: f64,
    },
    /// A person set what runs, and the day has no hours for it.
    EditHasNoHours,
    /// What was put down is not watered in by the time that was asked.
    NotWateredIn {
        /// By when, on the site's clock.
        #[schema(value_type = String)]
        by: DateTime,
        /// What is missing.
        short_mm: Depth,
        /// Why.
        because: NotWateredIn,
    },
    /// Depletion passes RAW within the plan in spite of it.
    Shortfall {
        /// The first day.
        date: Date,
        /// The most that RAW is passed by.
        short_mm: Depth,
        /// Whether the zone waits for rain that may prevent it.
        rain_may_help: bool,
    },
}

/// What concerns all zones: the weather's age.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "note", rename_all = "snake_case")]
pub enum Note {
    /// Temperatures of some of the last fourteen days are not known, and were filled.
    WeatherMissing {
        /// Which days.
        dates: Vec<Date>,
        /// The last day known.
        last_known: Option<Date>,
        /// Whether the place's normals stand for them, rain too; else the mean of the days before, without rain.
        by_normals: bool,
    },
    /// ET0 ahead: where it comes from.
    EtAhead {
        /// Days that a forecast covers.
        forecast_days: u32,
        /// For the others: mean of the last seven days observed, in which normals stand for what is not known.
        mean_et0_mm: Depth,
        /// Whether it is the place's normals' rather than the last days'.
        by_normals: bool,
    },
}
