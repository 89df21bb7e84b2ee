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
use crate::weather::frost::HARD_FROST_C;
use crate::weather::{DailyWeather, past_years};

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

/// Weeks that are looked at.
pub const WEEKS: usize = 52;
const WEEK_DAYS: usize = 7;

/// In how many past years a week was in season.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingSeasons)]
pub struct Seasons {
    /// It was.
    pub good: usize,
    /// Too cold.
    pub too_cold: usize,
    /// Too hot.
    pub too_hot: usize,
    /// Frost came too soon.
    pub frost: usize,
}

impl Seasons {
    /// Past years that tell.
    #[must_use]
    pub const fn years(&self) -> usize {
        self.good + self.too_cold + self.too_hot + self.frost
    }

    /// Whether two of three past years were good.
    #[must_use]
    pub const fn is_in_season(&self) -> bool {
        self.years() > 0 && (self.years() - self.good) * ONE_OF <= self.years()
    }

    /// What was against it most often, and in how many years; `None`: nothing.
    #[must_use]
    pub fn against(&self) -> Option<(InSeason, usize)> {
        let all = [
            (InSeason::TooCold, self.too_cold),
            (InSeason::TooHot, self.too_hot),
            (InSeason::Frost, self.frost),
        ];
        let most = all.into_iter().max_by_key(|(_, years)| *years);
        most.filter(|(_, years)| *years > 0)
    }
}

/// The past years put on the days after a day of the year ahead, as many as a sowing in the week from that day on looks at.
#[must_use]
pub fn season_days(record: &[DailyWeather], from: Date) -> Vec<Vec<DailyWeather>> {
    let more = i64::try_from(WEEK_DAYS).unwrap_or(0) - 1;
    let to = from.saturating_add((LOOKED_DAYS - 1 + more).days());
    let years = past_years::on_days(record, from..=to);
    years.map(|(_, days)| days).collect()
}

/// The season for sowing over the year ahead, by weeks: the one rule for the band, the proposal, the clashes and the weeks. A year counts as most days of the week in it do.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct SeasonAhead {
    today: Date,
    /// By week from today on.
    pub weeks: Vec<Seasons>,
}

impl SeasonAhead {
    /// By the past years of a site.
    #[must_use]
    pub fn of(grass: Grass, method: Method, record: &[DailyWeather], today: Date) -> Self {
        let weeks = (0..WEEKS).map(|week| {
            let days = i64::try_from(week * WEEK_DAYS).unwrap_or(0);
            let mut seasons = Seasons::default();
            for days in season_days(record, today.saturating_add(days.days())) {
                let of_days =
                    (0..WEEK_DAYS).filter_map(|day| in_season(grass, method, days.get(day..)?));
                match most_days(of_days) {
                    Some(InSeason::Good) => seasons.good += 1,
                    Some(InSeason::TooCold) => seasons.too_cold += 1,
                    Some(InSeason::TooHot) => seasons.too_hot += 1,
                    Some(InSeason::Frost) => seasons.frost += 1,
                    None => {}
                }
            }
            seasons
        });
        Self {
            today,
            weeks: weeks.collect(),
        }
    }

    /// That of the week in which a day lies; `None`: it is over, or beyond the year.
    #[must_use]
    pub fn at(&self, day: Date) -> Option<&Seasons> {
        let days = usize::try_from((day - self.today).get_days()).ok()?;
        self.weeks.get(days / WEEK_DAYS)
    }
}

/// What most of some days are; of as many the first that is named in [`InSeason`].
fn most_days(days: impl Iterator<Item = InSeason>) -> Option<InSeason> {
    let all = [
        InSeason::Frost,
        InSeason::TooHot,
        InSeason::TooCold,
        InSeason::Good,
    ];
    let mut counts = [0; 4];
    for day in days {
        for (count, of) in counts.iter_mut().zip(all) {
            *count += usize::from(day == of);
        }
    }
    let most = all.into_iter().zip(counts).max_by_key(|(_, count)| *count);
    most.filter(|(_, count)| *count > 0).map(|(of, _)| of)
}
