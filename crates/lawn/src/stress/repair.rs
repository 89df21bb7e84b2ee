//! Patches that a drought left: dead or alive, and what closes them by when.

use jiff::ToSpan;
use jiff::civil::Date;
use science::sowing::Seed;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::days::in_year;
use crate::quantity::Area;
use crate::weather::DailyWeather;
use crate::weather::frost::{Autumn, autumn_of, autumns};

/// Days that new grass needs at least before hard frost (common practice, no source).
pub const BEFORE_FROST: i64 = 45;
/// One past autumn of so many may have had its frost earlier than is assumed (no source).
pub const ONE_OF: usize = 5;
/// Days from spraying weeds to sowing where nobody has read the label, which decides (common practice, no source).
pub const SPRAY_DAYS: i64 = 21;
/// Largest gap that spreading grass closes by itself within a season, m² (no source).
const CLOSES_M2: f64 = 1.0;
/// Plugs are set so far apart, m (common practice, no source).
const PLUG_SPACING_M: f64 = 0.3;
/// Work of loosening, sowing and firming a square metre by hand, min (no source).
pub const WORK_MIN_M2: f64 = 5.0;

/// What a look at a patch tells: `holds` – a handful that was pulled at, `alive` – its crowns.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = PatchState)]
pub enum State {
    /// Nobody looked closely.
    Unjudged,
    /// It lives.
    Alive,
    /// It is dead.
    Dead,
    /// Its crowns live, but it comes away: grubs, or shallow roots.
    Loose,
}

impl State {
    /// By a tug and the crowns, where they were looked at.
    #[must_use]
    pub const fn of(holds: Option<bool>, alive: Option<bool>) -> Self {
        match (holds, alive) {
            (_, Some(false)) | (Some(false), None) => Self::Dead,
            (Some(false), Some(true)) => Self::Loose,
            (_, Some(true)) => Self::Alive,
            (Some(true) | None, None) => Self::Unjudged,
        }
    }
}

/// A look at a patch.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Look {
    /// The day.
    pub date: Date,
    /// What it tells.
    pub state: State,
}

/// The last of the looks at a patch, in time order, that tells something; where none does, the last.
#[must_use]
pub fn telling(looks: &[Look]) -> Option<Look> {
    let tells = |look: &&Look| look.state != State::Unjudged;
    looks.iter().rev().find(tells).or(looks.last()).copied()
}

/// Whether weeds are sprayed before it is sown.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "sow", rename_all = "snake_case")]
pub enum Sow {
    /// There is time to spray first.
    SprayFirst {
        /// The first day of sowing after spraying today; the label may ask for more.
        from: Date,
    },
    /// Spraying would cost the window: sow now.
    Now,
    /// It is too late this year: in spring, or sod.
    TooLate,
    /// No past autumn is known: ask locally until when.
    NotKnown,
    /// No hard frost on record ends the season.
    NoFrost,
}

/// What closes a dead patch.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct Repair {
    /// Whether the grass closes it by itself, fed and watered.
    pub closes_itself: bool,
    /// Seed, kg; `None`: it is not sown, or closes by itself.
    pub seed_kg: Option<f64>,
    /// Plugs, of a grass without seed.
    pub plugs: Option<u32>,
    /// Work, minutes.
    pub work_min: f64,
}

/// What closes a dead patch of a grass.
#[must_use]
pub fn repair(grass: Grass, area: Area) -> Repair {
    let closes_itself = grass.spreads() && area.m2() <= CLOSES_M2;
    let seed = grass.seed().filter(|_| !closes_itself);
    let plugs = (!closes_itself && seed.is_none()).then(|| plugs(area, PLUG_SPACING_M));
    Repair {
        closes_itself,
        seed_kg: seed.map(|seed| seed_kg(&seed, area)),
        plugs,
        work_min: if closes_itself {
            0.0
        } else {
            WORK_MIN_M2 * area.m2()
        },
    }
}

/// Seed for bare ground of an area, kg.
#[must_use]
pub fn seed_kg(seed: &Seed, area: Area) -> f64 {
    seed.rate_g_m2 * area.m2() / 1000.0
}

/// Plugs on an area, set in a square grid.
///
/// # Example
/// A thousand square feet at a foot from plug to plug take a thousand.
/// ```
/// use lawn::{stress::repair::plugs, quantity::Area};
/// assert_eq!(plugs(Area::from_m2(92.903_04), 0.3048), 1000);
/// ```
#[must_use]
pub fn plugs(area: Area, spacing_m: f64) -> u32 {
    let count = (area.m2() / (spacing_m * spacing_m) - 1e-6).ceil();
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // saturates
    let count = count as u32;
    count
}

/// Until when a grass is sown this year.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(tag = "sow_by", rename_all = "snake_case")]
pub enum SowBy {
    /// At the latest.
    Day {
        /// The day.
        date: Date,
        /// How many past autumns it goes by.
        autumns: usize,
    },
    /// No hard frost ends the season in any of the record's autumns.
    NoFrost,
    /// The record has no whole past autumn.
    NotKnown,
}

/// The last day in an autumn on which seed still reaches its first mowing, and has 45 days, before the first hard frost.
fn last_in(seed: &Seed, autumn: &Autumn) -> Option<Date> {
    let days = autumn.until_frost?;
    let frost = days.last()?.date;
    let mut warmth = 0.0;
    let grown = days.iter().rev().find(|day| {
        warmth += match (day.tmin_c, day.tmax_c) {
            (Some(min), Some(max)) => seed.warmth(min, max),
            _ => 0.0,
        };
        warmth >= seed.mown_c_d
    });
    Some(grown?.date.min(frost.saturating_sub(BEFORE_FROST.days())))
}

/// Until when a grass is sown in the autumn that is on or comes, so that it stands before the first hard frost in four of five of the record's autumns.
#[must_use]
pub fn sow_by(seed: &Seed, latitude_deg: f64, record: &[DailyWeather], today: Date) -> SowBy {
    let this = autumn_of(latitude_deg, today);
    let known: Vec<Autumn> = autumns(latitude_deg, record).collect();
    if known.is_empty() {
        return SowBy::NotKnown;
    }
    let moved = |autumn: &Autumn| {
        let last = last_in(seed, autumn)?;
        in_year(
            last,
            last.year().saturating_add(this.saturating_sub(autumn.year)),
        )
    };
    let mut lasts: Vec<Date> = known.iter().filter_map(moved).collect();
    lasts.sort_unstable();
    // Autumns without frost stand after all others.
    lasts
        .get(known.len() / ONE_OF)
        .map_or(SowBy::NoFrost, |date| SowBy::Day {
            date: *date,
            autumns: known.len(),
        })
}

/// How a patch that is dead today is sown.
#[must_use]
pub fn sow(by: SowBy, today: Date) -> Sow {
    let sprayed = today.saturating_add(SPRAY_DAYS.days());
    match by {
        SowBy::Day { date, .. } if today > date => Sow::TooLate,
        SowBy::Day { date, .. } if sprayed > date => Sow::Now,
        SowBy::Day { .. } => Sow::SprayFirst { from: sprayed },
        SowBy::NoFrost => Sow::NoFrost,
        SowBy::NotKnown => Sow::NotKnown,
    }
}
