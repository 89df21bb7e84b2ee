//! The dormancy ledger of a zone: how near it is to sleep, asleep or waking, day by day. It proposes; a person decides.
//!
//! How it counts is common practice, no source: turf of a cool season sleeps when nine tenths of its water have been gone on seven of nine days, wakes with rain
//! and milder days, and survives so many days of heat since its crowns were last wetted.

use std::collections::VecDeque;

use jiff::civil::Date;
use science::soil::Texture;
use science::turf::{Grass, Season};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::history::{Stretch, ZoneHistory};
use crate::engine::lately::Lately;
use crate::engine::root_zone::DayBalance;
use crate::engine::schools::Crowns;
use crate::quantity::Depth;
use crate::record::past::PastDay;
use crate::site::{CrownWatering, Regime, Zone};
use crate::weather::DailyWeather;

/// Share of TAW beyond which a day counts as dry.
pub const DRY_SHARE: f64 = 0.9;
/// Of so many days so many must be dry.
pub const DRY_DAYS: (usize, u8) = (9, 7);
/// Days from letting go to waking, at least.
pub const ASLEEP_DAYS: i32 = 21;
/// Rain that wakes, and within how many days.
pub const WAKING_RAIN: (Depth, usize) = (Depth::from_mm(12.0), 10);
/// Mild days running that wake.
pub const MILD_DAYS: u8 = 5;
/// The same rules, to be told beside what they are about.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[schema(as = DormancyRules)]
pub struct Rules {
    /// Depletion as a share of TAW beyond which a day counts as dry.
    pub dry_share: f64,
    /// Dry days that let it fall asleep, of so many.
    pub dry_days: u8,
    /// See `dry_days`.
    pub of_days: usize,
    /// Days asleep before it is woken.
    pub asleep_days: i32,
    /// Rain that wakes it.
    pub rain_mm: Depth,
    /// Days within which it falls.
    pub rain_days: usize,
    /// Mild days running that wake it.
    pub mild_days: u8,
}

/// See [`Rules`].
pub const RULES: Rules = Rules {
    dry_share: DRY_SHARE,
    dry_days: DRY_DAYS.1,
    of_days: DRY_DAYS.0,
    asleep_days: ASLEEP_DAYS,
    rain_mm: WAKING_RAIN.0,
    rain_days: WAKING_RAIN.1,
    mild_days: MILD_DAYS,
};

/// Highest air temperature of a day, °C, that counts nothing and all of a day of heat.
const HEAT_C: (f64, f64) = (24.0, 32.0);

/// A day that the ledger reads.
#[derive(Debug, Clone, Copy)]
pub struct Read<'a> {
    /// How the zone was watered.
    pub regime: Regime,
    /// Total available water.
    pub taw: Depth,
    /// The balance.
    pub balance: &'a DayBalance,
    /// The weather.
    pub weather: &'a DailyWeather,
}

/// Kept days of a zone with the weather of each; days without weather are left out.
pub fn read<'a>(
    days: &'a [PastDay],
    weather: &'a [DailyWeather],
) -> impl Iterator<Item = Read<'a>> {
    let on = |date: Date| {
        let at = weather.partition_point(|day| day.date < date);
        weather.get(at).filter(|day| day.date == date)
    };
    days.iter().filter_map(move |day| {
        Some(Read {
            regime: day.regime,
            taw: day.taw,
            balance: &day.balance,
            weather: on(day.date)?,
        })
    })
}

/// When crowns are watered next.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct CrownsDue {
    /// Net depth.
    pub depth_mm: Depth,
    /// Days from one wetting to the next.
    pub every_days: u8,
    /// The day on which it is due, if no rain comes before.
    pub due: Date,
}

/// How long dormant turf still lives.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Safety {
    /// Days of heat that the grass usually survives from a wetting on, in deep loam.
    pub grass_days: u16,
    /// The share of them that the zone's storage leaves, 0.4 to 1: ledge, sand and an inch of topsoil die first.
    #[serde(default = "whole")]
    pub storage_share: f64,
    /// Days of heat since: a day of 32 °C or more counts whole, one below 24 °C not at all.
    pub spent_days: f64,
    /// What is left; below 0: longer than is usually survived.
    pub left_days: f64,
}

const fn whole() -> f64 {
    1.0
}

/// The least share of its grass's days that a zone survives, however little it stores (common practice, no source).
const LEAST_STORAGE_SHARE: f64 = 0.4;

/// The share of its grass's days of heat that a zone survives: its storage beside that of a loam with the grass's middle roots (common practice, no source).
#[must_use]
pub fn storage_share(grass: Grass, taw: Depth) -> f64 {
    let [_, roots_mm, _] = grass.profile().root_depth_mm;
    let of_loam = Texture::Loam.available_mm_per_mm() * roots_mm;
    (taw.mm() / of_loam).clamp(LEAST_STORAGE_SHARE, 1.0)
}

/// Days of heat that a zone usually survives from a wetting on.
#[must_use]
pub fn survived_days(grass: Grass, taw: Depth) -> f64 {
    f64::from(grass.profile().dormancy_days) * storage_share(grass, taw)
}

/// How near dormant turf is to waking; all is counted since it was let go.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Waking {
    /// Days that it has slept, the next one not among them.
    pub asleep_days: i32,
    /// Rain of the last ten days.
    pub rain_mm: Depth,
    /// Mild days running.
    pub mild_days: u8,
}

/// What is proposed for the next day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "proposes", rename_all = "snake_case")]
pub enum Proposes {
    /// It falls asleep: let it go.
    LetGo {
        /// Dry days of the last nine.
        dry_days: u8,
    },
    /// It can wake.
    Wake {
        /// What it goes by.
        #[serde(flatten)]
        by: Waking,
    },
}

impl Proposes {
    /// The regime that it asks for.
    #[must_use]
    pub const fn regime(&self) -> Regime {
        match self {
            Self::LetGo { .. } => Regime::Dormant,
            Self::Wake { .. } => Regime::Recovering,
        }
    }
}

/// A day of the ledger, at its end.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = DormancyDay)]
pub struct Day {
    /// The day.
    pub date: Date,
    /// How the zone is watered.
    pub regime: Regime,
    /// Since when it is so; `None`: always.
    pub since: Option<Date>,
    /// Depletion as a share of TAW.
    pub used: f64,
    /// Of the last nine days those with more than nine tenths of TAW used, since the regime began.
    pub dry_days: u8,
    /// The last day on which crowns were wetted, as far as is known.
    pub wetted: Option<Date>,
    /// Of dormant turf: until when it lives, and how near it is to waking.
    pub asleep: Option<Asleep>,
    /// What is proposed for the next day.
    pub proposes: Option<Proposes>,
    /// How often it has fallen asleep in this calendar year.
    pub sleeps: u8,
    /// Days of heat since crowns were last wetted, or since days are read.
    pub spent_days: f64,
    /// Whether it was mild: warm enough for its grass to grow, and not hot.
    pub is_mild: bool,
}

/// How dormant turf stands.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Asleep {
    /// When its crowns are watered next.
    pub crowns: CrownsDue,
    /// The same if they were watered the other way: light for seldom, seldom for light.
    pub other_way: CrownsDue,
    /// How long it still lives.
    pub safety: Safety,
    /// How near it is to waking.
    pub waking: Waking,
}

impl CrownsDue {
    /// Of a zone, by when its crowns were last wetted; not before `first`.
    fn of(zone: &Zone, wetted: Option<Date>, first: Date) -> Self {
        let crowns = Crowns::of(zone);
        Self {
            depth_mm: crowns.depth,
            every_days: crowns.every_days,
            due: crowns.due(wetted).unwrap_or(first).max(first),
        }
    }
}

impl Asleep {
    /// Of a zone that was let go on a day, as it stands before another; `known`: what is known of it by then.
    fn of(then: &Stretch, since: Option<Date>, before: Date, known: &Known) -> Self {
        let (zone, taw) = (&then.zone, then.model.taw);
        let other = Zone {
            crown_watering: match zone.crown_watering {
                CrownWatering::Seldom => CrownWatering::Light,
                CrownWatering::Light => CrownWatering::Seldom,
            },
            ..zone.clone()
        };
        Self {
            crowns: CrownsDue::of(zone, known.wetted, before),
            other_way: CrownsDue::of(&other, known.wetted, before),
            safety: Safety {
                grass_days: zone.grass.profile().dormancy_days,
                storage_share: storage_share(zone.grass, taw),
                spent_days: known.spent_days,
                left_days: survived_days(zone.grass, taw) - known.spent_days,
            },
            waking: Waking {
                asleep_days: (before - since.unwrap_or(known.since)).get_days(),
                rain_mm: known.rain,
                mild_days: known.mild_days,
            },
        }
    }
}

/// What is known of a zone at a day's end.
struct Known {
    /// Since when the regime holds, as far as days were read.
    since: Date,
    wetted: Option<Date>,
    spent_days: f64,
    /// Rain of the last ten days, and mild days running, since the regime began.
    rain: Depth,
    mild_days: u8,
}

/// How a zone that is dormant stands on the morning of a day, by the last day of its ledger: it may have been let go since.
#[must_use]
pub fn this_morning(history: &ZoneHistory, last: &Day, today: Date) -> Option<Asleep> {
    let then = history.on(today);
    if then.zone.regime != Regime::Dormant {
        return None;
    }
    if let Some(asleep) = last
        .asleep
        .filter(|_| last.date.tomorrow().is_ok_and(|next| next == today))
    {
        return Some(asleep);
    }
    let since = history.holds_since("regime", today);
    let known = Known {
        since: since.unwrap_or(last.date),
        wetted: last.wetted,
        spent_days: last.spent_days,
        rain: last
            .asleep
            .map_or(Depth::ZERO, |asleep| asleep.waking.rain_mm),
        mild_days: last.asleep.map_or(0, |asleep| asleep.waking.mild_days),
    };
    Some(Asleep::of(then, since, today, &known))
}

impl Day {
    /// What is proposed of a zone that is in a regime since: nothing that it is already.
    #[must_use]
    pub fn proposes_beside(&self, regime: Regime) -> Option<Proposes> {
        self.proposes.filter(|proposes| proposes.regime() != regime)
    }
}

/// What is carried from day to day.
struct Going<'a> {
    history: &'a ZoneHistory,
    lately: Lately,
    /// Since when the regime holds, as far as it was read.
    regime: Option<(Regime, Date)>,
    /// The newest days, at most ten, the last one newest: dry, rain.
    days: VecDeque<(bool, Depth)>,
    mild: u8,
    /// Days of heat since the last wetting, or since it was let go.
    spent: f64,
    sleeps: (i16, u8),
}

/// The ledger of a zone over days that follow one another.
#[must_use]
pub fn ledger<'a>(history: &ZoneHistory, days: impl IntoIterator<Item = Read<'a>>) -> Vec<Day> {
    let mut going: Option<Going> = None;
    let mut ledger = Vec::new();
    for read in days {
        let then = history.on(read.weather.date);
        let going = going.get_or_insert_with(|| Going {
            history,
            lately: Lately::new(Crowns::of(&then.zone).depth),
            regime: None,
            days: VecDeque::new(),
            mild: 0,
            spent: 0.0,
            sleeps: (0, 0),
        });
        ledger.push(going.day(&read));
    }
    ledger
}

/// Share of a day of heat that a day counts for; without its temperature all.
fn heat(weather: &DailyWeather) -> f64 {
    let (none, all) = HEAT_C;
    let warmth = |max: f64| ((max - none) / (all - none)).clamp(0.0, 1.0);
    weather.tmax_c.map_or(1.0, warmth)
}

/// Whether a day lets turf of a season wake.
fn is_mild(season: Season, weather: &DailyWeather) -> bool {
    let (low, high) = match season {
        Season::Cool => (12.0, 29.0),
        Season::Warm => (20.0, 38.0),
    };
    weather
        .tmax_c
        .is_some_and(|max| (low..=high).contains(&max))
}

impl Going<'_> {
    fn day(&mut self, read: &Read) -> Day {
        let date = read.weather.date;
        let then = self.history.on(date);
        let season = then.model.season;
        let is_new = self.regime.is_none_or(|(regime, _)| regime != read.regime);
        if date.year() != self.sleeps.0 {
            self.sleeps = (date.year(), 0);
        }
        if is_new {
            self.regime = Some((read.regime, date));
            self.days.clear();
            self.mild = 0;
            self.sleeps.1 += u8::from(read.regime == Regime::Dormant);
        }
        let before = self.lately.wetted;
        self.lately.water(date, &read.balance.irrigation);
        self.lately.rain(date, read.balance.effective_rain);
        let was_wetted = self.lately.wetted != before;
        self.spent = if was_wetted {
            0.0
        } else {
            self.spent + heat(read.weather)
        };

        let used = read.balance.end / read.taw;
        if self.days.len() > DRY_DAYS.0 {
            self.days.pop_front();
        }
        // Turf that cold keeps from growing does not fall asleep.
        let is_dry = used > DRY_SHARE && !then.model.is_cold_dormant(read.weather);
        self.days.push_back((is_dry, read.balance.rain));
        let is_mild = is_mild(season, read.weather);
        self.mild = if is_mild {
            self.mild.saturating_add(1)
        } else {
            0
        };

        let newest = |count: usize| self.days.iter().rev().take(count);
        let dry = newest(DRY_DAYS.0).filter(|(dry, _)| *dry).count();
        let dry_days = u8::try_from(dry).unwrap_or(u8::MAX);
        let since = self.history.holds_since("regime", date);
        let tomorrow = date.tomorrow().unwrap_or(date);
        let asleep = (read.regime == Regime::Dormant).then(|| {
            let known = Known {
                since: self.regime.map_or(date, |(_, first)| first),
                wetted: self.lately.wetted,
                spent_days: self.spent,
                rain: newest(WAKING_RAIN.1).map(|(_, rain)| *rain).sum(),
                mild_days: self.mild,
            };
            Asleep::of(then, since, tomorrow, &known)
        });
        let wakes = |waking: &Waking| {
            waking.asleep_days >= ASLEEP_DAYS
                && waking.rain_mm >= WAKING_RAIN.0
                && waking.mild_days >= MILD_DAYS
        };
        let waking = asleep.map(|asleep| asleep.waking).filter(wakes);
        let falls_asleep = matches!(read.regime, Regime::Established | Regime::Recovering)
            && season == Season::Cool
            && then.zone.plants.is_turf()
            && dry_days >= DRY_DAYS.1;
        let falls_asleep = falls_asleep.then_some(Proposes::LetGo { dry_days });
        Day {
            date,
            regime: read.regime,
            since,
            used,
            dry_days,
            wetted: self.lately.wetted,
            asleep,
            proposes: waking.map(|by| Proposes::Wake { by }).or(falls_asleep),
            spent_days: self.spent,
            is_mild,
            sleeps: self.sleeps.1,
        }
    }
}
