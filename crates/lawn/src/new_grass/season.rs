//! Whether a day is in season for sowing, by the temperature of each past year: soil warm enough, no summer heat while its roots are young, and time enough before hard frost.
//!
//! Soil where seed lies is taken to be as warm as the air of the last ten days (common practice, no source).

use jiff::ToSpan;
use jiff::civil::Date;
use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::seedling::{Seedling, Stage};
use crate::new_grass::method::Method;
use crate::stress::repair::BEFORE_FROST;
use crate::weather::DailyWeather;
use crate::weather::frost::HARD_FROST_C;

/// Days after sowing that are looked at.
pub const LOOKED_DAYS: i64 = 120;
/// Of so many past years one may turn out otherwise where a day counts as in season (no source).
const ONE_OF: usize = 3;
/// Days after the first mowing in which young roots stand heat badly (no source).
pub(super) const YOUNG_DAYS: i64 = 28;
/// Days before hard frost that sod and winter rye need at least (no source).
const HARDY_DAYS: i64 = 21;

/// What the temperatures of a year make of sowing on a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingSeason)]
pub enum InSeason {
    /// Nothing of it stands against it.
    Good,
    /// The soil is too cold for its seed.
    TooCold,
    /// It is too hot for a cool-season grass when it is sown, or until four weeks after its first mowing.
    TooHot,
    /// Hard frost comes before the first mowing, or sooner than 45 days after sowing.
    Frost,
}

/// Soil temperatures between which a grass is sown, the upper one that of the air until four weeks after its first mowing too, °C; `None`: no upper one.
#[must_use]
pub const fn soil_c(season: Season, method: Method) -> (f64, Option<f64>) {
    match (season, method) {
        // Sod roots wherever soil is not cold, in midsummer too.
        (Season::Cool, Method::Sod) => (5.0, None),
        (Season::Warm, Method::Sod) => (13.0, None),
        // Above it turf of the warm season still grows against ryegrass.
        (_, Method::WinterRye) => (10.0, Some(22.0)),
        (Season::Cool, _) => (10.0, Some(Season::Cool.best_c().shoots.1)),
        (Season::Warm, _) => (18.0, None),
    }
}

/// The first days on which what is made on the first of some days is up, weaned and mown, by warmth: seed is weaned as it fills in, sod and plugs once they hold.
#[must_use]
pub fn stages_of(method: Method, grass: Grass, days: &[DailyWeather]) -> [Option<Date>; 3] {
    let Some(first) = days.first() else {
        return [None; 3];
    };
    let (made, sows) = (method.made(), method.sows(grass));
    if made.is_turf() {
        let laid = Seedling::at(Stage::FillingIn, first.date, sows, made);
        let firsts = laid.course(days, sows);
        return [Some(first.date), firsts.seldom, firsts.mown];
    }
    let firsts = Seedling::at(Stage::NotUp, first.date, sows, made).course(days, sows);
    [firsts.up, firsts.filling, firsts.mown]
}

/// Days before hard frost that it needs at least.
#[must_use]
pub const fn before_frost_days(method: Method) -> i64 {
    match method {
        // It may be cold soon after: it roots until the soil freezes; and rye is hardy.
        Method::Sod | Method::WinterRye => HARDY_DAYS,
        _ => BEFORE_FROST,
    }
}

/// What a year's temperatures from a day on make of sowing then; `None`: they are not known.
#[must_use]
pub fn in_season(grass: Grass, method: Method, days: &[DailyWeather]) -> Option<InSeason> {
    let first = days.first()?;
    let season = grass.profile().season;
    let soil = first.smoothed_c?;
    let (least, most) = soil_c(season, method);
    if soil < least {
        return Some(InSeason::TooCold);
    }
    if most.is_some_and(|most| soil > most) {
        return Some(InSeason::TooHot);
    }
    let [.., mown] = stages_of(method, grass, days);
    let until = |last: Date| days.iter().take_while(move |day| day.date <= last);
    let grown = first.date.saturating_add(before_frost_days(method).days());
    let Some(mown) = mown else {
        return Some(InSeason::Frost);
    };
    let safe = mown.max(grown);
    if until(safe).any(|day| day.tmin_c.is_some_and(|min| min <= HARD_FROST_C)) {
        return Some(InSeason::Frost);
    }
    let young = mown.saturating_add(YOUNG_DAYS.days());
    let (sum_c, known) = until(young).fold((0.0, 0.0), |(sum, known), day| {
        match (day.tmin_c, day.tmax_c) {
            (Some(min), Some(max)) => (sum + f64::midpoint(min, max), known + 1.0),
            _ => (sum, known),
        }
    });
    let is_hot = most.is_some_and(|most| sum_c > most * known);
    Some(if is_hot {
        InSeason::TooHot
    } else {
        InSeason::Good
    })
}

/// Whether enough past years say so: two of three.
#[must_use]
pub const fn is_reckoned_with(say_so: usize, of: usize) -> bool {
    of > 0 && (of - say_so) * ONE_OF <= of
}
