//! Whether a day is in season for sowing, by the temperature of each past year: soil warm enough, no summer heat while its roots are young, and time enough before hard frost.
//!
//! Soil where seed lies is taken to be as warm as the air of the last ten days (common practice, no source).

use jiff::ToSpan;
use jiff::civil::Date;
use science::sowing::Seed;
use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::new_grass::method::Method;
use crate::stress::repair::BEFORE_FROST;
use crate::weather::DailyWeather;
use crate::weather::frost::HARD_FROST_C;

/// Days after sowing that are looked at.
pub const LOOKED_DAYS: i64 = 120;
/// Of so many past years one may turn out otherwise where a day counts as in season (no source).
const ONE_OF: usize = 3;
/// Days after the first mowing in which young roots stand heat badly (no source).
const YOUNG_DAYS: i64 = 28;
/// Days before hard frost that sod and winter rye need at least (no source).
const HARDY_DAYS: i64 = 21;
/// Days until sod holds, least to most (common practice, no source).
pub const SOD_HOLDS_DAYS: [i64; 2] = [14, 21];

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

/// The first days on which what is sown is up, fills in and is mown, by the warmth of the days from sowing on.
#[must_use]
pub fn stages(seed: &Seed, days: &[DailyWeather]) -> [Option<Date>; 3] {
    let mut warmth = 0.0;
    let mut first = [None; 3];
    for day in days {
        warmth += match (day.tmin_c, day.tmax_c) {
            (Some(min), Some(max)) => seed.warmth(min, max),
            _ => 0.0,
        };
        for (first, needs) in first
            .iter_mut()
            .zip([seed.up_c_d, seed.filling_c_d, seed.mown_c_d])
        {
            if warmth >= needs {
                first.get_or_insert(day.date.saturating_add(1.day()));
            }
        }
        if first[2].is_some() {
            break;
        }
    }
    first
}

/// The same for a way of making new grass: sod that is up lies, fills in while it roots, and is mown once it holds.
#[must_use]
pub fn stages_of(method: Method, grass: Grass, days: &[DailyWeather]) -> [Option<Date>; 3] {
    if method == Method::Sod {
        let laid = days.first().map(|day| day.date);
        let after = |n: i64| laid.map(|on| on.saturating_add(n.days()));
        let [holds, mown] = SOD_HOLDS_DAYS;
        return [laid, after(holds), after(mown)];
    }
    stages(&method.sows(grass).planted(), days)
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
    let waits = match method {
        // It may be cold soon after: it roots until the soil freezes; and rye is hardy.
        Method::Sod | Method::WinterRye => HARDY_DAYS,
        _ => BEFORE_FROST,
    };
    let grown = first.date.saturating_add(waits.days());
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

/// Whether enough of past years say so that it is reckoned with: two of three.
#[must_use]
pub const fn is_reckoned_with(say_so: usize, of: usize) -> bool {
    of > 0 && (of - say_so) * ONE_OF <= of
}
