//! The plan as people and files see it: plain data with its reasons, written by [`crate::view::plan`].

use jiff::Timestamp;
use jiff::civil::{Date, DateTime};
use science::reference_et::Method;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::remedy::By;
use crate::engine::seedbed::LAYER_MM;
use crate::engine::seedling::Stage;
use crate::engine::surface_day::SurfaceDay;
use crate::quantity::{Area, Depth, Rate, Volume};
use crate::record::edit::Becomes;
use crate::site::{NewGrassAs, Plants, Regime, School};
use crate::view::ledger::Line;
use crate::view::verdict::{Note, Verdict, Warning};
use crate::view::worth::WorthMeasuring;

/// Where a day's reference ET comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum EtSource {
    /// Observed, Penman–Monteith.
    PenmanMonteith,
    /// Observed, Penman–Monteith with estimates.
    PenmanMonteithEstimated,
    /// Observed, temperature alone.
    Hargreaves,
    /// Not known; filled with the mean of the days before.
    Filled,
    /// Forecast.
    Forecast,
    /// Ahead of any forecast: the mean of the last seven days observed.
    RecentMean,
    /// Ahead of any forecast, with few days observed: the normals of the place.
    Normals,
}

impl From<Option<Method>> for EtSource {
    fn from(method: Option<Method>) -> Self {
        match method {
            Some(Method::PenmanMonteith) => Self::PenmanMonteith,
            Some(Method::PenmanMonteithEstimated) => Self::PenmanMonteithEstimated,
            Some(Method::Hargreaves) => Self::Hargreaves,
            None => Self::Filled,
        }
    }
}

/// An allowed window of a day.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct PlanWindow {
    /// It opens.
    pub opens: Timestamp,
    /// It closes.
    pub closes: Timestamp,
}

/// A day of the plan, for all zones.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlanDay {
    /// The civil day.
    pub date: Date,
    /// Reference ET.
    pub et0_mm: Depth,
    /// Where it comes from.
    pub et0_from: EtSource,
    /// Rain that fell; `None` from today on.
    pub rain_mm: Option<Depth>,
    /// Whether nobody told of it: it is what the normals of the place expect.
    pub rain_expected: bool,
    /// Rain forecast, mean amount given rain; shown, not counted.
    pub forecast_rain_mm: Option<Depth>,
    /// Its probability, %.
    pub rain_probability_pct: Option<f64>,
    /// Allowed windows.
    pub windows: Vec<PlanWindow>,
    /// Sunrise.
    pub sunrise: Option<Timestamp>,
}

/// What a cell of the week says.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum State {
    /// Past or done today: it ran.
    Ran,
    /// Past: it did not run.
    Past,
    /// Water.
    Water,
    /// Wait.
    Hold,
    /// Needed, and forbidden by the weather.
    Skip,
    /// No opportunity that day.
    NoWindow,
    /// Switched off.
    Off,
    /// The zone does not exist that day.
    Absent,
}

/// A run that is planned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct PlannedRun {
    /// Number of passes.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Rest after each but the last, s.
    pub soak_s: i64,
    /// Time that water runs, s; of a portable, at each setting.
    pub run_s: i64,
    /// Settings of a portable, one after another; 1 for what stands fast.
    pub settings: u32,
    /// How likely it is to go ahead, %: rain that comes before may cancel it.
    pub chance_pct: f64,
    /// The allowed hours in which it runs.
    pub window: PlanWindow,
    /// Start of each pass; empty for zones watered by hand, which keep any of these hours.
    pub starts: Vec<Timestamp>,
    /// Net depth that enters the soil.
    pub net_mm: Depth,
    /// Depth out of the sprinklers.
    pub gross_mm: Depth,
    /// Depth that runs off.
    pub runoff_mm: Depth,
    /// Volume out of the sprinklers, L.
    pub volume_l: Volume,
}

/// The surface of new grass over a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct SurfaceOfDay {
    /// What it lacks of field capacity when the day begins.
    pub start_mm: Depth,
    /// The same when it ends.
    pub end_mm: Depth,
    /// Total evaporable water.
    pub tew_mm: Depth,
    /// How much it may lack; `None`: it no longer matters by itself.
    pub limit_mm: Option<Depth>,
    /// Thickness of the layer.
    pub layer_mm: Depth,
    /// The driest that it is at the end of an hour.
    pub driest_mm: Depth,
    /// The hours, from 0 to 23, at whose end it lacks more.
    pub dry: Vec<u8>,
    /// Of these those at whose end it lacks so much more that it is worth saying.
    pub too_dry: Vec<u8>,
    /// Share of all that can evaporate that it lacks at the end of each hour, %.
    pub lacks_pct: Vec<u8>,
}

impl From<SurfaceDay> for SurfaceOfDay {
    fn from(day: SurfaceDay) -> Self {
        Self {
            start_mm: day.start,
            end_mm: day.end,
            tew_mm: day.tew,
            limit_mm: day.limit,
            layer_mm: Depth::from_mm(LAYER_MM),
            driest_mm: day.driest,
            dry: day.dry.hours().collect(),
            too_dry: day.too_dry(),
            lacks_pct: day.lacks_pct.to_vec(),
        }
    }
}

/// One zone on one day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Cell {
    /// The civil day.
    pub date: Date,
    /// What it says.
    pub state: State,
    /// Depletion at dawn, before watering.
    pub depletion_start_mm: Depth,
    /// Depletion at the end of the day.
    pub depletion_mm: Depth,
    /// Readily available water of the day.
    pub raw_mm: Depth,
    /// Crop ET as it is or was.
    pub eta_mm: Depth,
    /// Stress coefficient.
    pub ks: f64,
    /// Irrigation that entered or shall enter the soil.
    pub irrigation_net_mm: Depth,
    /// The surface of new grass; depletion is then that of the soil below it. `None`: the zone has no surface of its own.
    pub surface: Option<SurfaceOfDay>,
    /// What is to run; of several runs that day the first.
    pub run: Option<PlannedRun>,
    /// Further runs of the day, each with its own reasons.
    pub later: Vec<LaterRun>,
    /// What decided.
    pub verdict: Verdict,
    /// The working, line by line.
    pub ledger: Vec<Line>,
    /// What a person should see to.
    pub warnings: Vec<Warning>,
    /// What a person made of the day; `None`: it is as planned.
    pub edit: Option<Becomes>,
}

impl Cell {
    /// All that is to run that day.
    pub fn runs(&self) -> impl Iterator<Item = &PlannedRun> {
        self.run.iter().chain(self.later.iter().map(|l| &l.run))
    }
}

/// A further run of a zone on a day that has several.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct LaterRun {
    /// What is to run.
    pub run: PlannedRun,
    /// What decided.
    pub verdict: Verdict,
    /// The working, line by line.
    pub ledger: Vec<Line>,
}

/// What a week asks of a zone, from today on.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct Totals {
    /// Time that water runs, s.
    pub run_s: i64,
    /// Net depth.
    pub net_mm: Depth,
    /// Depth out of the sprinklers.
    pub gross_mm: Depth,
    /// Volume out of the sprinklers if no rain comes, L.
    pub volume_l: Volume,
    /// Volume to be expected with the rain that may come, L.
    pub expected_l: Volume,
    /// What the volume costs if no rain comes, in the site's currency; `None` without a price.
    pub cost: Option<f64>,
    /// What the volume to be expected costs.
    pub expected_cost: Option<f64>,
}

impl Totals {
    /// Sets what its volumes cost.
    pub(crate) fn price(&mut self, per_m3: Option<f64>) {
        self.cost = per_m3.map(|price| self.volume_l.cost_at(price));
        self.expected_cost = per_m3.map(|price| self.expected_l.cost_at(price));
    }
}

/// What a zone got since Monday, rain that entered the soil counted, against its target or its plan.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WeekSum {
    /// That Monday.
    pub since: Date,
    /// Irrigation that entered the soil, today's included.
    pub given_mm: Depth,
    /// Rain that entered the soil, up to yesterday.
    pub rain_mm: Depth,
    /// Both.
    pub got_mm: Depth,
    /// What it is to get until Sunday: its school's target, or else what it got and what is planned.
    pub of_mm: Depth,
    /// Whether that is a target.
    pub target: bool,
}

/// What becomes of the zones that are watered as established on the day whose watering comes next.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct AtDawn {
    /// Zones that water.
    pub water: u32,
    /// Zones that do not.
    pub hold: u32,
}

/// What a week is to be expected to come to, over the outlook's scenarios.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = ExpectedWeek)]
pub struct Expected {
    /// Net irrigation.
    pub net_mm: Depth,
    /// Volume out of the sprinklers, L.
    pub volume_l: Volume,
    /// Water below the roots, of irrigation and rain.
    pub drained_mm: Depth,
    /// Days that end beyond RAW.
    pub stress_days: f64,
}

/// A zone's week by its own school, and if the whole site were watered by the water balance.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct BesideBalance {
    /// By its own school.
    pub own: Expected,
    /// By the water balance.
    pub balance: Expected,
}

/// A zone's part of the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ZonePlan {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// What grows there.
    pub grass: Grass,
    /// What it is watered for.
    #[serde(default)]
    pub plants: Plants,
    /// What it stands on.
    pub soil: Texture,
    /// What waters it.
    pub sprinkler: Kind,
    /// How it is watered at present.
    pub regime: Regime,
    /// By which school it is watered.
    pub school: School,
    /// What its school comes to beside the water balance; `None` where it is watered by that.
    pub beside: Option<BesideBalance>,
    /// Whether a person carries the water.
    pub by_hand: bool,
    /// Area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// Effective root depth.
    pub root_depth_mm: Depth,
    /// Middle of the grass's mowing range.
    pub mowing_mm: Depth,
    /// Precipitation rate.
    #[schema(value_type = f64)]
    pub rate_mm_h: Rate,
    /// Total available water.
    pub taw_mm: Depth,
    /// One cell a day of the plan.
    pub cells: Vec<Cell>,
    /// The week's totals.
    pub totals: Totals,
    /// What it got since Monday.
    pub this_week: WeekSum,
    /// How far its new grass has come; `None`: it has none.
    pub new_grass: Option<NewGrassNow>,
    /// Of new grass that was mown: the morning from which its roots are as deep as the zone's own, and it is a lawn. `None`: it was none, or is not so far.
    #[serde(default)]
    pub lawn_from: Option<Date>,
}

/// How far new grass has come.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NewGrassNow {
    /// What it was made of.
    pub made: NewGrassAs,
    /// The day on which it was sown.
    pub sown_on: Date,
    /// How far it has come.
    pub stage: Stage,
    /// The first day of that.
    pub since: Date,
    /// Warmth since it was sown, as far as it counts, °C·d.
    pub warmth_c_d: f64,
    /// Warmth at which the next stage begins, °C·d; `None`: there is none.
    pub next_c_d: Option<f64>,
    /// Share of the ground that it covers.
    pub cover: f64,
    /// When a watering by hand was due today that nobody noted, on the site's clock; `None`: none was.
    #[schema(value_type = Option<String>)]
    pub missed: Option<DateTime>,
    /// Days up to yesterday since a watering by hand was last noted, or something of it was seen; 0: none of them was too dry, or it is not watered by hand.
    #[serde(default)]
    pub unnoted_days: u32,
    /// Whether it was dry for so long that nobody knows whether it lives: no stage begins until somebody has seen how it is.
    #[serde(default)]
    pub is_in_doubt: bool,
}

/// The next time that the controller waters.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NextWatering {
    /// The local day.
    pub date: Date,
    /// First start; `None` where all is watered by hand.
    pub starts: Option<Timestamp>,
    /// Last stop.
    pub ends: Option<Timestamp>,
    /// How likely any of it is to go ahead, %.
    pub chance_pct: f64,
    /// Zones that water.
    pub zones: Vec<String>,
}

/// What would shorten a night.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "by", rename_all = "snake_case")]
pub enum RemedyBy {
    /// Sprinklers as even as good ones of their kind.
    Evenness {
        /// Uniformity of the low quarter now.
        from: f64,
        /// That of good ones.
        to: f64,
    },
    /// Ground that takes the water without a rest between passes: opened, or under slower nozzles.
    NoSoak,
}

/// What would make a night shorter on which not all fits.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct NightRemedy {
    /// The night's day.
    pub date: Date,
    /// The zone's identifier.
    pub zone: String,
    /// What is done there.
    pub remedy: RemedyBy,
    /// What it takes off the night in which all would fit, s.
    pub saves_s: i64,
}

/// A volume that is not passed, in the time that holds today.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct VolumeUse {
    /// The name of the rule that says so.
    pub rule: String,
    /// The last day of that time.
    pub until: Date,
    /// The volume, L.
    pub most_l: Volume,
    /// What is used of it, L.
    pub used_l: Volume,
    /// What is planned of it, if no rain comes, L.
    pub planned_l: Volume,
}

/// What a week asks of the controller beyond what it can be told.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct BeyondController {
    /// Programmes that the week takes: zones with the same days and passes share one.
    pub programmes_needed: u32,
    /// Programmes that it can hold; `None`: not known.
    pub programmes: Option<u8>,
    /// Zones, by name, whose days none of its patterns makes.
    pub no_pattern: Vec<String>,
}

/// Version of the plan's JSON. A stored plan of an older one is made anew; nothing reads it as state.
pub const VERSION: u32 = 13;

/// The week's plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WeekPlan {
    /// Version of its form, [`VERSION`].
    pub version: u32,
    /// The site's day.
    pub today: Date,
    /// IANA time zone of the site.
    pub time_zone: String,
    /// Two days past, today, six ahead.
    pub days: Vec<PlanDay>,
    /// The zones, in the site's order; those ended before the first day are left out.
    pub zones: Vec<ZonePlan>,
    /// The day whose watering comes next: today while one of its windows is still to come, else tomorrow.
    pub dawn: Date,
    /// What becomes of the zones on that day.
    pub at_dawn: AtDawn,
    /// The next day on which anything waters if no rain comes.
    pub next: Option<NextWatering>,
    /// The site's totals from today on.
    pub totals: Totals,
    /// What concerns all zones: the weather's age.
    pub notes: Vec<Note>,
    /// What is worth measuring next, what costs most first.
    pub worth_measuring: Vec<WorthMeasuring>,
    /// What would shorten nights on which not all fits.
    pub remedies: Vec<NightRemedy>,
    /// How much is used of volumes that are not passed.
    pub volumes: Vec<VolumeUse>,
    /// What cannot be set on the controller by its own programmes; `None`: it can.
    pub beyond_controller: Option<BeyondController>,
}

impl From<By> for RemedyBy {
    fn from(by: By) -> Self {
        match by {
            By::Evenness { from, to } => Self::Evenness { from, to },
            By::NoSoak => Self::NoSoak,
        }
    }
}
