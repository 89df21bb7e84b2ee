//! A site as its manager describes it: place, allowed hours, supply, zones. Field names carry SI units.

pub mod calendar;
pub mod document;
mod entered;
pub mod events;
pub mod facts;

use std::collections::BTreeSet;

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use science::curve_number::Cover;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::{CropCoefficients, Grass, HowGreen};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days;
pub use crate::invalid::Invalid;
use crate::quantity::{Area, Depth, Rate};
use crate::ranges::{self, Range};
use crate::sourced::{Source, Sourced};
use crate::text::{check_name, trimmed};

/// Most zones of a site: with more, a replan takes longer than people wait; none that we know of has as many on one supply.
pub const MOST_ZONES: usize = 200;
/// Most windows of a site: several a day for each weekday.
const MOST_WINDOWS: usize = 50;

/// The place and the currency.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Site {
    /// Name for people.
    #[serde(deserialize_with = "trimmed")]
    pub name: String,
    /// IANA time zone, such as `Europe/Vienna`.
    pub time_zone: String,
    /// Degrees, south negative.
    pub latitude: f64,
    /// Degrees, west negative.
    pub longitude: f64,
    /// Elevation above sea level, m.
    pub elevation_m: f64,
    /// Height of the anemometer above ground, m.
    #[serde(default = "two_metres")]
    pub wind_height_m: f64,
    /// ISO 4217 code of the currency of the price.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub currency: Option<String>,
    /// Price of water per cubic metre.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price_per_m3: Option<f64>,
}

const fn two_metres() -> f64 {
    2.0
}

/// A day of the week.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the days
pub enum Weekday {
    Monday,
    Tuesday,
    Wednesday,
    Thursday,
    Friday,
    Saturday,
    Sunday,
}

impl Weekday {
    /// The whole week, Monday first.
    pub const ALL: [Self; 7] = [
        Self::Monday,
        Self::Tuesday,
        Self::Wednesday,
        Self::Thursday,
        Self::Friday,
        Self::Saturday,
        Self::Sunday,
    ];

    /// The weekday of a date.
    #[must_use]
    pub fn of(date: Date) -> Self {
        // Monday is 0 there too; the cast cannot lose: 0 to 6.
        let index = usize::try_from(date.weekday().to_monday_zero_offset()).unwrap_or(0);
        Self::ALL[index.min(6)]
    }
}

/// Which dates a rule of odd and even days allows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DateRule {
    /// All.
    #[default]
    Any,
    /// The 1st, 3rd, … of the month.
    Odd,
    /// The 2nd, 4th, … of the month.
    Even,
}

/// Days and hours in which watering is allowed; it does not cross midnight.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Window {
    /// Weekdays on which it opens, at least one.
    pub days: Vec<Weekday>,
    /// Odd or even dates only.
    #[serde(default)]
    pub dates: DateRule,
    /// Local time at which it opens, `HH:MM`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "04:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub from: Time,
    /// Local time at which it closes, `HH:MM`, later than `from`.
    #[serde(with = "clock_time")]
    #[schema(value_type = String, example = "09:00", pattern = "^([01][0-9]|2[0-3]):[0-5][0-9]$")]
    pub to: Time,
}

mod clock_time {
    use jiff::civil::Time;
    use serde::{Deserialize, Deserializer, Serializer, de::Error};

    pub fn serialize<S: Serializer>(time: &Time, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_str(&time.strftime("%H:%M"))
    }

    pub fn deserialize<'de, D: Deserializer<'de>>(deserializer: D) -> Result<Time, D::Error> {
        let text = String::deserialize(deserializer)?;
        Time::strptime("%H:%M", &text)
            .map_err(|_| D::Error::custom(format!("\"{text}\" is not a time of day, HH:MM")))
    }
}

/// What the supply and the controller can do. One zone runs at a time.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Flow that the supply gives, L/min; absent: enough for any zone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flow_l_min: Option<f64>,
    /// Step of the controller's clock, s; run times are whole steps.
    #[serde(default = "a_minute")]
    pub step_s: u32,
    /// Longest run of the controller, min.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longest_run_min: Option<f64>,
}

const fn a_minute() -> u32 {
    60
}

impl Default for Supply {
    fn default() -> Self {
        Self {
            flow_l_min: None,
            step_s: a_minute(),
            longest_run_min: None,
        }
    }
}

/// Sun and edges of a zone; gives the site factor.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Exposure {
    /// Open to the sun.
    #[default]
    FullSun,
    /// Shade for about half the day.
    HalfShade,
    /// Shade for most of the day.
    DeepShade,
    /// Along paving, gravel or a wall, or a slope that faces the sun.
    HotEdge,
    /// Exposed to wind.
    Windy,
}

/// How the zone is watered at present.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Regime {
    /// Rooted turf.
    #[default]
    Established,
    /// New seed; by hand, not planned here yet.
    Seedbed,
    /// Not watered.
    Off,
}

/// Where the depletion fraction comes from when the manager sets none.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DepletionRule {
    /// 0.50 for established turf.
    #[default]
    Half,
    /// FAO-56 table 22 by grass: 0.40 cool-season, 0.50 warm-season.
    ByGrass,
    /// Irrigation Association by soil: 0.30 to 0.60.
    BySoil,
}

/// One zone: what grows there, what it stands on, what waters it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Zone {
    /// Identifier, unique within the site.
    #[serde(default, deserialize_with = "trimmed")]
    pub id: String,
    /// Name for people.
    #[serde(deserialize_with = "trimmed")]
    pub name: String,
    /// What grows there.
    pub grass: Grass,
    /// How green it is kept.
    #[serde(default)]
    pub how_green: HowGreen,
    /// Which set of crop coefficients.
    #[serde(default)]
    pub crop_coefficients: CropCoefficients,
    /// How it is watered at present.
    #[serde(default)]
    pub regime: Regime,
    /// USDA texture class of the soil.
    pub soil: Texture,
    /// How well grass covers the ground.
    #[serde(default)]
    pub cover: Cover,
    /// Slope, %.
    pub slope_pct: f64,
    /// Area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// Sun and edges.
    #[serde(default)]
    pub exposure: Exposure,
    /// Factor on crop ET, in place of that of the exposure.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub site_factor: Option<Sourced<f64>>,
    /// What waters it.
    pub sprinkler: Kind,
    /// Precipitation rate, mm/h; absent: the sprinkler kind's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate_mm_h: Option<Sourced<Rate>>,
    /// Low-quarter uniformity (drip: emission uniformity), 0 to 1; absent: the sprinkler kind's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub evenness_du_lq: Option<Sourced<f64>>,
    /// Area that one setting of a portable sprinkler waters, m²; absent: 100. Others have none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub setting_m2: Option<Area>,
    /// Share lost to spray and drift, 0 to 0.4; absent: the sprinkler kind's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spray_loss: Option<Sourced<f64>>,
    /// Effective root depth, mm; absent: the grass's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub root_depth_mm: Option<Sourced<Depth>>,
    /// Available water, mm per mm of soil; absent: the texture's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub available_mm_per_mm: Option<Sourced<f64>>,
    /// Intake rate, mm/h; absent: the texture's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intake_mm_h: Option<Sourced<Rate>>,
    /// Measured minutes to the first runoff, used as the longest pass.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub minutes_to_runoff: Option<Sourced<f64>>,
    /// Measured soak before the next pass, min.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub soak_minutes: Option<Sourced<f64>>,
    /// Share of the available water that may be used, set by the manager, 0.05 to 0.95.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub allowable_depletion: Option<f64>,
    /// Where the share comes from when the manager sets none.
    #[serde(default)]
    pub depletion_rule: DepletionRule,
    /// Depletion at the start of the first day of the zone or of the weather record, mm; absent: 0, field capacity.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub initial_depletion_mm: Option<Depth>,
    /// What each watering counts for where rain and doses are compared, mm, 0.3 to 4: more waters deeper and more seldom; absent: 2.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub deep_and_seldom_mm: Option<Depth>,
    /// First day of the zone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub active_from: Option<Date>,
    /// Last day of the zone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub active_to: Option<Date>,
    /// Rank when water is short, 1 first.
    #[serde(default = "middle_priority")]
    pub priority: u8,
    /// What changed, and from which day on: entries of `from`, a day, and the keys of the zone that changed then with their values; null: none of
    /// the zone's own. What a key is in its first entry it was always.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[schema(value_type = Vec<serde_json::Value>)]
    pub facts: Vec<facts::Fact>,
}

const fn middle_priority() -> u8 {
    5
}

impl Zone {
    /// Whether the zone exists on a date.
    #[must_use]
    pub fn is_active(&self, date: Date) -> bool {
        self.active_from.is_none_or(|from| from <= date)
            && self.active_to.is_none_or(|to| date <= to)
    }

    /// Whether a person carries the water, so that no controller's clock holds it.
    #[must_use]
    pub const fn by_hand(&self) -> bool {
        matches!(self.sprinkler, Kind::Portable)
    }

    /// Checks every figure of the zone; `path` goes before the field's name, such as `zones[2].`.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self, path: &str) -> Result<(), Invalid> {
        let at = |field: &str| format!("{path}{field}");
        check_name(&at("name"), &self.name)?;
        number(path, ranges::SLOPE, self.slope_pct)?;
        number(path, ranges::AREA, self.area_m2.m2())?;
        number(path, ranges::PRIORITY, f64::from(self.priority))?;
        for (range, value) in [
            (ranges::ALLOWABLE_DEPLETION, self.allowable_depletion),
            (
                ranges::INITIAL_DEPLETION,
                self.initial_depletion_mm.map(Depth::mm),
            ),
            (
                ranges::DEEP_AND_SELDOM,
                self.deep_and_seldom_mm.map(Depth::mm),
            ),
            (ranges::SETTING, self.setting_m2.map(Area::m2)),
        ] {
            if let Some(value) = value {
                number(path, range, value)?;
            }
        }
        sourced(path, ranges::SITE_FACTOR, self.site_factor.as_ref(), |x| *x)?;
        sourced(path, ranges::RATE, self.rate_mm_h.as_ref(), |x| x.mm_h())?;
        sourced(path, ranges::EVENNESS, self.evenness_du_lq.as_ref(), |x| *x)?;
        sourced(path, ranges::SPRAY_LOSS, self.spray_loss.as_ref(), |x| *x)?;
        sourced(path, ranges::ROOT_DEPTH, self.root_depth_mm.as_ref(), |x| {
            x.mm()
        })?;
        sourced(
            path,
            ranges::AVAILABLE,
            self.available_mm_per_mm.as_ref(),
            |x| *x,
        )?;
        sourced(path, ranges::INTAKE, self.intake_mm_h.as_ref(), |x| {
            x.mm_h()
        })?;
        sourced(
            path,
            ranges::MINUTES_TO_RUNOFF,
            self.minutes_to_runoff.as_ref(),
            |x| *x,
        )?;
        sourced(
            path,
            ranges::SOAK_MINUTES,
            self.soak_minutes.as_ref(),
            |x| *x,
        )?;
        for (field, day) in [
            ("active_from", self.active_from),
            ("active_to", self.active_to),
        ] {
            if let Some(day) = day {
                days::check(&at(field), day, days::LAST)?;
            }
        }
        if let (Some(from), Some(to)) = (self.active_from, self.active_to)
            && to < from
        {
            return Err(Invalid::new(
                at("active_to"),
                format!("{to} is before the zone's first day, {from}"),
            ));
        }
        self.validate_facts(path)
    }
}

impl Zone {
    /// Checks that the zone begins and ends at most a year ahead of the site's day; `path` as in [`Zone::validate`].
    ///
    /// # Errors
    /// The day that does not hold.
    pub fn validate_ahead(&self, path: &str, today: Date) -> Result<(), Invalid> {
        let ends = [
            ("active_from", self.active_from),
            ("active_to", self.active_to),
        ];
        for (field, day) in ends {
            if let Some(day) = day {
                days::check(&format!("{path}{field}"), day, days::last_to_plan(today))?;
            }
        }
        Ok(())
    }
}

/// The site document: everything that plans read of a site but the weather.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SiteDocument {
    /// Always `fresh-meadow-site`.
    pub format: String,
    /// Version of the format.
    pub version: u32,
    /// Place and currency.
    pub site: Site,
    /// Days and hours in which watering is allowed; none: no watering.
    #[serde(default)]
    pub windows: Vec<Window>,
    /// What supply and controller can do.
    #[serde(default)]
    pub supply: Supply,
    /// The zones, in the order in which people list them.
    #[serde(default)]
    pub zones: Vec<Zone>,
}

impl Site {
    /// The site's time zone.
    ///
    /// # Errors
    /// A name that the time-zone database does not know.
    pub fn zone(&self) -> Result<TimeZone, Invalid> {
        TimeZone::get(&self.time_zone).map_err(|_| {
            Invalid::new(
                "site.time_zone",
                format!(
                    "\"{}\" is not a time zone of the IANA database, such as America/New_York",
                    self.time_zone
                ),
            )
        })
    }

    /// Checks every figure of the place.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        check_name("site.name", &self.name)?;
        self.zone()?;
        for (range, value) in [
            (ranges::LATITUDE, Some(self.latitude)),
            (ranges::LONGITUDE, Some(self.longitude)),
            (ranges::ELEVATION, Some(self.elevation_m)),
            (ranges::WIND_HEIGHT, Some(self.wind_height_m)),
            (ranges::PRICE, self.price_per_m3),
        ] {
            if let Some(value) = value {
                number("site.", range, value)?;
            }
        }
        if let Some(code) = &self.currency
            && !(code.len() == 3 && code.bytes().all(|b| b.is_ascii_uppercase()))
        {
            return Err(Invalid::new(
                "site.currency",
                format!("\"{code}\" is not a three-letter currency code, such as EUR"),
            ));
        }
        Ok(())
    }
}

impl SiteDocument {
    /// Checks the whole document.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        self.site.validate()?;
        validate_windows(&self.windows)?;
        validate_supply(&self.supply)?;
        if self.zones.len() > MOST_ZONES {
            return Err(Invalid::new(
                "zones",
                format!(
                    "a site has at most {MOST_ZONES} zones, not {}; make a second site",
                    self.zones.len()
                ),
            ));
        }
        let mut ids = BTreeSet::new();
        for (i, zone) in self.zones.iter().enumerate() {
            let path = format!("zones[{i}].");
            check_name(&format!("{path}id"), &zone.id)?;
            if !ids.insert(zone.id.as_str()) {
                return Err(Invalid::new(
                    format!("{path}id"),
                    format!("\"{}\" is used by another zone too", zone.id),
                ));
            }
            zone.validate(&path)?;
        }
        Ok(())
    }
}

/// Checks the allowed days and hours.
///
/// # Errors
/// The first field that does not hold.
pub fn validate_windows(windows: &[Window]) -> Result<(), Invalid> {
    if windows.len() > MOST_WINDOWS {
        return Err(Invalid::new(
            "windows",
            format!("at most {MOST_WINDOWS} windows, not {}", windows.len()),
        ));
    }
    for (i, window) in windows.iter().enumerate() {
        if window.days.is_empty() {
            return Err(Invalid::new(
                format!("windows[{i}].days"),
                "name at least one weekday, or remove the window",
            ));
        }
        if window.to <= window.from {
            return Err(Invalid::new(
                format!("windows[{i}].to"),
                format!(
                    "{} is not later than {}; windows do not cross midnight: split it in two",
                    window.to.strftime("%H:%M"),
                    window.from.strftime("%H:%M")
                ),
            ));
        }
    }
    Ok(())
}

/// Checks supply and controller.
///
/// # Errors
/// The first field that does not hold.
pub fn validate_supply(supply: &Supply) -> Result<(), Invalid> {
    number("supply.", ranges::STEP, f64::from(supply.step_s))?;
    if let Some(flow) = supply.flow_l_min {
        number("supply.", ranges::FLOW, flow)?;
    }
    if let Some(longest) = supply.longest_run_min {
        number("supply.", ranges::LONGEST_RUN, longest)?;
    }
    Ok(())
}

fn number(path: &str, range: Range, value: f64) -> Result<(), Invalid> {
    Invalid::unless_within(format!("{path}{}", range.name), range, value)
}

fn sourced<T>(
    path: &str,
    range: Range,
    value: Option<&Sourced<T>>,
    figure: impl Fn(&T) -> f64,
) -> Result<(), Invalid> {
    let Some(sourced) = value else { return Ok(()) };
    let field = format!("{path}{}", range.name);
    match &sourced.source {
        Source::Measured { test, date } => {
            check_name(&format!("{field}.source.test"), test)?;
            days::check(&format!("{field}.source.date"), *date, days::LAST)?;
        }
        Source::Entered { date } => {
            days::check(&format!("{field}.source.date"), *date, days::LAST)?;
        }
        Source::Handbook { table } => check_name(&format!("{field}.source.table"), table)?,
        Source::Assumed => {}
    }
    let [low, value, high] = [&sourced.low, &sourced.value, &sourced.high].map(figure);
    for x in [value, low, high] {
        number(path, range, x)?;
    }
    if low > value || value > high {
        return Err(Invalid::new(
            format!("{path}{}", range.name),
            format!("the value {value} must lie between its low {low} and high {high}"),
        ));
    }
    Ok(())
}
