//! A zone's figures as the rules use them: what was measured or set, else the handbook's, each with source and range.

use jiff::civil::Date;
use science::curve_number::curve_number;
use science::depletion::{fraction_without_stress, total_available_mm};
use science::green_ampt;
use science::soil::{LEAST_INTAKE_MM_H, Texture};
use science::sprinkler::{LEAST_UNIFORMITY, run_time_multiplier};
use science::turf::{DROUGHT_DORMANT_KC, Season, growth_factor};
use science::water_drop::Repellency;

use crate::engine::growing::{Growing, how_green};
use crate::engine::timetable::WHOLE;
use crate::quantity::{Area, Depth, Rate, RunTime};
use crate::site::ground::SoilFigures;
use crate::site::{Controller, Exposure, Plants, Regime, SiteDocument, Supply, Zone};
use crate::sourced::{Source, Sourced};
use crate::weather::DailyWeather;

/// Plausible spread of available water around its table value (common practice, no source).
const STORAGE_SPREAD: f64 = 0.25;
/// Plausible spread of a site factor (common practice, no source).
const SITE_FACTOR_SPREAD: f64 = 0.20;
/// Passes a day that a person moves a hose for (common practice, no source).
const MOST_PASSES_BY_HAND: u32 = 3;
/// Area that one setting of a portable sprinkler waters unless the zone says otherwise, m² (common practice, no source).
const SETTING_M2: f64 = 100.0;
/// What a watering counts for unless the zone says otherwise, mm (found by trying five made-up climates; no source).
const WATERING_COST_MM: f64 = 2.0;
/// Least total available water, mm, so that fractions of it stay meaningful.
pub(crate) const LEAST_TAW_MM: f64 = 1.0;

/// Where the share that may be used comes from.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Allowable {
    /// The manager set it; the day's demand does not move it.
    Set(f64),
    /// p0 adjusted for the day's ETc.
    Demand(f64),
}

/// What limits a single pass.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PassLimit {
    /// The soil drinks as fast as it rains.
    None,
    /// Surface accumulation and intake.
    Intake,
    /// Measured minutes to runoff.
    MeasuredRunoff,
    /// Time to ponding, by Green and Ampt.
    Ponding,
    /// Water-repellent soil, which takes a little at a time.
    Repellent,
    /// The controller's longest run.
    Controller,
}

/// Days over which turf that wakes comes to use what it did (common practice, no source).
pub const WAKES_OVER_DAYS: i32 = 21;

/// How turf stands to a drought.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Turf {
    Awake,
    Asleep,
    /// Waking, from a day on; `None`: nobody knows since when, so long enough.
    Waking(Option<Date>),
}

/// How long the ground must rest before the next pass.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Soak {
    /// Pass · (PR − IR) / IR: the factor.
    Share(f64),
    /// Measured.
    Fixed(RunTime),
}

/// A zone's figures, resolved.
#[derive(Debug, Clone, PartialEq)]
pub struct ZoneModel {
    /// Cool or warm season.
    pub season: Season,
    /// Precipitation rate.
    pub rate: Sourced<Rate>,
    /// Low-quarter or emission uniformity.
    pub evenness: Sourced<f64>,
    /// Share lost to spray and drift.
    pub spray_loss: Sourced<f64>,
    /// Effective root depth.
    pub root_depth: Sourced<Depth>,
    /// Available water, mm per mm.
    pub available: Sourced<f64>,
    /// Intake rate as the plan uses it, not below the least.
    pub intake: Sourced<Rate>,
    /// Whether the soil's own intake lies below the least.
    pub intake_raised: bool,
    /// Allowable surface accumulation; none where Green and Ampt say how long a pass may be.
    pub accumulation: Depth,
    /// Water content at field capacity over the roots, share of the volume.
    pub field_capacity: f64,
    /// Whether the ground repels water.
    pub repellency: Repellency,
    /// Factor on crop ET for shade, wind and hot edges.
    pub site_factor: Sourced<f64>,
    /// Total available water.
    pub taw: Depth,
    /// The share of it that may be used.
    pub allowable: Allowable,
    /// Run-time multiplier M.
    pub multiplier: f64,
    /// Uniformity of good sprinklers of the kind.
    pub good_evenness: f64,
    /// Whether evenness lies below what plans follow.
    pub repair_first: bool,
    /// Curve number for rain.
    pub curve_number: f64,
    /// Longest pass; `None`: no limit.
    pub longest_pass: Option<RunTime>,
    /// What limits it.
    pub pass_limit: PassLimit,
    soak: Soak,
    /// Least soak, s.
    least_soak_s: i64,
    /// Least useful pass, in whole steps of the controller.
    pub least_pass_s: i64,
    /// The controller's step as it runs, s.
    pub step_s: i64,
    /// Most passes in a window: a person carries no more, or the controller starts no oftener.
    pub most_passes: Option<u32>,
    /// Wind above which the sprinkler should not run, m/s.
    pub wind_limit_m_s: Option<f64>,
    /// What each watering counts for where rain and doses are compared: the *deep and seldom* dial.
    pub watering_cost: Depth,
    /// Places in which a portable sprinkler is set, one after another, to water all of the zone; 1 for what stands fast.
    pub settings: u32,
    /// The flow that the zone takes, L/min; of a portable, at one setting.
    pub flow_l_min: f64,
    /// Crop coefficient by month, before the growth state: Kc · how green · site factor.
    kc: [f64; 12],
    /// What it is watered for.
    pub plants: Plants,
    turf: Turf,
}

/// The parts of a day's crop coefficient.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct CropFactors {
    /// Kc of healthy turf.
    pub kc: f64,
    /// How green.
    pub how_green: f64,
    /// Growth state.
    pub growth: f64,
    /// Shade, wind, hot edges.
    pub site_factor: f64,
}

impl ZoneModel {
    /// Resolves a zone of a site at a latitude.
    #[must_use]
    pub fn new(zone: &Zone, controller: &Controller, latitude: f64) -> Self {
        let growing = Growing::of(zone, latitude);
        let kind = zone.sprinkler.defaults();
        let drip = kind.wind_limit_m_s.is_none();

        let rate = zone.rate_mm_h.clone().unwrap_or_else(|| {
            let [low, mid, high] = kind.rate_mm_h.map(Rate::from_mm_h);
            Sourced::handbook(low, mid, high, kind.name)
        });
        let evenness = zone.evenness_du_lq.clone().unwrap_or_else(|| {
            let [low, mid, high] = kind.evenness;
            Sourced::handbook(low, mid, high, kind.name)
        });
        let spray_loss = zone.spray_loss.clone().unwrap_or_else(|| {
            let [low, mid, high] = kind.spray_loss;
            Sourced::handbook(low, mid, high, kind.name)
        });
        let root_depth = zone.root_depth_mm.clone().unwrap_or_else(|| {
            let [low, mid, high] = growing.roots_mm.map(Depth::from_mm);
            Sourced::handbook(low, mid, high, growing.name)
        });
        let available = zone.available_mm_per_mm.clone().unwrap_or_else(|| {
            let (x, table) = zone.topsoil_available();
            let (low, high) = (x * (1.0 - STORAGE_SPREAD), x * (1.0 + STORAGE_SPREAD));
            Sourced::handbook(low, x, high, table)
        });
        // What lies below counts for what it holds, and roots end at a ledge.
        let layered = zone.layered(root_depth.value.mm());
        let ledge = |roots: Depth| Depth::from_mm(zone.layered(roots.mm()).depth_mm);
        let root_depth = root_depth.map(ledge);
        let available = available.map(|x| x * layered.storage);
        let front = (zone.soil_figures == SoilFigures::SaxtonRawls).then(|| zone.wetting_front());
        let soil_intake = zone
            .intake_mm_h
            .clone()
            .unwrap_or_else(|| intake_of(zone.soil, front.map(|f| f.0)));
        let conductivity = soil_intake.value;
        let intake_raised = conductivity.mm_h() < LEAST_INTAKE_MM_H;
        let intake = soil_intake.map(|x| Rate::from_mm_h(x.mm_h().max(LEAST_INTAKE_MM_H)));
        let site_factor = zone
            .site_factor
            .clone()
            .unwrap_or_else(|| exposure_factor(zone.exposure));

        let allowable = zone
            .allowable_depletion
            .map_or(Allowable::Demand(growing.allowable), Allowable::Set);
        let taw = Depth::from_mm(
            total_available_mm(available.value, root_depth.value.mm()).max(LEAST_TAW_MM),
        );
        let multiplier = multiplier_of(drip, evenness.value);

        let accumulation = match front {
            Some(_) => Depth::ZERO,
            None => Depth::from_mm(zone.soil.surface_accumulation_mm(zone.slope_pct)),
        };
        let excess = rate.value - intake.value;
        let by_soil = match (&zone.minutes_to_runoff, front) {
            (Some(minutes), _) => Some((
                RunTime::from_minutes(minutes.value),
                PassLimit::MeasuredRunoff,
            )),
            (None, Some((soil, field_capacity))) => {
                let ponding = ponding(soil, field_capacity, rate.value, conductivity);
                ponding.map(|time| (time, PassLimit::Ponding))
            }
            (None, None) if excess.mm_h() > 0.0 => Some((accumulation / excess, PassLimit::Intake)),
            (None, None) => None,
        };
        let repellency = zone.repellency.unwrap_or(Repellency::Wettable);
        let light = light_passes(repellency);
        let by_repellency = light.map(|l| (l.depth / rate.value, PassLimit::Repellent));
        let by_controller = controller
            .longest_run_min
            .map(|minutes| (RunTime::from_minutes(minutes), PassLimit::Controller));
        let limit = [by_soil, by_repellency, by_controller]
            .into_iter()
            .flatten()
            .min_by(|a, b| a.0.s().total_cmp(&b.0.s()));
        let soak = match &zone.soak_minutes {
            Some(minutes) => Soak::Fixed(RunTime::from_minutes(minutes.value)),
            None => Soak::Share((excess / intake.value).max(0.0)),
        };
        let step_s = controller.running_step_s();
        let kc = growing.kc.map(|kc| kc * site_factor.value);

        Self {
            season: growing.season,
            settings: settings(zone),
            watering_cost: zone
                .deep_and_seldom_mm
                .unwrap_or(Depth::from_mm(WATERING_COST_MM)),
            flow_l_min: rate.value.flow_l_min(setting(zone)),
            field_capacity: layered.field_capacity,
            repellency,
            least_soak_s: light.map_or(0, |l| l.soak.ceil_s()),
            repair_first: evenness.value < LEAST_UNIFORMITY,
            curve_number: curve_number(zone.soil.hydrologic_group(), zone.cover),
            longest_pass: limit.map(|l| l.0),
            pass_limit: limit.map_or(PassLimit::None, |l| l.1),
            least_pass_s: whole_steps(RunTime::from_minutes(kind.least_pass_min).round_s(), step_s),
            most_passes: if zone.by_hand() {
                Some(MOST_PASSES_BY_HAND)
            } else {
                controller.starts.map(u32::from)
            },
            wind_limit_m_s: kind.wind_limit_m_s,
            rate,
            evenness,
            spray_loss,
            root_depth,
            available,
            intake,
            intake_raised,
            accumulation,
            site_factor,
            taw,
            allowable,
            multiplier,
            good_evenness: kind.evenness[2],
            soak,
            step_s,
            kc,
            plants: zone.plants,
            turf: match zone.regime {
                Regime::Dormant => Turf::Asleep,
                Regime::Recovering => Turf::Waking(zone.active_from),
                Regime::Established | Regime::Seedbed | Regime::FillingIn | Regime::Off => {
                    Turf::Awake
                }
            },
        }
    }

    /// The same, where it wakes from a day on.
    #[must_use]
    pub(crate) const fn waking_since(mut self, day: Date) -> Self {
        if matches!(self.turf, Turf::Waking(_)) {
            self.turf = Turf::Waking(Some(day));
        }
        self
    }

    /// Whether it is let go through a drought.
    #[must_use]
    pub(crate) const fn is_asleep(&self) -> bool {
        matches!(self.turf, Turf::Asleep)
    }

    /// Crop evapotranspiration of a day without stress: Kc · how green · growth state · site factor · ET0; of dormant turf 0.2 · site factor · ET0, and of
    /// turf that wakes from the one to the other in three weeks.
    #[must_use]
    pub fn etc(&self, day: &DailyWeather) -> Depth {
        let month = usize::try_from(day.date.month()).unwrap_or(1) - 1;
        let et0 = day.et0.max(Depth::ZERO);
        let awake = et0 * self.kc[month] * self.growth(day);
        if self.turf == Turf::Awake {
            return awake;
        }
        let asleep = et0 * (DROUGHT_DORMANT_KC * self.site_factor.value);
        asleep + (awake - asleep) * self.awake(day.date)
    }

    /// Crop coefficient of a day with how green and growth state, without the site factor.
    pub(crate) fn crop_coefficient(&self, day: &DailyWeather) -> f64 {
        let month = usize::try_from(day.date.month()).unwrap_or(1) - 1;
        self.kc[month] / self.site_factor.value * self.growth(day)
    }

    /// How far turf is awake on a day, 0 to 1.
    fn awake(&self, date: Date) -> f64 {
        match self.turf {
            Turf::Awake | Turf::Waking(None) => 1.0,
            Turf::Asleep => 0.0,
            Turf::Waking(Some(since)) => {
                let days = (date - since).get_days().clamp(0, WAKES_OVER_DAYS);
                f64::from(days) / f64::from(WAKES_OVER_DAYS)
            }
        }
    }

    /// Whether the grass is dormant with cold on a day.
    #[must_use]
    pub fn is_cold_dormant(&self, day: &DailyWeather) -> bool {
        self.growth(day) < 1.0
    }

    fn growth(&self, day: &DailyWeather) -> f64 {
        day.smoothed_c
            .map_or(1.0, |t| growth_factor(self.season, t))
    }

    /// The parts of a day's crop coefficient, for the working.
    #[must_use]
    pub fn crop_factors(&self, zone: &Zone, day: &DailyWeather) -> CropFactors {
        let month = usize::try_from(day.date.month()).unwrap_or(1) - 1;
        let (how_green, site_factor) = (how_green(zone), self.site_factor.value);
        if self.is_asleep() {
            return CropFactors {
                kc: DROUGHT_DORMANT_KC,
                how_green: 1.0,
                growth: 1.0,
                site_factor,
            };
        }
        let kc = self.kc[month] / how_green / site_factor;
        let awake = self.awake(day.date);
        let asleep = DROUGHT_DORMANT_KC / kc / how_green;
        CropFactors {
            kc,
            how_green,
            growth: asleep * (1.0 - awake) + self.growth(day) * awake,
            site_factor,
        }
    }

    /// Readily available water on a day of this crop ET: p · TAW.
    #[must_use]
    pub fn raw(&self, etc: Depth) -> Depth {
        let p = match self.allowable {
            Allowable::Set(p) => p,
            Allowable::Demand(p0) => fraction_without_stress(p0, etc.mm()),
        };
        self.taw * p
    }

    /// Soak after a pass before the next may begin, whole seconds.
    #[must_use]
    pub fn soak_s(&self, pass_s: i64) -> i64 {
        let soak = match self.soak {
            Soak::Share(share) => {
                RunTime::from_s(RunTime::from_whole_s(pass_s).s() * share).ceil_s()
            }
            Soak::Fixed(time) => time.ceil_s(),
        };
        soak.max(self.least_soak_s)
    }

    /// The same with sprinklers of another uniformity.
    #[must_use]
    pub fn as_even_as(&self, evenness: f64) -> Self {
        let mut model = self.clone();
        model.evenness.value = evenness;
        model.multiplier = multiplier_of(model.wind_limit_m_s.is_none(), evenness);
        model
    }

    /// Net depth of a gross one: gross · (1 − spray loss) / M.
    #[must_use]
    pub fn net_of_gross(&self, gross: Depth) -> Depth {
        gross * (1.0 - self.spray_loss.value) / self.multiplier
    }

    /// A net depth, or nothing where it is less than the least pass.
    #[must_use]
    pub fn unless_too_little(&self, net: Depth) -> Depth {
        let least = self.rate.value * RunTime::from_whole_s(self.least_pass_s);
        if net < self.net_of_gross(least) {
            Depth::ZERO
        } else {
            net
        }
    }

    /// Gross depth of a net one: net · M / (1 − spray loss).
    #[must_use]
    pub fn gross_of_net(&self, net: Depth) -> Depth {
        net * self.multiplier / (1.0 - self.spray_loss.value)
    }
}

/// A time in whole steps, at least one, rounded up.
const fn whole_steps(seconds: i64, step_s: i64) -> i64 {
    let steps = (seconds + step_s - 1) / step_s;
    if steps < 1 { step_s } else { steps * step_s }
}

/// Run-time multiplier of a uniformity: of drip its emission uniformity's inverse.
fn multiplier_of(drip: bool, evenness: f64) -> f64 {
    if drip {
        1.0 / evenness.max(LEAST_UNIFORMITY)
    } else {
        run_time_multiplier(evenness)
    }
}

/// Whether a zone of a site takes part in planning on a day: it exists, it is not off, the supply can feed it.
#[must_use]
pub fn is_planned(document: &SiteDocument, zone: &Zone, model: &ZoneModel, today: Date) -> bool {
    zone.regime != Regime::Off
        && zone.is_active(today)
        && document
            .supply
            .flow_l_min
            .is_none_or(|supply| model.flow_l_min <= supply)
}

/// What a zone takes of what may run at a time, rounded up: all of it, unless zones may run together.
#[must_use]
pub fn takes(supply: &Supply, model: &ZoneModel) -> u32 {
    let Some(flow) = supply.flow_l_min.filter(|_| supply.together) else {
        return WHOLE;
    };
    let share = (f64::from(WHOLE) * model.flow_l_min / flow).ceil();
    let share = RunTime::from_s(share.clamp(1.0, f64::from(WHOLE))).round_s();
    u32::try_from(share).unwrap_or(WHOLE)
}

/// Area that is watered at a time: of a portable one setting, of what stands fast all of the zone.
fn setting(zone: &Zone) -> Area {
    if !zone.is_portable() {
        return zone.area_m2;
    }
    let one = zone.setting_m2.map_or(SETTING_M2, Area::m2);
    Area::from_m2(one.min(zone.area_m2.m2()))
}

/// Places in which a portable sprinkler is set to water all of a zone, rounded up but for what a hair's breadth leaves; 1 for what stands fast.
#[must_use]
pub fn settings(zone: &Zone) -> u32 {
    let places = (zone.area_m2.m2() / setting(zone).m2() - 1e-6)
        .ceil()
        .clamp(1.0, 1000.0);
    u32::try_from(RunTime::from_s(places).round_s()).unwrap_or(1)
}

/// What a pass gives at most, and how long it soaks at least.
#[derive(Clone, Copy)]
struct LightPasses {
    depth: Depth,
    soak: RunTime,
}

/// Light passes with soaks for ground that repels water: little at a time, so that it wets before it runs (common practice, no source).
fn light_passes(repellency: Repellency) -> Option<LightPasses> {
    let (mm, minutes) = match repellency {
        Repellency::Wettable => return None,
        Repellency::Slight => (4.0, 20.0),
        Repellency::Strong => (3.0, 30.0),
        Repellency::Severe | Repellency::Extreme => (2.0, 45.0),
    };
    Some(LightPasses {
        depth: Depth::from_mm(mm),
        soak: RunTime::from_minutes(minutes),
    })
}

/// Intake of a soil by the tables that the zone goes by, half to double (common practice, no source): the Irrigation Association's, or where Green and
/// Ampt say how long a pass may be, their K.
fn intake_of(soil: Texture, front: Option<green_ampt::Soil>) -> Sourced<Rate> {
    let (x, table) = match front {
        None => (soil.intake_mm_h(), intake_table(soil)),
        Some(front) => (front.conductivity_mm_h, RAWLS.to_owned()),
    };
    Sourced::handbook(x / 2.0, x, x * 2.0, &table).map(Rate::from_mm_h)
}

/// Source of Green and Ampt's soils.
const RAWLS: &str = "Rawls, Brakensiek and Miller 1983";

/// The pass after which water stands, by Green and Ampt, on ground at field capacity: the careful side, for passes that follow others. The soil
/// takes K in the end, the table's or as it was measured, however little that is. `None`: it never does.
fn ponding(
    soil: green_ampt::Soil,
    field_capacity: f64,
    rate: Rate,
    conductivity: Rate,
) -> Option<RunTime> {
    let soil = green_ampt::Soil {
        conductivity_mm_h: conductivity.mm_h(),
        ..soil
    };
    let saturation = soil.effective_saturation(field_capacity);
    let hours = soil.time_to_ponding_h(rate.mm_h(), saturation)?;
    Some(RunTime::from_minutes(60.0 * hours))
}

/// The row of the intake table that stands for a texture; some have none of their own.
fn intake_table(soil: Texture) -> String {
    let row = soil.intake_neighbour();
    if row == soil {
        row.name().to_owned()
    } else {
        format!(
            "{}, the nearest that the table has to {}",
            row.name(),
            soil.name().to_lowercase()
        )
    }
}

/// Site factor of hot edges and of wind: the middle of 1.1 to 1.4 (from memory of the trade's tables).
pub(crate) const HOT_EDGE_FACTOR: f64 = 1.2;

/// Site factors: half shade 0.8, deep shade 0.5, hot edges and wind [`HOT_EDGE_FACTOR`]; from memory of the trade's tables.
fn exposure_factor(exposure: Exposure) -> Sourced<f64> {
    let value = match exposure {
        Exposure::FullSun => 1.0,
        Exposure::HalfShade => 0.8,
        Exposure::DeepShade => 0.5,
        Exposure::HotEdge | Exposure::Windy => HOT_EDGE_FACTOR,
    };
    Sourced {
        value,
        low: value * (1.0 - SITE_FACTOR_SPREAD),
        high: value * (1.0 + SITE_FACTOR_SPREAD),
        source: Source::Assumed,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_texture_without_a_row_of_its_own_says_whose_row_stands_for_it() {
        assert_eq!(intake_table(Texture::ClayLoam), "Clay loam");
        assert_eq!(
            intake_table(Texture::SiltLoam),
            "Clay loam, the nearest that the table has to silt loam"
        );
    }
}
