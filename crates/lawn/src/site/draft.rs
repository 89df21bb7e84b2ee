//! A lawn that is being described: answers as people give them, each of which may be left open. What is left open is a handbook's middle with
//! the range of all that it could be.

use jiff::ToSpan;
use jiff::civil::{Date, Time};
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::document::{FORMAT, VERSION};
use super::{
    Controller, DateRule, Exposure, Site, SiteDocument, Supply, Use, Weekday, Window, Zone, places,
};
use crate::invalid::Invalid;
use crate::measure::outline::Shape;
use crate::measure::squeeze::{Ball, Feel, texture};
use crate::quantity::{Area, Depth, Rate};
use crate::ranges;
use crate::sourced::{Source, Sourced};

/// Area of a zone whose area nobody knows, m²: minutes do not depend on it, litres do (common practice, no source).
const UNKNOWN_AREA_M2: f64 = 100.0;
/// Slope of a zone of which none was told, % (common practice, no source).
const UNKNOWN_SLOPE_PCT: f64 = 2.0;
/// Elevation of a place whose elevation nobody knows, m (common practice, no source).
const UNKNOWN_ELEVATION_M: f64 = 100.0;
/// Length of a pace of a grown person, m (common practice, no source).
const PACE_M: f64 = 0.75;
/// A slope is told as a fall over so many metres.
const FALL_OVER_M: f64 = 10.0;
/// Latitudes between which warm-season grass is the likelier one (transition zone; common practice, no source).
const WARM_BELOW: f64 = 35.0;

/// What the soil is by name or by the squeeze.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum SoilAnswer {
    /// Known.
    Texture(Texture),
    /// A handful was squeezed.
    Squeezed {
        /// How the ball behaves.
        ball: Ball,
        /// How it feels.
        feel: Feel,
    },
}

/// How large a zone is.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
pub enum AreaAnswer {
    /// Known, m².
    M2(f64),
    /// Measured by tape.
    Tape(Shape),
    /// Paced out: the shape's lengths are numbers of paces.
    Paces(Shape),
}

/// A zone as it is being described. `None`: not known.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ZoneDraft {
    /// Name for people.
    pub name: String,
    /// What waters it.
    #[serde(default)]
    pub sprinkler: Option<Kind>,
    /// What grows there.
    #[serde(default)]
    pub grass: Option<Grass>,
    /// What it stands on.
    #[serde(default)]
    pub soil: Option<SoilAnswer>,
    /// Sun and edges.
    #[serde(default)]
    pub exposure: Option<Exposure>,
    /// Its slope: the fall over ten metres, m.
    #[serde(default)]
    pub fall_m: Option<f64>,
    /// How large it is.
    #[serde(default)]
    pub area: Option<AreaAnswer>,
    /// Days since it was last soaked, by rain or sprinklers; 0: today.
    #[serde(default)]
    pub soaked_days_ago: Option<u32>,
}

/// A figure that nobody knows, between the least and the greatest that it may be.
fn assumed<T>(low: f64, value: f64, high: f64, unit: fn(f64) -> T) -> Option<Sourced<T>> {
    Some(
        Sourced {
            value,
            low,
            high,
            source: Source::Assumed,
        }
        .map(unit),
    )
}

/// The least and the greatest of figures.
fn span(figures: impl Iterator<Item = f64> + Clone) -> (f64, f64) {
    let low = figures.clone().fold(f64::INFINITY, f64::min);
    (low, figures.fold(f64::NEG_INFINITY, f64::max))
}

impl ZoneDraft {
    /// The zone, from a day on, at a latitude.
    ///
    /// # Errors
    /// The answer that does not hold, such as `area.width_m`.
    pub fn zone(&self, latitude: f64, today: Date) -> Result<Zone, Invalid> {
        let mut zone = Zone::new(
            &self.name,
            self.grass.unwrap_or(likely_grass(latitude)),
            self.texture(),
            self.sprinkler.unwrap_or(Kind::FixedSpray),
        );
        zone.slope_pct = self.slope_pct()?;
        zone.area_m2 = Area::from_m2(self.area_m2()?);
        zone.exposure = self.exposure.unwrap_or_default();
        zone.active_from = Some(today);
        if self.exposure.is_none() {
            zone.site_factor = assumed(0.6, 1.0, 1.2, |x| x);
        }
        if self.grass.is_none() {
            let of = Grass::ALL.into_iter().map(|g| g.profile().root_depth_mm);
            let [_, middle, _] = zone.grass.profile().root_depth_mm;
            let (low, high) = (span(of.clone().map(|r| r[0])).0, span(of.map(|r| r[2])).1);
            zone.root_depth_mm = assumed(low, middle, high, Depth::from_mm);
        }
        if self.soil.is_none() {
            let (low, high) = span(Texture::ALL.into_iter().map(Texture::available_mm_per_mm));
            let middle = zone.soil.available_mm_per_mm();
            zone.available_mm_per_mm = assumed(low, middle, high, |x| x);
            let (low, high) = span(Texture::ALL.into_iter().map(Texture::intake_mm_h));
            zone.intake_mm_h = assumed(low, zone.soil.intake_mm_h(), high, Rate::from_mm_h);
        }
        if self.sprinkler.is_none() {
            let of = Kind::ALL.into_iter().map(|kind| kind.defaults());
            let rates = of.clone().map(|d| d.rate_mm_h);
            let (low, high) = (
                span(rates.clone().map(|r| r[0])).0,
                span(rates.map(|r| r[2])).1,
            );
            let [_, middle, _] = Kind::Rotor.defaults().rate_mm_h;
            zone.rate_mm_h = assumed(low, middle, high, Rate::from_mm_h);
            let evenness = of.map(|d| d.evenness);
            let low = span(evenness.clone().map(|e| e[0])).0;
            let [_, middle, _] = zone.sprinkler.defaults().evenness;
            zone.evenness_du_lq = assumed(low, middle, span(evenness.map(|e| e[2])).1, |x| x);
        }
        zone.validate("")?;
        Ok(zone)
    }

    fn texture(&self) -> Texture {
        match self.soil {
            Some(SoilAnswer::Texture(texture)) => texture,
            Some(SoilAnswer::Squeezed { ball, feel }) => texture(ball, feel),
            None => Texture::Loam,
        }
    }

    fn slope_pct(&self) -> Result<f64, Invalid> {
        let Some(fall_m) = self.fall_m else {
            return Ok(UNKNOWN_SLOPE_PCT);
        };
        let slope = 100.0 * fall_m / FALL_OVER_M;
        Invalid::unless_within("fall_m", ranges::FALL, fall_m)?;
        Ok(slope)
    }

    fn area_m2(&self) -> Result<f64, Invalid> {
        let within = |shape: &Shape| {
            let outline = shape.outline().map_err(|error| error.within("area."))?;
            Ok(outline.area_m2())
        };
        match &self.area {
            None => Ok(UNKNOWN_AREA_M2),
            Some(AreaAnswer::M2(area)) => {
                Invalid::unless_within("area.m2", ranges::AREA, *area)?;
                Ok(*area)
            }
            Some(AreaAnswer::Tape(shape)) => within(shape),
            // Lengths go with the pace, areas with its square.
            Some(AreaAnswer::Paces(shape)) => Ok(within(shape)? * PACE_M * PACE_M),
        }
    }
}

/// A zone whose open questions are answered by an edit: what was assumed because nobody knew the grass, the soil, the sprinklers or the sun gives way to
/// what the answer's own table says.
#[must_use]
pub fn answered(before: &Zone, mut after: Zone) -> Zone {
    fn guess<T: PartialEq>(before: &Option<Sourced<T>>, after: &mut Option<Sourced<T>>) {
        let assumed = |figure: &Sourced<T>| figure.source == Source::Assumed;
        if before.as_ref().is_some_and(assumed) && before == after {
            *after = None;
        }
    }
    if before.grass != after.grass {
        guess(&before.root_depth_mm, &mut after.root_depth_mm);
    }
    if before.soil != after.soil {
        guess(&before.available_mm_per_mm, &mut after.available_mm_per_mm);
        guess(&before.intake_mm_h, &mut after.intake_mm_h);
    }
    if before.sprinkler != after.sprinkler {
        guess(&before.rate_mm_h, &mut after.rate_mm_h);
        guess(&before.evenness_du_lq, &mut after.evenness_du_lq);
    }
    if before.exposure != after.exposure {
        guess(&before.site_factor, &mut after.site_factor);
    }
    after
}

/// The grass that a lawn of a latitude most likely has.
const fn likely_grass(latitude: f64) -> Grass {
    if latitude.abs() < WARM_BELOW {
        Grass::CommonBermudagrass
    } else {
        Grass::TallFescue
    }
}

/// Flow of the supply by a bucket and a watch.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Bucket {
    /// What the bucket holds, L.
    pub bucket_l: f64,
    /// How long it takes to fill, s.
    pub seconds: f64,
}

/// A site as it is being described. `None`: not known.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SiteDraft {
    /// Name for people.
    pub name: String,
    /// IANA time zone.
    pub time_zone: String,
    /// Degrees, south negative.
    pub latitude: f64,
    /// Degrees, west negative.
    pub longitude: f64,
    /// Elevation above sea level, m.
    #[serde(default)]
    pub elevation_m: Option<f64>,
    /// What turns the water on; `None`: not known.
    #[serde(default)]
    pub turned_on_by: Option<TurnedOnBy>,
    /// Days and hours in which watering is allowed; `None`: no rule is known, then every day between 02:00 and 09:00, by hand between 06:00 and 10:00.
    #[serde(default)]
    pub windows: Option<Vec<Window>>,
    /// Flow of the supply.
    #[serde(default)]
    pub flow: Option<Bucket>,
    /// ISO 4217 code of the currency of the price.
    #[serde(default)]
    pub currency: Option<String>,
    /// Price of water per cubic metre.
    #[serde(default)]
    pub price_per_m3: Option<f64>,
}

/// What turns the water on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TurnedOnBy {
    /// A controller with valves that takes any programme.
    Controller,
    /// A controller with a dial and keys: each start is set by a person.
    Dial,
    /// A timer on a tap.
    TapTimer,
    /// A person.
    Hand,
}

impl TurnedOnBy {
    /// Starts that a zone can have on a day; `None`: as many as it takes. Four for a dial, two for a person (common practice, no source).
    const fn starts(self) -> Option<u8> {
        match self {
            Self::Controller => None,
            Self::Dial | Self::TapTimer => Some(4),
            Self::Hand => Some(2),
        }
    }
}

impl SiteDraft {
    /// The site, without zones.
    ///
    /// # Errors
    /// The answer that does not hold.
    pub fn document(&self) -> Result<SiteDocument, Invalid> {
        let flow_l_min = self.flow.map(Bucket::flow_l_min).transpose()?;
        let document = SiteDocument {
            format: FORMAT.to_owned(),
            version: VERSION,
            site: Site {
                name: self.name.trim().to_owned(),
                time_zone: self.time_zone.clone(),
                latitude: self.latitude,
                longitude: self.longitude,
                elevation_m: self.elevation_m.unwrap_or(UNKNOWN_ELEVATION_M),
                wind_height_m: 2.0,
                currency: self.currency.clone(),
                used_as: Use::default(),
                price_per_m3: self.price_per_m3,
                normals: None,
            },
            windows: self
                .windows
                .clone()
                .unwrap_or_else(|| before_the_heat(self.turned_on_by)),
            rules: super::rules::Rules::default(),
            supply: Supply {
                flow_l_min,
                ..Supply::default()
            },
            controller: Controller {
                starts: self.turned_on_by.and_then(TurnedOnBy::starts),
                ..Controller::default()
            },
            tariffs: Vec::new(),
            caps: Vec::new(),
            meters: Vec::new(),
            zones: Vec::new(),
        };
        document.validate()?;
        if !places::suits(&self.time_zone, self.longitude) {
            return Err(Invalid::new(
                "site.time_zone",
                format!(
                    "{} is hours away from the sun at a longitude of {}°: give the time zone of the place",
                    self.time_zone, self.longitude
                ),
            ));
        }
        Ok(document)
    }
}

impl Bucket {
    /// The flow, L/min.
    ///
    /// # Errors
    /// `flow.bucket_l` or `flow.seconds`.
    pub fn flow_l_min(self) -> Result<f64, Invalid> {
        Invalid::unless_within("flow.bucket_l", ranges::BUCKET, self.bucket_l)?;
        Invalid::unless_within("flow.seconds", ranges::BUCKET_TIME, self.seconds)?;
        let flow = 60.0 * self.bucket_l / self.seconds;
        Invalid::unless_within("flow.seconds", ranges::FLOW, flow)?;
        Ok(flow)
    }
}

/// The morning before the heat; a person who opens the water does so after sunrise (common practice, no source).
fn before_the_heat(turned_on_by: Option<TurnedOnBy>) -> Vec<Window> {
    let [from, to] = match turned_on_by {
        Some(TurnedOnBy::Hand) => [6, 10],
        _ => [2, 9],
    };
    vec![Window {
        days: Weekday::ALL.to_vec(),
        dates: DateRule::Any,
        from: Time::constant(from, 0, 0, 0),
        to: Time::constant(to, 0, 0, 0),
    }]
}

/// The days that a zone's soil has dried at its dawn: those after it was last soaked. `None`: not known.
#[must_use]
pub fn dried(soaked_days_ago: Option<u32>, today: Date) -> Option<Vec<Date>> {
    let days = i64::from(soaked_days_ago?.min(MOST_DRIED_DAYS));
    let first = today.saturating_sub(days.days());
    let dried = first.series(1.day());
    Some(dried.take_while(|date| *date < today).collect())
}

/// After so many days any root zone is as dry as it gets.
const MOST_DRIED_DAYS: u32 = 60;
