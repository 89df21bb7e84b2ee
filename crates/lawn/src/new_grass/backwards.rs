//! Planned backwards from the first hard frost: weeds sprayed, soil worked, sown, up, weaned, mown, and when weed killers are allowed again. A day that does not go with the
//! others says with which, and the first that does.

use jiff::ToSpan;
use jiff::civil::Date;
use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days::in_year;
use crate::engine::sown::Plot;
use crate::new_grass::method::Method;
use crate::new_grass::season::{InSeason, SeasonAhead, Seasons, soil_c};
use crate::new_grass::stages::weed_killers_clear;
use crate::new_grass::weeks::{FIRST_DAYS, stage_days};
use crate::spread::Spread;
use crate::stress::repair::{ONE_OF, SPRAY_DAYS};
use crate::weather::frost::{autumn_of, autumns};
use crate::weather::{DailyWeather, past_years};

/// Days from a spray until the soil is worked: until then roots take it up (common practice, no source; the label decides).
const SPRAY_WORKS_DAYS: i64 = 7;
/// Days from working the soil to sowing that are planned: it settles (common practice, no source).
const SETTLES_DAYS: i64 = 2;
/// Reserve before the last day of sowing that is planned (no source).
const RESERVE_DAYS: i64 = 14;
/// Days after sowing winter rye between which its end is looked for.
const WINTER_DAYS: i64 = 100;
const SPRING_DAYS: i64 = 290;
/// Days within a season that may be out of it by chance: the record is short (no source).
const GAP_DAYS: i32 = 7;
/// Days ahead that are searched for one that works.
const SEARCHED_DAYS: i64 = 364;

/// Something that is done, or happens, on the way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = SowingPoint)]
pub enum What {
    /// Weeds are sprayed.
    Spray,
    /// The soil is loosened and levelled.
    SoilWork,
    /// It is sown, or planted.
    Sow,
    /// First blades stand.
    Up,
    /// Half of the ground is covered, or sod holds: it is weaned.
    Weaning,
    /// The first mowing: then watered as turf.
    FirstMowing,
    /// Weed killers are allowed again, by our rule; the label decides.
    WeedKillers,
    /// The first hard frost, as early as in one past autumn of five.
    Frost,
    /// Winter rye is let go: the turf below wakes.
    RyeEnds,
}

/// A day of the line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingPointDay)]
pub struct Point {
    /// What.
    pub what: What,
    /// When; for what happens by itself the middle of the past years.
    pub on: Date,
    /// Over past years; absent: a person sets it.
    pub spread: Option<Spread<Date>>,
    /// Why its day does not go with the others; none: it does.
    pub clashes: Vec<Clash>,
    /// The first day from today on that goes with the others as they are; absent: it needs none, or there is none.
    pub first_works: Option<Date>,
}

/// Why a day does not go with the others.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "because", rename_all = "snake_case")]
#[schema(as = SowingClash)]
pub enum Clash {
    /// It is over.
    Over,
    /// So many days must lie between spraying and sowing.
    SprayWait {
        /// Days, by the label.
        days: i64,
    },
    /// The spray has not worked yet when the soil is.
    SprayWorks {
        /// Days that it needs.
        days: i64,
    },
    /// The soil is worked after sowing.
    WorkedAfter,
    /// The temperature of past years stands against it.
    Season {
        /// How.
        season: InSeason,
        /// In how many of them.
        years: usize,
        /// Of how many.
        of: usize,
    },
    /// Rules or hours leave days between sowing and weaning without water.
    Closed {
        /// Days.
        days: usize,
        /// The first one's rule.
        rule: Option<String>,
    },
}

/// The days that a person sets.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Set {
    /// Of spraying; `None`: nothing is sprayed.
    pub spray: Option<Date>,
    /// Of working the soil.
    pub soil_work: Date,
    /// Of sowing.
    pub sow: Date,
    /// Days from spraying to sowing, by the label.
    pub wait_days: i64,
}

/// The line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = SowingLine)]
pub struct Line {
    /// What is sown.
    pub grass: Grass,
    /// How.
    pub method: Method,
    /// Today.
    pub today: Date,
    /// The points, in the order of the work.
    pub points: Vec<Point>,
    /// Past years by whose temperature sowing is judged.
    pub years: usize,
    /// Days from spraying to sowing, by the label.
    pub wait_days: i64,
}

/// What days are judged by.
pub struct Judge<'a> {
    /// What is sown, and how.
    pub sown: (Grass, Method),
    /// The zone in the year ahead, from today on.
    pub plot: &'a Plot,
    /// Names of the site's rules, by their place.
    pub rules: &'a [String],
    /// When it is in season.
    pub season: SeasonAhead,
    /// The site's past weather.
    pub record: &'a [DailyWeather],
    /// Latitude, °.
    pub latitude: f64,
    /// Today.
    pub today: Date,
}

impl Judge<'_> {
    /// Past years by which sowing on a day is judged.
    fn years(&self, sow: Date) -> usize {
        self.season.at(sow).map_or(0, Seasons::years)
    }

    fn season_clash(&self, sow: Date) -> Option<Clash> {
        let seasons = self.season.at(sow).filter(|of| !of.is_in_season())?;
        let (season, years) = seasons.against()?;
        Some(Clash::Season {
            season,
            years,
            of: seasons.years(),
        })
    }

    fn closed(&self, sow: Date, weaning: Option<Date>) -> Option<Clash> {
        let at = usize::try_from((sow - self.today).get_days()).ok()?;
        let days = weaning.map_or(FIRST_DAYS, |weaning| {
            usize::try_from((weaning - sow).get_days()).unwrap_or(0)
        });
        let (days, rule) = self.plot.closed(at, days);
        (days > 0).then(|| Clash::Closed {
            days,
            rule: rule.and_then(|rule| self.rules.get(rule).cloned()),
        })
    }

    fn sow_clashes(&self, sow: Date, set: &Set) -> Vec<Clash> {
        if sow < self.today {
            return vec![Clash::Over];
        }
        let mut clashes = Vec::new();
        clashes.extend(waits(set.spray, sow, set.wait_days));
        if set.soil_work > sow {
            clashes.push(Clash::WorkedAfter);
        }
        clashes.extend(self.season_clash(sow));
        let (grass, method) = self.sown;
        let [_, weaning, _] = stage_days(method, grass, self.record, sow);
        clashes.extend(self.closed(sow, weaning.map(|days| days.middle)));
        clashes
    }

    fn spray_clashes(&self, spray: Date, set: &Set) -> Vec<Clash> {
        if spray < self.today {
            return vec![Clash::Over];
        }
        let mut clashes = Vec::new();
        clashes.extend(waits(Some(spray), set.sow, set.wait_days));
        clashes.extend(works(Some(spray), set.soil_work));
        clashes
    }

    fn soil_clashes(&self, soil_work: Date, set: &Set) -> Vec<Clash> {
        if soil_work < self.today {
            return vec![Clash::Over];
        }
        let mut clashes = Vec::new();
        clashes.extend(works(set.spray, soil_work));
        if soil_work > set.sow {
            clashes.push(Clash::WorkedAfter);
        }
        clashes
    }

    /// The first day from today on without a clash.
    fn first(&self, clashes: impl Fn(Date) -> Vec<Clash>) -> Option<Date> {
        let days = (0..SEARCHED_DAYS).map(|n| self.today.saturating_add(n.days()));
        days.into_iter().find(|day| clashes(*day).is_empty())
    }

    fn point(&self, what: What, on: Date, clashes: impl Fn(Date) -> Vec<Clash>) -> Point {
        let own = clashes(on);
        Point {
            what,
            on,
            spread: None,
            first_works: if own.is_empty() {
                None
            } else {
                self.first(clashes)
            },
            clashes: own,
        }
    }

    /// The first hard frosts of past autumns, and as early as in one of five.
    fn frost(&self) -> (Option<Spread<Date>>, Option<Date>) {
        let this = autumn_of(self.latitude, self.today);
        let known: Vec<_> = autumns(self.latitude, self.record).collect();
        let frosts = known.iter().filter_map(|autumn| {
            let frost = autumn.until_frost?.last()?.date;
            let year = frost
                .year()
                .saturating_add(this.saturating_sub(autumn.year));
            in_year(frost, year)
        });
        let mut frosts: Vec<Date> = frosts.collect();
        frosts.sort_unstable();
        let early = frosts.get(known.len() / ONE_OF).copied();
        (Spread::of_days(frosts), early)
    }

    /// When the soil is warm enough in the spring after sowing for the turf below to wake.
    fn rye_ends(&self, sow: Date) -> Option<Spread<Date>> {
        let from = sow.saturating_add(WINTER_DAYS.days());
        let to = sow.saturating_add(SPRING_DAYS.days());
        let (wakes_c, _) = soil_c(Season::Warm, Method::Seed);
        let years = past_years::on_days(self.record, from..=to);
        let wakes = years.filter_map(|(_, days)| {
            let warm = |day: &&DailyWeather| day.smoothed_c.is_some_and(|c| c >= wakes_c);
            Some(days.iter().find(warm)?.date)
        });
        Spread::of_days(wakes.collect())
    }

    /// The line with days that a person set.
    #[must_use]
    pub fn line(&self, set: &Set) -> Line {
        let (grass, method) = self.sown;
        let mut points = Vec::new();
        if let Some(spray) = set.spray {
            points.push(self.point(What::Spray, spray, |day| self.spray_clashes(day, set)));
        }
        points.push(self.point(What::SoilWork, set.soil_work, |day| {
            self.soil_clashes(day, set)
        }));
        points.push(self.point(What::Sow, set.sow, |day| self.sow_clashes(day, set)));
        let [up, weaning, mown] = stage_days(method, grass, self.record, set.sow);
        let by_itself = |what: What, spread: Option<Spread<Date>>| {
            spread.map(|spread| Point {
                what,
                on: spread.middle,
                spread: Some(spread),
                clashes: Vec::new(),
                first_works: None,
            })
        };
        points.extend(by_itself(What::Up, up.filter(|_| !method.made().is_turf())));
        points.extend(by_itself(What::Weaning, weaning));
        points.extend(by_itself(What::FirstMowing, mown));
        let clear = up.zip(mown).map(|(up, mown)| Spread {
            low: weed_killers_clear(up.low, mown.low),
            middle: weed_killers_clear(up.middle, mown.middle),
            high: weed_killers_clear(up.high, mown.high),
            years: mown.years,
        });
        points.extend(by_itself(What::WeedKillers, clear));
        if method == Method::WinterRye {
            points.extend(by_itself(What::RyeEnds, self.rye_ends(set.sow)));
        }
        let (spread, early) = self.frost();
        points.extend(early.map(|on| Point {
            what: What::Frost,
            on,
            spread,
            clashes: Vec::new(),
            first_works: None,
        }));
        Line {
            grass,
            method,
            today: self.today,
            points,
            years: self.years(set.sow),
            wait_days: set.wait_days,
        }
    }

    /// Days that go together: of a cool-season grass whose season frost ends two weeks before that, of others the first day in season. Where no past year tells, in four weeks.
    #[must_use]
    pub fn proposed(&self) -> Set {
        let good = |day: &Date| self.season.at(*day).is_some_and(Seasons::is_in_season);
        let days = (0..SEARCHED_DAYS).map(|n| self.today.saturating_add(n.days()));
        let mut stretch: Vec<Date> = Vec::new();
        for day in days {
            if good(&day) {
                stretch.push(day);
            } else if stretch
                .last()
                .is_some_and(|last| (day - *last).get_days() > GAP_DAYS)
            {
                break;
            }
        }
        let (grass, method) = self.sown;
        let is_cool = method.sows(grass).profile().season == Season::Cool;
        let frost_ends = |last: &Date| {
            let next = self.season_clash(last.saturating_add(1.day()));
            let by = |clash: Clash| {
                matches!(
                    clash,
                    Clash::Season {
                        season: InSeason::Frost,
                        ..
                    }
                )
            };
            next.is_some_and(by)
        };
        let sow = match (stretch.first(), stretch.last()) {
            (Some(first), Some(last)) if is_cool && frost_ends(last) => {
                let reserved = last.saturating_sub(RESERVE_DAYS.days());
                let before = stretch.iter().rfind(|day| **day <= reserved);
                before.copied().unwrap_or(*first)
            }
            (Some(first), _) => (*first).max(self.today.saturating_add(SETTLES_DAYS.days())),
            _ => self.today.saturating_add(SPRAY_DAYS.days()),
        };
        let sow = stretch.last().map_or(sow, |last| sow.min(*last));
        let spray = sow.saturating_sub(SPRAY_DAYS.days());
        // Into a lawn that stands nothing is sprayed that would kill it.
        let kills = matches!(
            method,
            Method::Seed | Method::Sod | Method::Plugs | Method::Sprigs
        );
        Set {
            spray: (spray >= self.today && kills).then_some(spray),
            soil_work: sow.saturating_sub(SETTLES_DAYS.days()).max(self.today),
            sow,
            wait_days: SPRAY_DAYS,
        }
    }
}

fn waits(spray: Option<Date>, sow: Date, wait_days: i64) -> Option<Clash> {
    let free = spray?.saturating_add(wait_days.days());
    (sow < free).then_some(Clash::SprayWait { days: wait_days })
}

fn works(spray: Option<Date>, soil_work: Date) -> Option<Clash> {
    let free = spray?.saturating_add(SPRAY_WORKS_DAYS.days());
    (soil_work < free).then_some(Clash::SprayWorks {
        days: SPRAY_WORKS_DAYS,
    })
}
