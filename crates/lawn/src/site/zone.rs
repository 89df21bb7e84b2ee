//! One zone: what grows there, what it stands on, what waters it.

use jiff::civil::Date;
use science::curve_number::Cover;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::{CropCoefficients, Grass, HowGreen};
use science::water_drop::Repellency;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::counting::ZoneTest;
use super::facts;
use super::figures::{first_and_last, number, sourced};
use super::ground::SoilFigures;
use super::hours::{Hours, LateHours};
use super::school::School;
use super::soil_counting::{ZoneSeen, ZoneSoilTest};
use crate::days;
use crate::invalid::Invalid;
use crate::measure::hot_spot::HotSpot;
use crate::measure::soil::{Layer, SoilShares, validate_layers};
use crate::quantity::{Area, Depth, Rate};
use crate::ranges;
use crate::sourced::Sourced;
use crate::text::{check_name, trimmed};

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

/// A place within a zone that dries out first and is watered by hand in heat.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HotEdge {
    /// Why it does.
    pub spot: HotSpot,
    /// Its area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
}

/// How the zone is watered at present.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Regime {
    /// Rooted turf.
    #[default]
    Established,
    /// New seed, until it fills in: its surface is kept moist, several times a day.
    Seedbed,
    /// New grass that covers half of the ground: once a day, then every other day, until it is mown.
    FillingIn,
    /// Let go brown through a drought: its crowns alone are kept alive.
    Dormant,
    /// Waking from a drought: it uses more from day to day, and is watered as rooted turf.
    Recovering,
    /// Not watered.
    Off,
}

impl Regime {
    /// Its name in files.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::Established => "established",
            Self::Seedbed => "seedbed",
            Self::FillingIn => "filling_in",
            Self::Dormant => "dormant",
            Self::Recovering => "recovering",
            Self::Off => "off",
        }
    }

    /// Whether its grass is new: what is not rooted yet is watered by its surface.
    #[must_use]
    pub const fn is_new_grass(self) -> bool {
        matches!(self, Self::Seedbed | Self::FillingIn)
    }

    /// Whether it is planned by the balance of its root zone.
    #[must_use]
    pub const fn is_rooted(self) -> bool {
        matches!(self, Self::Established | Self::Dormant | Self::Recovering)
    }
}

/// What new grass is made of.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NewGrassAs {
    /// Seed or sprigs on bare ground.
    #[default]
    Seed,
    /// Seed into a lawn that stands, and covers half of the ground.
    Overseed,
    /// Rolls of grown turf: they are soaked to below the mat each day until they hold, then weaned.
    Sod,
    /// Pieces of turf, set apart: watered as sod.
    Plugs,
}

impl NewGrassAs {
    /// Whether it is what is meant where nobody says.
    #[must_use]
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde asks for a reference
    pub const fn is_seed(&self) -> bool {
        matches!(self, Self::Seed)
    }

    /// Whether it comes grown, and has to root.
    #[must_use]
    pub const fn is_turf(self) -> bool {
        matches!(self, Self::Sod | Self::Plugs)
    }
}

/// How the crowns of a zone are kept alive while it is dormant (common practice, no source).
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CrownWatering {
    /// 12 mm every two weeks for fescues, ryegrass and bentgrass, every three for others.
    #[default]
    Seldom,
    /// 6 mm every two weeks.
    Light,
}

impl CrownWatering {
    /// Whether it is the usual one.
    #[must_use]
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde asks for a reference
    pub const fn is_usual(&self) -> bool {
        matches!(self, Self::Seldom)
    }
}

/// What a zone is watered for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Plants {
    /// Its grass.
    #[default]
    Turf,
    /// Trees that stand in the lawn: deep, slow, seldom, by their own figures; of scarce water they come first.
    Trees,
}

impl Plants {
    /// Whether it is turf.
    #[must_use]
    #[allow(clippy::trivially_copy_pass_by_ref)] // serde asks for a reference
    pub const fn is_turf(&self) -> bool {
        matches!(self, Self::Turf)
    }
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
    /// What it is watered for; absent: its turf.
    #[serde(default, skip_serializing_if = "Plants::is_turf")]
    pub plants: Plants,
    /// How green it is kept.
    #[serde(default)]
    pub how_green: HowGreen,
    /// Which set of crop coefficients.
    #[serde(default)]
    pub crop_coefficients: CropCoefficients,
    /// How it is watered at present.
    #[serde(default)]
    pub regime: Regime,
    /// The day on which it was sown, sodded or planted, where it is new grass; absent: its first day.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sown_on: Option<Date>,
    /// What its new grass is made of; absent: seed.
    #[serde(default, skip_serializing_if = "NewGrassAs::is_seed")]
    pub new_grass_as: NewGrassAs,
    /// The hours of every day in which it may be watered while its grass is new, by permit or by hand; local rules may bar it all the same. Absent: the site's windows.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub new_grass_hours: Option<Hours>,
    /// Whether a person waters it while its grass is new, whatever else waters it: it is reminded of, and nothing counts as run that nobody noted.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub new_grass_by_hand: bool,
    /// By which school it is watered; absent: the water balance.
    #[serde(default, skip_serializing_if = "School::is_water_balance")]
    pub school: School,
    /// Whether it may be watered after noon; absent: in the late afternoon, by grass.
    #[serde(default, skip_serializing_if = "LateHours::is_by_grass")]
    pub late_hours: LateHours,
    /// How its crowns are watered while it is dormant; absent: seldom.
    #[serde(default, skip_serializing_if = "CrownWatering::is_usual")]
    pub crown_watering: CrownWatering,
    /// USDA texture class of the soil.
    pub soil: Texture,
    /// Which tables say what the soil holds and drinks where it was not measured.
    #[serde(default, skip_serializing_if = "SoilFigures::is_usual")]
    pub soil_figures: SoilFigures,
    /// Shares of sand, silt and clay, where they are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub soil_shares: Option<SoilShares>,
    /// What lies below the topsoil, from the top down; none: the same soil all down.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub layers: Vec<Layer>,
    /// Whether the ground repels water; absent: it does not.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub repellency: Option<Repellency>,
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
    /// Places within it that dry out first, each kind once.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub hot_edges: Vec<HotEdge>,
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
    /// Tests of what its sprinklers put down, in the order in which they were done; they count before figures that were typed earlier.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tests: Vec<ZoneTest>,
    /// Tests of its soil, in the order in which they were done.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub soil_tests: Vec<ZoneSoilTest>,
    /// What was seen of it or read off a probe, in time order.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub seen: Vec<ZoneSeen>,
}

const fn middle_priority() -> u8 {
    5
}

impl Zone {
    /// A flat zone in the sun, of which nothing else is known.
    #[must_use]
    pub fn new(name: &str, grass: Grass, soil: Texture, sprinkler: Kind) -> Self {
        Self {
            id: String::new(),
            name: name.trim().to_owned(),
            grass,
            plants: Plants::default(),
            how_green: HowGreen::default(),
            crop_coefficients: CropCoefficients::default(),
            regime: Regime::default(),
            sown_on: None,
            new_grass_as: NewGrassAs::default(),
            new_grass_hours: None,
            new_grass_by_hand: false,
            school: School::default(),
            late_hours: LateHours::default(),
            crown_watering: CrownWatering::default(),
            soil,
            soil_figures: SoilFigures::default(),
            soil_shares: None,
            layers: Vec::new(),
            repellency: None,
            cover: Cover::default(),
            slope_pct: 0.0,
            area_m2: Area::from_m2(0.0),
            exposure: Exposure::default(),
            hot_edges: Vec::new(),
            site_factor: None,
            sprinkler,
            rate_mm_h: None,
            evenness_du_lq: None,
            setting_m2: None,
            spray_loss: None,
            root_depth_mm: None,
            available_mm_per_mm: None,
            intake_mm_h: None,
            minutes_to_runoff: None,
            soak_minutes: None,
            allowable_depletion: None,
            depletion_rule: DepletionRule::default(),
            initial_depletion_mm: None,
            deep_and_seldom_mm: None,
            active_from: None,
            active_to: None,
            priority: middle_priority(),
            facts: Vec::new(),
            tests: Vec::new(),
            soil_tests: Vec::new(),
            seen: Vec::new(),
        }
    }

    /// Whether the zone exists on a date.
    #[must_use]
    pub fn is_active(&self, date: Date) -> bool {
        self.active_from.is_none_or(|from| from <= date)
            && self.active_to.is_none_or(|to| date <= to)
    }

    /// Whether a person carries the water, so that no controller's clock holds it.
    #[must_use]
    pub const fn by_hand(&self) -> bool {
        self.is_portable() || self.new_grass_by_hand && self.regime.is_new_grass()
    }

    /// Whether its sprinkler is carried from place to place.
    #[must_use]
    pub const fn is_portable(&self) -> bool {
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
        self.school.validate(path)?;
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
        first_and_last(path, "zone", self.active_from, self.active_to)?;
        if let Some(shares) = &self.soil_shares {
            shares.validate(&at("soil_shares."))?;
        }
        validate_layers(path, &self.layers)?;
        if !self.plants.is_turf() && !matches!(self.regime, Regime::Established | Regime::Off) {
            let message = "trees are not sown, let go or woken: kept green, or off";
            return Err(Invalid::new(at("regime"), message));
        }
        if let Some(day) = self.sown_on {
            days::check(&at("sown_on"), day, days::LAST)?;
        }
        if let Some(hours) = self.new_grass_hours {
            hours.validate(&at("new_grass_hours."))?;
        }
        self.validate_hot_edges(path)?;
        self.validate_tests(path)?;
        self.validate_soil_tests(path)?;
        self.validate_facts(path)
    }
}

impl Zone {
    fn validate_hot_edges(&self, path: &str) -> Result<(), Invalid> {
        let field = format!("{path}hot_edges");
        for (i, edge) in self.hot_edges.iter().enumerate() {
            let is_same = |other: &HotEdge| other.spot == edge.spot;
            if self.hot_edges[..i].iter().any(is_same) {
                let message = "a kind of hot edge is named once, with all its area";
                return Err(Invalid::new(format!("{field}[{i}].spot"), message));
            }
            number(&format!("{field}[{i}]."), ranges::AREA, edge.area_m2.m2())?;
        }
        let all: f64 = self.hot_edges.iter().map(|edge| edge.area_m2.m2()).sum();
        if all > self.area_m2.m2() {
            let message = "hot edges are larger together than their zone";
            return Err(Invalid::new(field, message));
        }
        Ok(())
    }

    /// Checks that the zone begins and ends at most a year ahead of the site's day, and that its tests have been done by then; `path` as in [`Zone::validate`].
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
        for (i, test) in self.tests.iter().enumerate() {
            days::check(&format!("{path}tests[{i}].date"), test.date, today)?;
        }
        for (i, test) in self.soil_tests.iter().enumerate() {
            days::check(&format!("{path}soil_tests[{i}].date"), test.date, today)?;
        }
        for (i, seen) in self.seen.iter().enumerate() {
            days::check(&format!("{path}seen[{i}].date"), seen.date, today)?;
        }
        Ok(())
    }
}
