//! What sowing in each week of the year ahead comes to, by the site's own past years: in season or not, on rain alone, and watered as the plan waters it.

use jiff::ToSpan;
use jiff::civil::{Date, Time};
use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::replay::Error;
use crate::engine::seedbed::DRY_HOURS;
use crate::engine::seedling::THIN_DRY_DAYS;
use crate::engine::sown::{Grown, LOST_DRY_DAYS, Plot};
use crate::new_grass::method::Method;
use crate::new_grass::season::{
    LOOKED_DAYS, SeasonAhead, Seasons, WEEKS, YOUNG_DAYS, before_frost_days, season_days, soil_c,
    stages_of,
};
use crate::quantity::{RunTime, Volume};
use crate::site::{Hours, Invalid, SiteDocument, Zone};
use crate::spread::Spread;
use crate::wanted::Wanted;
use crate::weather::frost::HARD_FROST_C;
use crate::weather::{DailyWeather, past_years};

/// Days after sowing on which hours must be open to it.
pub(super) const FIRST_DAYS: usize = 28;
/// Hours of the day that new grass wants (common practice, no source).
const DAY: Hours = Hours {
    from: Time::constant(6, 0, 0, 0),
    to: Time::constant(19, 0, 0, 0),
};

/// What becomes of a sowing.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingFate)]
pub enum Fate {
    /// It comes up and stays moist enough.
    Stands,
    /// It comes up, and a dry week thins it.
    Thin,
    /// It does not come up, or two dry weeks kill it.
    Fails,
}

/// In how many past years it went how.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingFates)]
pub struct Fates {
    /// It stood.
    pub stands: usize,
    /// It was thin.
    pub thin: usize,
    /// It failed.
    pub fails: usize,
}

/// Sowing on the first day of a week.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingWeek)]
pub struct StartWeek {
    /// The day.
    pub from: Date,
    /// Past years that know all of the days after it.
    pub years: usize,
    /// Whether it was in season.
    pub seasons: Seasons,
    /// Whether it was so in two of three past years: what the line and its proposal go by too.
    pub is_in_season: bool,
    /// On rain alone.
    pub rain_fed: Fates,
    /// Watered at its slots.
    pub watered: Fates,
    /// Days until it is up, watered.
    pub up_days: Option<Spread<f64>>,
    /// Days until its first mowing, watered.
    pub mown_days: Option<Spread<f64>>,
    /// Water until its first mowing.
    #[schema(value_type = Option<Spread<f64>>)]
    pub water_l: Option<Spread<Volume>>,
    /// Time that water runs until then, min.
    pub run_min: Option<Spread<f64>>,
    /// Waterings until then.
    pub waterings: Option<Spread<f64>>,
    /// Most waterings of a day.
    pub most_a_day: Option<Spread<f64>>,
    /// Of the four weeks from that day on, days that rules or hours leave without any watering of it.
    pub closed_days: usize,
    /// The first such day's rule.
    pub closed_by: Option<String>,
}

/// All weeks of a zone's year ahead.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingWeeks)]
pub struct Weeks {
    /// What is sown.
    pub grass: Grass,
    /// How.
    pub method: Method,
    /// In which hours it would be watered.
    pub hours: InHours,
    /// By what it is computed.
    pub rules: Rules,
    /// By week, from today on.
    pub weeks: Vec<StartWeek>,
}

/// By what a week is judged.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingRules)]
pub struct Rules {
    /// Least temperature of the soil on the first day, °C.
    pub soil_least_c: f64,
    /// Most, of the soil on the first day and of the air until the roots are no longer young, °C; absent: none.
    pub heat_most_c: Option<f64>,
    /// Days after the first mowing in which roots are young.
    pub young_days: i64,
    /// Air temperature of a hard frost, °C.
    pub hard_frost_c: f64,
    /// Days before one that it needs.
    pub before_frost_days: i64,
    /// Hours beyond its limit that make a day dry.
    pub dry_hours: u8,
    /// Dry days running that thin it.
    pub thin_days: u32,
    /// Dry days running that kill it.
    pub lost_days: u32,
}

impl Rules {
    const fn of(method: Method, season: Season) -> Self {
        let (soil_least_c, heat_most_c) = soil_c(season, method);
        Self {
            soil_least_c,
            heat_most_c,
            young_days: YOUNG_DAYS,
            hard_frost_c: HARD_FROST_C,
            before_frost_days: before_frost_days(method),
            dry_hours: DRY_HOURS,
            thin_days: THIN_DRY_DAYS,
            lost_days: LOST_DRY_DAYS,
        }
    }
}

/// In which hours it is to be watered, as far as rules leave them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingHours)]
pub enum InHours {
    /// Those set with the zone, or else from 06:00 to 19:00: hours that new grass wants, to be set with the zone when it is sown.
    #[default]
    Day,
    /// The site's own hours.
    Site,
}

/// Days of a year ahead on which a zone may be watered while its grass is new.
///
/// # Errors
/// A time zone that is not known.
pub fn plot(
    document: &SiteDocument,
    place: usize,
    (grass, method): (Grass, Method),
    hours: InHours,
    today: Date,
) -> Result<Plot, Invalid> {
    let days = usize::try_from(LOOKED_DAYS).unwrap_or(0) + WEEKS * 7;
    let zone = document.zones[place].on(today);
    let sown = Zone {
        grass: method.sows(grass),
        new_grass_as: method.made(),
        new_grass_hours: match hours {
            InHours::Day => zone.new_grass_hours.or(Some(DAY)),
            InHours::Site => None,
        },
        ..zone
    };
    Plot::of(document, place, &sown, today, days)
}

/// What sowing in each of the coming weeks comes to for a zone, the site's past years put on their days.
///
/// # Errors
/// A time zone that is not known; [`Error::Unwanted`].
pub fn weeks(
    wanted: Wanted<'_>,
    document: &SiteDocument,
    place: usize,
    (grass, method): (Grass, Method),
    hours: InHours,
    record: &[DailyWeather],
    today: Date,
) -> Result<Weeks, Error> {
    let plot = plot(document, place, (grass, method), hours, today)?;
    let season = SeasonAhead::of(grass, method, record, today);
    let weeks = (0..WEEKS).map(|week| {
        let at = week * 7;
        let from = today.saturating_add(i64::try_from(at).unwrap_or(0).days());
        let seasons = season.weeks.get(week).copied().unwrap_or_default();
        let years = season_days(record, from);
        let grow = |is_watered: bool| -> Result<Vec<Grown>, Error> {
            let grown = years.iter().map(|days| match wanted() {
                true => Ok(plot.grow(at, days, is_watered)),
                false => Err(Error::Unwanted),
            });
            grown.collect()
        };
        let dry = grow(false)?;
        let watered = grow(true)?;
        let area = plot.zone().area_m2;
        let stood = || watered.iter().filter(|grown| grown.first.mown.is_some());
        let numbers = |of: &dyn Fn(&Grown) -> Option<f64>| {
            Spread::of_numbers(stood().filter_map(of).collect())
        };
        let days_to = |day: Option<Date>| Some(f64::from((day? - from).get_days()));
        let (closed_days, closed_by) = plot.closed(at, FIRST_DAYS);
        let rule = closed_by.and_then(|rule| document.rules.list.get(rule));
        Ok(StartWeek {
            from,
            years: years.len(),
            seasons,
            is_in_season: seasons.is_in_season(),
            rain_fed: Fates::of(&dry),
            watered: Fates::of(&watered),
            up_days: numbers(&|grown| days_to(grown.first.up)),
            mown_days: numbers(&|grown| days_to(grown.first.mown)),
            water_l: Spread::of_volumes(stood().map(|grown| grown.gross * area).collect()),
            run_min: numbers(&|grown| Some(RunTime::from_whole_s(grown.run_s).minutes())),
            waterings: numbers(&|grown| Some(f64::from(grown.runs))),
            most_a_day: numbers(&|grown| Some(f64::from(grown.most_a_day))),
            closed_days,
            closed_by: rule.map(|rule| rule.name.clone()),
        })
    });
    Ok(Weeks {
        grass,
        method,
        hours,
        rules: Rules::of(method, grass.profile().season),
        weeks: weeks.collect::<Result<_, Error>>()?,
    })
}

/// What became of a sowing that was followed.
#[must_use]
pub fn fate(grown: &Grown) -> Fate {
    if grown.first.up.is_none() || grown.dry_running >= LOST_DRY_DAYS {
        Fate::Fails
    } else if grown.dry_running >= THIN_DRY_DAYS {
        Fate::Thin
    } else {
        Fate::Stands
    }
}

impl Fates {
    fn of(grown: &[Grown]) -> Self {
        let count = |of: Fate| grown.iter().filter(|grown| fate(grown) == of).count();
        Self {
            stands: count(Fate::Stands),
            thin: count(Fate::Thin),
            fails: count(Fate::Fails),
        }
    }
}

/// Days on which what is sown on a day is up, fills in and is mown in each past year, by warmth alone.
#[must_use]
pub fn stage_days(
    method: Method,
    grass: Grass,
    record: &[DailyWeather],
    sown_on: Date,
) -> [Option<Spread<Date>>; 3] {
    let to = sown_on.saturating_add((LOOKED_DAYS - 1).days());
    let years = past_years::on_days(record, sown_on..=to);
    let each: Vec<[Option<Date>; 3]> = years
        .map(|(_, days)| stages_of(method, grass, &days))
        .collect();
    [0, 1, 2].map(|stage| Spread::of_days(each.iter().filter_map(|of| of[stage]).collect()))
}
