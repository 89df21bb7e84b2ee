//! How far new grass has come: by the warmth since it was sown, and by what was seen of it, which counts before the warmth.

use jiff::civil::Date;
use science::sowing::{MOWN_COVER, Seed};
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::measure::seen::{Grown, Seen};
use crate::site::{Regime, Zone};
use crate::weather::DailyWeather;

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
    /// The furthest stage that was seen.
    pub seen: Option<Stage>,
}

impl Seedling {
    /// What is sown in a zone as it is from a day on; `None`: nothing is, its grass is rooted. `said`: the day from which it is said to be new grass, where it was not always.
    #[must_use]
    pub fn begins(zone: &Zone, from: Date, said: Option<Date>) -> Option<Self> {
        let stage = match zone.regime {
            Regime::Seedbed => Stage::NotUp,
            Regime::FillingIn => Stage::FillingIn,
            _ => return None,
        };
        Some(Self {
            sown_on: zone.sown_on.or(said).or(zone.active_from).unwrap_or(from),
            warmth_c_d: stage.begins_c_d(&zone.grass.planted()),
            stage,
            since: from,
            seen: None,
        })
    }

    /// As it stands on the morning of a day by what is seen that day.
    #[must_use]
    pub fn seen<'a>(
        self,
        seen: impl IntoIterator<Item = &'a Seen>,
        grass: Grass,
        date: Date,
    ) -> Self {
        let told = seen.into_iter().filter_map(|seen| match seen {
            Seen::Grown { grown } => Some(grown.stage()),
            _ => None,
        });
        match told.max() {
            // The day on which a stage was first seen is its first, whatever the warmth said.
            Some(stage) if Some(stage) > self.seen => Self {
                warmth_c_d: stage.begins_c_d(&grass.planted()),
                stage,
                since: date,
                seen: Some(stage),
                ..self
            },
            _ => self,
        }
    }

    /// The morning after a day: its warmth is added. A day before it was sown adds nothing.
    #[must_use]
    pub fn after(self, day: &DailyWeather, grass: Grass) -> Self {
        if day.date < self.sown_on {
            return self;
        }
        let seed = grass.planted();
        let warmth = match (day.tmin_c, day.tmax_c, day.smoothed_c) {
            (Some(tmin_c), Some(tmax_c), _) => seed.warmth(tmin_c, tmax_c),
            (_, _, Some(mean_c)) => seed.warmth(mean_c, mean_c),
            _ => 0.0,
        };
        let warmth_c_d = self.warmth_c_d + warmth;
        let stage = Stage::of(&seed, warmth_c_d);
        Self {
            warmth_c_d,
            stage,
            since: if stage == self.stage {
                self.since
            } else {
                day.date.tomorrow().unwrap_or(day.date)
            },
            ..self
        }
    }

    /// Share of the ground that it covers, 0 to 0.9.
    #[must_use]
    pub fn cover(&self, grass: Grass) -> f64 {
        grass.planted().cover(self.warmth_c_d).min(MOWN_COVER)
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
