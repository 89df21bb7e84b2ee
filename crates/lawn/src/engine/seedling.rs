//! How far new grass has come: by the warmth since it was sown, and by what was seen of it, which counts before the warmth.

use jiff::ToSpan;
use jiff::civil::Date;
use science::sowing::{MOWN_COVER, Seed};
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::seen::{Grown, Seen};
use crate::site::{NewGrassAs, Regime, Zone};
use crate::weather::DailyWeather;

/// Share of the ground that a lawn covers which is sown into.
const STANDING_COVER: f64 = 0.5;

/// Dry days running from which on a stand is thin: a week thins it without killing it (common practice, no source).
pub const THIN_DRY_DAYS: u32 = 7;

/// Days from being up to the first mowing of seed at the least, whatever the warmth (common practice, no source).
const MOWN_AFTER_UP_DAYS: i64 = 18;

/// Warmth from which on what fills in is watered every other day, °C·d: half way to the first mowing (common practice, no source).
const fn seldom_c_d(seed: &Seed) -> f64 {
    f64::midpoint(seed.filling_c_d, seed.mown_c_d)
}

/// How far new grass has come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stage {
    /// Nothing is to be seen yet: the surface must not dry out.
    NotUp,
    /// First blades stand: the surface may dry a little between waterings.
    Up,
    /// Half of the ground is covered: watered once a day, then every other day.
    FillingIn,
    /// Mown once: watered as turf, with young roots.
    Established,
}

impl Stage {
    /// All of them, in order.
    pub const ALL: [Self; 4] = [Self::NotUp, Self::Up, Self::FillingIn, Self::Established];

    /// How a zone at this stage is watered.
    #[must_use]
    pub const fn regime(self) -> Regime {
        match self {
            Self::NotUp | Self::Up => Regime::Seedbed,
            Self::FillingIn => Regime::FillingIn,
            Self::Established => Regime::Established,
        }
    }

    /// The warmth from sowing from which on a grass is at it, °C·d.
    #[must_use]
    pub const fn begins_c_d(self, seed: &Seed) -> f64 {
        match self {
            Self::NotUp => 0.0,
            Self::Up => seed.up_c_d,
            Self::FillingIn => seed.filling_c_d,
            Self::Established => seed.mown_c_d,
        }
    }

    fn of(seed: &Seed, warmth_c_d: f64) -> Self {
        let reached = |stage: &&Self| stage.begins_c_d(seed) <= warmth_c_d;
        Self::ALL
            .iter()
            .rev()
            .find(reached)
            .copied()
            .unwrap_or(Self::NotUp)
    }
}

/// The first mornings on which new grass is so far; `None`: it does not come so far in the days that are looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Firsts {
    /// It is up.
    pub up: Option<Date>,
    /// It fills in.
    pub filling: Option<Date>,
    /// It is watered every other day.
    pub seldom: Option<Date>,
    /// It is mown for the first time.
    pub mown: Option<Date>,
}

impl Firsts {
    /// Takes in how far it is on a morning.
    pub fn see(&mut self, seedling: &Seedling, grass: Grass, morning: Date) {
        let is_seldom = seedling.every_days(grass) > 1;
        for (reached, first) in [
            (seedling.stage >= Stage::Up, &mut self.up),
            (seedling.stage >= Stage::FillingIn, &mut self.filling),
            (is_seldom, &mut self.seldom),
            (seedling.stage >= Stage::Established, &mut self.mown),
        ] {
            if reached {
                first.get_or_insert(morning);
            }
        }
    }

    /// That of a stage.
    #[must_use]
    pub const fn of(&self, stage: Stage) -> Option<Date> {
        match stage {
            Stage::NotUp => None,
            Stage::Up => self.up,
            Stage::FillingIn => self.filling,
            Stage::Established => self.mown,
        }
    }
}

/// New grass on its way.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Seedling {
    /// The day on which it was sown, or planted.
    pub sown_on: Date,
    /// Warmth since then as far as it counts, °C·d: what was seen sets it.
    pub warmth_c_d: f64,
    /// How far it has come.
    pub stage: Stage,
    /// The first day of that stage.
    pub since: Date,
    /// The first day on which it was up; `None`: not yet, or nobody knows.
    #[serde(default)]
    pub up_since: Option<Date>,
    /// The furthest stage that was seen.
    pub seen: Option<Stage>,
    /// What it was made of.
    #[serde(default)]
    pub made: NewGrassAs,
    /// Days running, up to yesterday, on which it was too dry.
    #[serde(default)]
    pub dry_running: u32,
    /// Whether so many were dry that it may have died: warmth says nothing of it then, until somebody has seen how it is.
    #[serde(default)]
    pub is_in_doubt: bool,
}

impl Seedling {
    /// What is sown in a zone as it is from a day on; `None`: nothing is, its grass is rooted. `said`: the day from which it is said to be new grass, where it was not always.
    #[must_use]
    pub fn begins(zone: &Zone, from: Date, said: Option<Date>) -> Option<Self> {
        let stage = match zone.regime {
            Regime::Seedbed if zone.new_grass_as.is_turf() => Stage::FillingIn,
            Regime::Seedbed => Stage::NotUp,
            Regime::FillingIn => Stage::FillingIn,
            _ => return None,
        };
        Some(Self {
            sown_on: zone.sown_on.or(said).or(zone.active_from).unwrap_or(from),
            ..Self::at(stage, from, zone.grass, zone.new_grass_as)
        })
    }

    /// New grass that begins at a stage on a day.
    #[must_use]
    pub fn at(stage: Stage, on: Date, grass: Grass, made: NewGrassAs) -> Self {
        Self {
            sown_on: on,
            warmth_c_d: stage.begins_c_d(&grass.planted()),
            stage,
            since: on,
            up_since: (stage == Stage::Up).then_some(on),
            seen: None,
            made,
            dry_running: 0,
            is_in_doubt: false,
        }
    }

    /// The first days of what is to come of it, if it lives, in weather of this day and those after it.
    #[must_use]
    pub fn course(self, days: &[DailyWeather], grass: Grass) -> Firsts {
        let mut firsts = Firsts::default();
        let mut seedling = Self {
            is_in_doubt: false,
            ..self
        };
        for day in days {
            seedling = seedling.after(day, grass, false);
            let morning = day.date.tomorrow().unwrap_or(day.date);
            firsts.see(&seedling, grass, morning);
            if firsts.mown.is_some() {
                break;
            }
        }
        firsts
    }

    /// As it stands on the morning of a day by what is seen that day.
    #[must_use]
    pub fn seen<'a>(
        self,
        seen: impl IntoIterator<Item = &'a Seen>,
        grass: Grass,
        date: Date,
    ) -> Self {
        let (mut told, mut holds) = (None, None);
        for seen in seen {
            match seen {
                Seen::Grown { grown } => told = told.max(Some(grown.stage())),
                Seen::Tug { holds: held } => holds = Some(*held),
                _ => {}
            }
        }
        let tugged = self.tugged(holds, grass);
        match told {
            // The day on which a stage was first seen is its first, whatever the warmth said.
            Some(stage) if Some(stage) > self.seen => Self {
                warmth_c_d: stage.begins_c_d(&grass.planted()),
                stage,
                since: date,
                up_since: self.up_since.or((stage == Stage::Up).then_some(date)),
                seen: Some(stage),
                dry_running: 0,
                is_in_doubt: false,
                ..self
            },
            // It lives as it stood.
            Some(stage) if stage == self.stage => Self {
                dry_running: 0,
                is_in_doubt: false,
                ..tugged
            },
            _ => tugged,
        }
    }

    /// Sod and plugs that were tugged at: what holds is weaned, what comes away is soaked each day again.
    fn tugged(self, holds: Option<bool>, grass: Grass) -> Self {
        let seed = grass.planted();
        let warmth_c_d = match holds {
            Some(true) => self.warmth_c_d.max(seldom_c_d(&seed)),
            Some(false) => Stage::FillingIn.begins_c_d(&seed),
            None => return self,
        };
        if self.made.is_turf() && self.stage == Stage::FillingIn {
            Self { warmth_c_d, ..self }
        } else {
            self
        }
    }

    /// The morning after a day: its warmth is added, unless it is in doubt. A day before it was sown adds nothing. `was_dry`: whether it was too dry that day.
    #[must_use]
    pub fn after(self, day: &DailyWeather, grass: Grass, was_dry: bool) -> Self {
        if day.date < self.sown_on {
            return self;
        }
        let dry_running = if was_dry { self.dry_running + 1 } else { 0 };
        let is_young = self.stage < Stage::Established;
        let is_in_doubt = is_young && (self.is_in_doubt || dry_running >= THIN_DRY_DAYS);
        if is_in_doubt {
            return Self {
                dry_running,
                is_in_doubt,
                ..self
            };
        }
        let seed = grass.planted();
        let warmth = match (day.tmin_c, day.tmax_c, day.smoothed_c) {
            (Some(tmin_c), Some(tmax_c), _) => seed.warmth(tmin_c, tmax_c),
            (_, _, Some(mean_c)) => seed.warmth(mean_c, mean_c),
            _ => 0.0,
        };
        let warmth_c_d = self.warmth_c_d + warmth;
        let morning = day.date.tomorrow().unwrap_or(day.date);
        let stage = match Stage::of(&seed, warmth_c_d) {
            // However warm it is, blades of seed need their days.
            Stage::Established if self.is_too_young_to_mow(morning) => Stage::FillingIn,
            stage => stage,
        };
        let is_up = stage >= Stage::Up && self.stage < Stage::Up;
        Self {
            warmth_c_d,
            stage,
            dry_running,
            up_since: self.up_since.or(is_up.then_some(morning)),
            since: if stage == self.stage {
                self.since
            } else {
                morning
            },
            ..self
        }
    }

    /// Whether it has not been up for so long that it may be mown.
    fn is_too_young_to_mow(&self, morning: Date) -> bool {
        let may_be = |up: Date| up.saturating_add(MOWN_AFTER_UP_DAYS.days());
        self.stage < Stage::Established
            && !self.made.is_turf()
            && self.up_since.is_some_and(|up| morning < may_be(up))
    }

    /// Share of the ground that is covered, 0 to 0.9.
    #[must_use]
    pub fn cover(&self, grass: Grass) -> f64 {
        let grown = grass.planted().cover(self.warmth_c_d).min(MOWN_COVER);
        match self.made {
            NewGrassAs::Seed | NewGrassAs::Plugs => grown,
            NewGrassAs::Overseed => grown.max(STANDING_COVER),
            NewGrassAs::Sod => MOWN_COVER,
        }
    }

    /// Days from one watering to the next of what fills in: each day at first, every other day later.
    #[must_use]
    pub fn every_days(&self, grass: Grass) -> i32 {
        if self.warmth_c_d < seldom_c_d(&grass.planted()) {
            1
        } else {
            2
        }
    }
}

impl Grown {
    /// The stage that it shows.
    #[must_use]
    pub const fn stage(self) -> Stage {
        match self {
            Self::FirstBlades => Stage::Up,
            Self::FillingIn => Stage::FillingIn,
            Self::MownOnce => Stage::Established,
        }
    }
}
