//! Heat ahead: on which of the coming days it strains a grass, what to do about it, which places to water by hand, and whether cooling with a little water at
//! midday helps.
//!
//! Two steps, by how hot a day becomes: hot edges first, whole zones where such days follow one another (extension advice and common practice, no one source).

use jiff::civil::{Date, Time};
use science::turf::Season;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::zone_model::{HOT_EDGE_FACTOR, ZoneModel};
use crate::measure::hot_spot::HotSpot;
use crate::quantity::{Area, Depth, Volume};
use crate::site::{DateRule, HotEdge, SiteDocument, Weekday, Window, Zone, calendar};
use crate::weather::DailyWeather;

/// Highest air temperature of a day, °C, from which hot edges are strained, and from which whole zones are: grass of a cool season; of a warm one, which likes up to
/// 35 °C (no source for the latter).
const STEPS_C: [(f64, f64); 2] = [(32.0, 36.0), (36.0, 40.0)];
/// Days running as hot as the second step that strain the whole zone (no source).
const RUNNING: usize = 2;
/// Lowest air temperature, °C, of a night in which grass hardly recovers, and least humidity of a day, %, in which air is humid (common practice, no source).
const WARM_NIGHT_C: f64 = 21.0;
const HUMID_PCT: f64 = 60.0;
/// What cools leaves for an hour, net depth: between 0.3 and 1 mm are usual (common practice, no source).
const COOLING: Depth = Depth::from_mm(0.6);
/// Hours in which it may be done: not late in the day, so that leaves are dry by night.
const MIDDAY: (Time, Time) = (Time::constant(12, 0, 0, 0), Time::constant(15, 0, 0, 0));
/// Roots shallower than this are helped by cooling whatever grows there (no source).
const SHALLOW: Depth = Depth::from_mm(100.0);
/// Flow of a garden hose, L/min (common practice, no source).
const HOSE_L_MIN: f64 = 15.0;

/// What a hot day strains.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = HeatStep)]
pub enum Step {
    /// Hot edges: along paving, slopes that face the sun, thin soil.
    Edges,
    /// The whole zone.
    Whole,
}

/// A day as a grass feels it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct HeatDay {
    /// The day.
    pub date: Date,
    /// Highest air temperature, °C.
    pub tmax_c: f64,
    /// Lowest, °C, where known.
    pub tmin_c: Option<f64>,
    /// Least relative humidity, %, where known.
    pub rh_min_pct: Option<f64>,
    /// Soil near the roots, °C, about: the mean air temperature of ten days.
    pub soil_c: Option<f64>,
    /// What it strains; `None`: nothing.
    pub step: Option<Step>,
    /// Whether the night is so warm that grass hardly recovers.
    pub warm_night: bool,
    /// Whether its air is humid: leaves cool little, diseases spread.
    pub humid: bool,
    /// Whether the soil is warmer than roots of the grass like.
    pub warm_soil: bool,
}

/// The days of a stretch, in time order, as a grass of a season feels them; those of which the highest temperature is not known are left out.
/// They are judged in whole degrees: no forecast is surer.
#[must_use]
pub fn days(season: Season, weather: &[DailyWeather]) -> Vec<HeatDay> {
    let (edges, whole) = match season {
        Season::Cool => STEPS_C[0],
        Season::Warm => STEPS_C[1],
    };
    let is_hot = |at: usize| weather[at].tmax_c.is_some_and(|max| max.round() >= whole);
    // How many such days follow one another around each.
    let running = |at: usize| {
        let before = (0..at).rev().take_while(|i| is_hot(*i)).count();
        let after = (at + 1..weather.len()).take_while(|i| is_hot(*i)).count();
        before + 1 + after
    };
    let of = |(at, day): (usize, &DailyWeather)| {
        let tmax_c = day.tmax_c?;
        let step = if is_hot(at) && running(at) >= RUNNING {
            Some(Step::Whole)
        } else {
            (tmax_c.round() >= edges).then_some(Step::Edges)
        };
        Some(HeatDay {
            date: day.date,
            tmax_c,
            tmin_c: day.tmin_c,
            rh_min_pct: day.rh_min_pct,
            soil_c: day.smoothed_c,
            step,
            warm_night: day.tmin_c.is_some_and(|min| min.round() >= WARM_NIGHT_C),
            humid: day.rh_min_pct.is_some_and(|rh| rh >= HUMID_PCT),
            warm_soil: day.smoothed_c.is_some_and(|c| c > season.best_c().roots.1),
        })
    };
    weather.iter().enumerate().filter_map(of).collect()
}

/// What to do about heat.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = HeatDeed)]
pub enum Deed {
    /// Water hot edges by hand, early.
    WaterEdges,
    /// Water it deeply at the dawn before.
    SoakBefore,
    /// Mow higher, with a sharp blade, not at noon.
    MowHigher,
    /// Do not mow.
    NoMowing,
    /// No feeding and no spraying: above its label's temperature a weed killer harms.
    NoFeedingNoSpraying,
    /// Keep feet and wheels off.
    LessTraffic,
    /// Look for disease in the morning; water at dawn alone, no oftener than it needs.
    WatchForDisease,
    /// Work early, in shade, with water at hand, not alone.
    WorkEarly,
}

/// What to do about the heat of some days; nothing where none strains.
#[must_use]
pub fn deeds(days: &[HeatDay]) -> Vec<Deed> {
    use Deed::{
        LessTraffic, MowHigher, NoFeedingNoSpraying, NoMowing, SoakBefore, WatchForDisease,
        WaterEdges, WorkEarly,
    };
    let mut deeds = match days.iter().filter_map(|day| day.step).max() {
        None => return Vec::new(),
        Some(Step::Edges) => vec![WaterEdges, MowHigher, NoFeedingNoSpraying],
        Some(Step::Whole) => vec![
            SoakBefore,
            WaterEdges,
            NoMowing,
            NoFeedingNoSpraying,
            LessTraffic,
        ],
    };
    if days.iter().any(|day| day.warm_night && day.humid) {
        deeds.push(WatchForDisease);
    }
    deeds.push(WorkEarly);
    deeds
}

/// A place to water by hand.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct ByHand {
    /// Why it dries out first.
    pub spot: HotSpot,
    /// Its area, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// What such a place uses on the hottest of the days.
    pub depth_mm: Depth,
    /// The same of its area, L.
    #[schema(value_type = f64)]
    pub litres: Volume,
    /// The time with a hose, min.
    pub minutes: f64,
    /// The hose's flow, L/min.
    pub hose_l_min: f64,
}

/// The hot places of a zone to water by hand on days of heat, each with what it uses on the hottest of them; nothing where none strains.
#[must_use]
pub fn by_hand(
    zone: &Zone,
    model: &ZoneModel,
    weather: &[DailyWeather],
    days: &[HeatDay],
) -> Vec<ByHand> {
    let strains = |day: &&DailyWeather| {
        days.iter()
            .any(|heat| heat.date == day.date && heat.step.is_some())
    };
    let uses = weather.iter().filter(strains).map(|day| model.etc(day));
    let Some(most) = uses.max_by(|a, b| a.mm().total_cmp(&b.mm())) else {
        return Vec::new();
    };
    let edge = (HOT_EDGE_FACTOR / model.site_factor.value).max(1.0);
    let of = |hot: &HotEdge| {
        let depth_mm = most * edge;
        let litres = depth_mm * hot.area_m2;
        ByHand {
            spot: hot.spot,
            area_m2: hot.area_m2,
            depth_mm,
            litres,
            minutes: litres.l() / HOSE_L_MIN,
            hose_l_min: HOSE_L_MIN,
        }
    };
    zone.hot_edges.iter().map(of).collect()
}

/// Why leaves are not cooled with water on a day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "because", rename_all = "snake_case")]
pub enum NoCooling {
    /// The air is humid: little evaporates.
    Humid {
        /// Its least relative humidity, %.
        rh_min_pct: f64,
    },
    /// A local rule forbids water at midday.
    Forbidden,
}

/// Cooling leaves with a little water at midday, on top of the deep watering; disputed.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Cooling {
    /// The day.
    pub date: Date,
    /// Net depth.
    pub depth_mm: Depth,
    /// The sprinklers' time, s.
    pub seconds: f64,
    /// Water that it takes, L.
    #[schema(value_type = f64)]
    pub litres: Volume,
    /// The first and the last local time for it.
    #[schema(value_type = String)]
    pub from: Time,
    /// See `from`.
    #[schema(value_type = String)]
    pub to: Time,
    /// Why it is not to be done; `None`: it may help.
    pub not: Option<NoCooling>,
}

/// Cooling of a zone at midday on the days that strain all of it: it helps grass of a cool season and shallow roots. Never on other days, where sprinklers are carried
/// about, or where nothing says how much they put down.
#[must_use]
pub fn cooling(
    document: &SiteDocument,
    zone: &Zone,
    model: &ZoneModel,
    days: &[HeatDay],
) -> Vec<Cooling> {
    let helps = model.season == Season::Cool || model.root_depth.value < SHALLOW;
    let rate = model.rate.value.mm_h();
    if !helps || zone.by_hand() || !zone.regime.is_rooted() || rate <= 0.0 {
        return Vec::new();
    }
    let at_midday = SiteDocument {
        windows: vec![Window {
            days: Weekday::ALL.to_vec(),
            from: MIDDAY.0,
            to: MIDDAY.1,
            dates: DateRule::Any,
        }],
        ..document.clone()
    };
    let hot = days.iter().filter(|day| day.step == Some(Step::Whole));
    hot.map(|day| Cooling {
        date: day.date,
        depth_mm: COOLING,
        seconds: COOLING.mm() / rate * 3600.0,
        litres: COOLING * zone.area_m2,
        from: MIDDAY.0,
        to: MIDDAY.1,
        not: if is_forbidden(&at_midday, &zone.id, day.date) {
            Some(NoCooling::Forbidden)
        } else {
            let humid = day.rh_min_pct.filter(|_| day.humid);
            humid.map(|rh_min_pct| NoCooling::Humid { rh_min_pct })
        },
    })
    .collect()
}

/// Whether local rules keep a zone from any of a day's windows.
fn is_forbidden(document: &SiteDocument, zone: &str, date: Date) -> bool {
    let Ok(time_zone) = document.site.zone() else {
        return true;
    };
    let place = document.zones.iter().position(|z| z.id == zone);
    let days = calendar::days(document, &time_zone, date, 1);
    let Some((day, place)) = days.first().zip(place) else {
        return true;
    };
    let barred = |window: usize| {
        let bars = day.barred.get(window);
        bars.is_some_and(|zones| zones.contains(&place))
    };
    (0..day.windows.len()).all(barred)
}
