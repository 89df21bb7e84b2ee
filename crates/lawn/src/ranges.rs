//! One table of ranges: name, unit, least and greatest. It feeds validation, messages, the limits of forms and the generators of
//! tests. A name is the key in files and in the API.

use serde::Serialize;
use thiserror::Error;
use utoipa::ToSchema;

/// The range of one figure, ends included.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Range {
    /// The key in files and in the API.
    pub name: &'static str,
    /// The unit, in words for people; empty for a pure number.
    pub unit: &'static str,
    /// Least allowed.
    pub min: f64,
    /// Greatest allowed.
    pub max: f64,
}

/// A figure outside its range.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
#[error("{name} {value}{space}{unit} is {side} allowed, {limit}{space}{unit}", name = range.name, unit = range.unit,
    space = if range.unit.is_empty() { "" } else { " " },
    side = if *value < range.min { "below the lowest" } else { "above the highest" },
    limit = if *value < range.min { range.min } else { range.max })]
pub struct OutOfRange {
    /// The range that was missed.
    pub range: Range,
    /// The value given.
    pub value: f64,
}

impl Range {
    const fn new(name: &'static str, unit: &'static str, min: f64, max: f64) -> Self {
        Self {
            name,
            unit,
            min,
            max,
        }
    }

    /// The value if it lies within.
    ///
    /// # Errors
    /// [`OutOfRange`] with the value and the limit; also for a value that is not a number.
    pub fn check(&self, value: f64) -> Result<f64, OutOfRange> {
        if value >= self.min && value <= self.max {
            Ok(value)
        } else {
            Err(OutOfRange {
                range: *self,
                value,
            })
        }
    }
}

/// Degrees north of the equator, south negative.
pub const LATITUDE: Range = Range::new("latitude", "°", -90.0, 90.0);
/// Degrees east of Greenwich, west negative.
pub const LONGITUDE: Range = Range::new("longitude", "°", -180.0, 180.0);
/// Elevation above sea level.
pub const ELEVATION: Range = Range::new("elevation_m", "m", -430.0, 6000.0);
/// Height of the anemometer above ground.
pub const WIND_HEIGHT: Range = Range::new("wind_height_m", "m", 0.5, 100.0);
/// Price of water.
pub const PRICE: Range = Range::new("price_per_m3", "per m³", 0.0, 1000.0);
/// What a month costs before any water.
pub const FIXED_FEE: Range = Range::new("fixed_per_month", "", 0.0, 1e6);
/// What a house uses in a month.
pub const HOUSE_USE: Range = Range::new("house_m3", "m³", 0.0, 1e6);
/// Where a tier of a month's use ends.
pub const TIER_END: Range = Range::new("up_to_m3", "m³", 0.1, 1e7);
/// Surcharge on water in drought.
pub const SURCHARGE: Range = Range::new("surcharge_pct", "%", 0.0, 1000.0);
/// What may be used in a month or a year.
pub const ALLOWANCE: Range = Range::new("cap_m3", "m³", 0.1, 1e7);
/// Less than in a base year.
pub const CUT: Range = Range::new("cut_pct", "%", 1.0, 100.0);
/// Share of the water that is charged as sewage.
pub const SEWER_SHARE: Range = Range::new("share", "", 0.0, 1.0);
/// Digits of a meter's counter before the point.
pub const METER_DIGITS: Range = Range::new("digits", "", 3.0, 10.0);
/// Digits of a meter's counter after the point.
pub const METER_DECIMALS: Range = Range::new("decimals", "", 0.0, 4.0);
/// What a pulse of a meter's flow sensor stands for.
pub const METER_PULSE: Range = Range::new("pulse_l", "L", 0.01, 1000.0);
/// What a count of a meter stands for, in its unit.
pub const METER_MULTIPLIER: Range = Range::new("multiplier", "", 0.001, 1000.0);
/// Area of a zone.
pub const AREA: Range = Range::new("area_m2", "m²", 0.5, 1_000_000.0);
/// Area of a patch that a drought left.
pub const PATCH: Range = Range::new("patch_m2", "m²", 0.01, 100_000.0);
/// Share of seed that is the grass.
pub const PURITY: Range = Range::new("purity_pct", "%", 50.0, 100.0);
/// Share of seed that germinates.
pub const GERMINATION: Range = Range::new("germination_pct", "%", 20.0, 100.0);
/// Nitrogen of a fertilizer.
pub const NITROGEN: Range = Range::new("nitrogen_pct", "%", 1.0, 60.0);
/// Phosphate of a fertilizer.
pub const PHOSPHATE: Range = Range::new("phosphate_pct", "%", 0.0, 60.0);
/// Share of a fertilizer's nitrogen that is slow-release.
pub const SLOW_RELEASE: Range = Range::new("slow_pct", "%", 0.0, 100.0);
/// From plug to plug.
pub const PLUG_SPACING: Range = Range::new("plug_spacing_mm", "mm", 100.0, 1000.0);
/// Lime by a soil test.
pub const LIME: Range = Range::new("lime_kg_m2", "kg/m²", 0.0, 5.0);
/// Days from a spray to sowing.
pub const SPRAY_WAIT: Range = Range::new("wait_days", "d", 0.0, 120.0);
/// Side of a frame in which seedlings are counted.
pub const FRAME: Range = Range::new("frame_mm", "mm", 20.0, 1000.0);
/// Seedlings in a frame.
pub const SEEDLINGS: Range = Range::new("seedlings", "", 0.0, 5000.0);
/// Slope of a zone.
pub const SLOPE: Range = Range::new("slope_pct", "%", 0.0, 100.0);
/// Precipitation rate.
pub const RATE: Range = Range::new("rate_mm_h", "mm/h", 0.5, 250.0);
/// Distribution uniformity of the low quarter.
pub const EVENNESS: Range = Range::new("evenness_du_lq", "", 0.01, 1.0);
/// Share of water lost to spray and drift.
pub const SPRAY_LOSS: Range = Range::new("spray_loss", "", 0.0, 0.4);
/// Effective root depth.
pub const ROOT_DEPTH: Range = Range::new("root_depth_mm", "mm", 5.0, 2000.0);
/// Available water of the soil.
pub const AVAILABLE: Range = Range::new("available_mm_per_mm", "mm/mm", 0.01, 0.5);
/// Intake rate of the soil.
pub const INTAKE: Range = Range::new("intake_mm_h", "mm/h", 0.0, 500.0);
/// Minutes until the first runoff.
pub const MINUTES_TO_RUNOFF: Range = Range::new("minutes_to_runoff", "min", 0.5, 600.0);
/// Measured soak between passes.
pub const SOAK_MINUTES: Range = Range::new("soak_minutes", "min", 0.0, 600.0);
/// Factor on crop ET for shade, wind and hot edges.
pub const SITE_FACTOR: Range = Range::new("site_factor", "", 0.2, 2.0);
/// Allowable depletion that the manager set.
pub const ALLOWABLE_DEPLETION: Range = Range::new("allowable_depletion", "", 0.05, 0.95);
/// Depletion at the start of the record.
pub const INITIAL_DEPLETION: Range = Range::new("initial_depletion_mm", "mm", 0.0, 1000.0);
/// Net depth of a week in the growing season, in the school of the weekly target.
pub const WEEKLY_TARGET: Range = Range::new("target_mm", "mm", 2.0, 100.0);
/// The same in heat.
pub const HOT_TARGET: Range = Range::new("hot_target_mm", "mm", 2.0, 100.0);
/// The same while the grass is dormant with cold.
pub const DORMANT_TARGET: Range = Range::new("dormant_target_mm", "mm", 0.0, 100.0);
/// Soaks of a week.
pub const SOAKS: Range = Range::new("soaks", "", 1.0, 3.0);
/// Net depth of a watering at a fixed interval.
pub const INTERVAL_DEPTH: Range = Range::new("depth_mm", "mm", 2.0, 50.0);
/// Days from a watering to the next.
pub const EVERY_DAYS: Range = Range::new("every_days", "days", 1.0, 7.0);
/// Days from an allowed day to the next, of a rule.
pub const NTH_DAY: Range = Range::new("nth_day", "days", 2.0, 31.0);
/// A volume that a rule does not let pass.
pub const CAP: Range = Range::new("cap_l", "L", 0.0, 1e9);
/// Minutes of a watering.
pub const RUN_MINUTES: Range = Range::new("run_minutes", "min", 1.0, 300.0);
/// What a watering counts for, against water saved.
pub const DEEP_AND_SELDOM: Range = Range::new("deep_and_seldom_mm", "mm", 0.3, 4.0);
/// Minutes that a zone ran in a test.
pub const TEST_MINUTES: Range = Range::new("minutes", "min", 0.1, 1440.0);
/// Area of a catch can's mouth.
pub const THROAT: Range = Range::new("throat_cm2", "cm²", 0.1, 100_000.0);
/// Depth of a straight-sided can.
pub const CAN_DEPTH: Range = Range::new("deep_mm", "mm", 5.0, 1000.0);
/// What a can holds.
pub const CAN_VOLUME: Range = Range::new("holds_ml", "mL", 5.0, 20_000.0);
/// Diameter of a round can's mouth.
pub const MOUTH: Range = Range::new("mouth_mm", "mm", 10.0, 1000.0);
/// A side of a zone as a tape measures it.
pub const SIDE: Range = Range::new("side_m", "m", 0.3, 1000.0);
/// The mark on a can of a quick test.
pub const MARK: Range = Range::new("mark_mm", "mm", 3.0, 100.0);
/// A water meter's reading.
pub const METER: Range = Range::new("meter_l", "L", 0.0, 1e12);
/// Flow of one nozzle.
pub const NOZZLE_FLOW: Range = Range::new("nozzle_flow_l_min", "L/min", 0.1, 500.0);
/// Arc that a nozzle waters.
pub const ARC: Range = Range::new("arc_degrees", "°", 10.0, 360.0);
/// Between heads or rows of heads.
pub const SPACING: Range = Range::new("spacing_mm", "m", 0.5, 50.0);
/// Pressure at the heads.
pub const PRESSURE: Range = Range::new("pressure_kpa", "kPa", 20.0, 1500.0);
/// A place on the plan of a zone.
pub const PLAN: Range = Range::new("plan_m", "m", -1000.0, 1000.0);
/// Flow of the supply.
pub const FLOW: Range = Range::new("flow_l_min", "L/min", 1.0, 100_000.0);
/// What a bucket holds.
pub const BUCKET: Range = Range::new("bucket_l", "L", 0.5, 1000.0);
/// How long a bucket takes to fill.
pub const BUCKET_TIME: Range = Range::new("bucket_s", "s", 1.0, 3600.0);
/// Fall of the ground over ten metres.
pub const FALL: Range = Range::new("fall_m", "m", 0.0, 10.0);
/// Water of a week to be shared out.
pub const SHARED_VOLUME: Range = Range::new("litres", "L", 0.0, 1_000_000_000.0);
/// Flow of a hose.
pub const HOSE_FLOW: Range = Range::new("hose_flow_l_min", "L/min", 0.5, 200.0);
/// Area that a hose reached.
pub const REACHED: Range = Range::new("reached_m2", "m²", 0.1, 1_000_000.0);
/// Area that one setting of a portable sprinkler waters.
pub const SETTING: Range = Range::new("setting_m2", "m²", 1.0, 10_000.0);
/// Smallest step of the controller's clock.
pub const STEP: Range = Range::new("step_s", "s", 1.0, 600.0);
/// Longest run of the controller.
pub const LONGEST_RUN: Range = Range::new("longest_run_min", "min", 1.0, 1440.0);
/// Programmes that the controller can hold.
pub const PROGRAMMES: Range = Range::new("programmes", "", 1.0, 12.0);
/// Starts that a programme of the controller can have on a day.
pub const STARTS: Range = Range::new("starts", "", 1.0, 24.0);
/// Seasonal adjust of the controller.
pub const SEASONAL_ADJUST: Range = Range::new("seasonal_adjust_pct", "%", 10.0, 250.0);
/// Hours for which a zone is kept dry.
pub const KEEP_DRY_HOURS: Range = Range::new("keep_dry_h", "h", 0.5, 240.0);
/// Hours within which something is watered in: no more than the days of which a plan reads the runs.
pub const WATER_IN_HOURS: Range = Range::new("water_in_h", "h", 1.0, 48.0);
/// Net depth with which something is watered in.
pub const WATER_IN: Range = Range::new("water_in_mm", "mm", 1.0, 50.0);
/// What a tank or well holds.
pub const STORE: Range = Range::new("holds_l", "L", 10.0, 1_000_000_000.0);
/// What runs back into it.
pub const REFILL: Range = Range::new("refill_l_min", "L/min", 0.1, 100_000.0);
/// Rank of a zone when water is short, 1 first.
pub const PRIORITY: Range = Range::new("priority", "", 1.0, 9.0);
/// Least air temperature of a day.
pub const TMIN: Range = Range::new("tmin_c", "°C", -90.0, 60.0);
/// Greatest air temperature of a day.
pub const TMAX: Range = Range::new("tmax_c", "°C", -90.0, 60.0);
/// Least relative humidity.
pub const RH_MIN: Range = Range::new("rh_min_pct", "%", 0.0, 100.0);
/// Greatest relative humidity.
pub const RH_MAX: Range = Range::new("rh_max_pct", "%", 0.0, 100.0);
/// Dew point.
pub const DEWPOINT: Range = Range::new("dewpoint_c", "°C", -90.0, 50.0);
/// Actual vapour pressure.
pub const VAPOUR_PRESSURE: Range = Range::new("vapour_pressure_kpa", "kPa", 0.0, 12.0);
/// Solar radiation of a day.
pub const SOLAR: Range = Range::new("solar_mj_m2", "MJ/m²", 0.0, 50.0);
/// Bright sunshine of a day.
pub const SUNSHINE: Range = Range::new("sunshine_h", "h", 0.0, 24.0);
/// Mean wind of a day.
pub const WIND: Range = Range::new("wind_m_s", "m/s", 0.0, 60.0);
/// Rain of a day.
pub const RAIN: Range = Range::new("rain_mm", "mm", 0.0, 2000.0);
/// Probability of rain.
pub const RAIN_PROBABILITY: Range = Range::new("rain_probability_pct", "%", 0.0, 100.0);
/// Share of sand in the mineral part of a soil.
pub const SAND: Range = Range::new("sand_pct", "%", 0.0, 100.0);
/// Share of silt.
pub const SILT: Range = Range::new("silt_pct", "%", 0.0, 100.0);
/// Share of clay.
pub const CLAY: Range = Range::new("clay_pct", "%", 0.0, 100.0);
/// Organic matter of a soil, as far as estimates of its water hold.
pub const ORGANIC: Range = Range::new("organic_pct", "%", 0.0, 8.0);
/// Height of what has settled in a jar.
pub const JAR_LAYER: Range = Range::new("jar_mm", "mm", 0.0, 500.0);
/// Diameter of an infiltrometer ring.
pub const RING_DIAMETER: Range = Range::new("ring_mm", "mm", 50.0, 1_500.0);
/// How deep a ring stands in the soil.
pub const RING_INSERTED: Range = Range::new("inserted_mm", "mm", 5.0, 500.0);
/// Water that stands in a ring.
pub const RING_LEVEL: Range = Range::new("level_mm", "mm", 0.0, 500.0);
/// Time of a ring test.
pub const RING_MINUTES: Range = Range::new("ring_minutes", "min", 0.0, 600.0);
/// Time for which a drop stands on dry soil.
pub const DROP: Range = Range::new("drop_s", "s", 0.0, 86_400.0);
/// Water in the soil, share of its volume.
pub const MOISTURE: Range = Range::new("moisture_pct", "%", 0.0, 80.0);
/// What a probe shows on a scale of its own.
pub const PROBE_SCALE: Range = Range::new("probe_scale", "", -1000.0, 10_000.0);
/// A depth below the grass.
pub const SOIL_DEPTH: Range = Range::new("soil_depth_mm", "mm", 0.0, 2_000.0);
/// Thickness of a layer of soil.
pub const LAYER: Range = Range::new("layer_mm", "mm", 5.0, 2_000.0);
/// How full the pores are that can fill and drain.
pub const EFFECTIVE_SATURATION: Range = Range::new("effective_saturation", "", 0.0, 1.0);
/// How fast water falls, in estimates of what enters.
pub const FALL_RATE: Range = Range::new("fall_mm_h", "mm/h", 0.0, 10_000.0);
/// How long it falls, in such estimates.
pub const HOURS: Range = Range::new("hours", "h", 0.0, 10_000.0);

/// Every range, for forms and tests.
pub const ALL: &[Range] = &[
    FIXED_FEE,
    HOUSE_USE,
    TIER_END,
    SURCHARGE,
    ALLOWANCE,
    CUT,
    SEWER_SHARE,
    METER_DIGITS,
    METER_DECIMALS,
    METER_MULTIPLIER,
    METER_PULSE,
    LATITUDE,
    LONGITUDE,
    ELEVATION,
    WIND_HEIGHT,
    PRICE,
    AREA,
    PATCH,
    PURITY,
    GERMINATION,
    NITROGEN,
    PHOSPHATE,
    SLOW_RELEASE,
    PLUG_SPACING,
    LIME,
    SPRAY_WAIT,
    FRAME,
    SEEDLINGS,
    SLOPE,
    RATE,
    EVENNESS,
    SPRAY_LOSS,
    ROOT_DEPTH,
    AVAILABLE,
    INTAKE,
    MINUTES_TO_RUNOFF,
    SOAK_MINUTES,
    SITE_FACTOR,
    ALLOWABLE_DEPLETION,
    INITIAL_DEPLETION,
    DEEP_AND_SELDOM,
    WEEKLY_TARGET,
    HOT_TARGET,
    DORMANT_TARGET,
    SOAKS,
    INTERVAL_DEPTH,
    EVERY_DAYS,
    NTH_DAY,
    CAP,
    RUN_MINUTES,
    TEST_MINUTES,
    THROAT,
    CAN_DEPTH,
    CAN_VOLUME,
    MOUTH,
    SIDE,
    MARK,
    METER,
    NOZZLE_FLOW,
    ARC,
    SPACING,
    PRESSURE,
    PLAN,
    FLOW,
    BUCKET,
    BUCKET_TIME,
    FALL,
    SHARED_VOLUME,
    HOSE_FLOW,
    REACHED,
    SETTING,
    STEP,
    LONGEST_RUN,
    PROGRAMMES,
    STARTS,
    SEASONAL_ADJUST,
    KEEP_DRY_HOURS,
    WATER_IN_HOURS,
    WATER_IN,
    STORE,
    REFILL,
    PRIORITY,
    TMIN,
    TMAX,
    RH_MIN,
    RH_MAX,
    DEWPOINT,
    VAPOUR_PRESSURE,
    SOLAR,
    SUNSHINE,
    WIND,
    RAIN,
    RAIN_PROBABILITY,
    SAND,
    SILT,
    CLAY,
    ORGANIC,
    JAR_LAYER,
    RING_DIAMETER,
    RING_INSERTED,
    RING_LEVEL,
    RING_MINUTES,
    DROP,
    MOISTURE,
    PROBE_SCALE,
    SOIL_DEPTH,
    LAYER,
    EFFECTIVE_SATURATION,
    FALL_RATE,
    HOURS,
];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_message_says_value_unit_and_limit() {
        let error = LATITUDE.check(95.0).unwrap_err();
        assert_eq!(
            error.to_string(),
            "latitude 95 ° is above the highest allowed, 90 °"
        );
        assert!(LATITUDE.check(f64::NAN).is_err());
    }

    #[test]
    fn names_are_unique() {
        let mut names: Vec<_> = ALL.iter().map(|r| r.name).collect();
        names.sort_unstable();
        names.dedup();
        assert_eq!(names.len(), ALL.len());
    }
}
