//! New grass on its way: when each stage came or is to come, how it is weaned, fed, mown and kept from harm until it is a lawn.

use jiff::ToSpan;
use jiff::civil::Date;
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::history::ZoneHistory;
use crate::engine::seedling::{Firsts, Seedling, Stage};
use crate::new_grass::season::LOOKED_DAYS;
use crate::quantity::Depth;
use crate::record::past::PastDay;
use crate::site::{NewGrassAs, SiteDocument, Zone};
use crate::spread::Spread;
use crate::weather::{DailyWeather, past_years};

/// Days from germination to weed killers, and from the first mowing to the second: six weeks from germination, or two mowings, are both heard; ours is the later (common
/// practice, no source).
const FROM_GERMINATION_DAYS: i64 = 42;
const TO_SECOND_MOWING_DAYS: i64 = 10;
/// Warmth to come up of seed that is quick, °C·d: it is fed when it is sown, others one to two weeks later (common practice, no source).
const QUICK_C_D: f64 = 105.0;
const SLOW_FED_AFTER_DAYS: i64 = 10;
/// Weeks until it is fed again where nothing of the feed is slow-release, and how many more where half of it is: six to eight (common practice, no source).
const FED_AGAIN_WEEKS: f64 = 4.0;
const HALF_SLOW_MORE_WEEKS: f64 = 3.0;
/// Most of a blade that a mowing takes.
const TAKEN: f64 = 1.0 / 3.0;

/// The first day on which weed killers are allowed by our rule.
#[must_use]
pub fn weed_killers_clear(up: Date, mown: Date) -> Date {
    let weeks = up.saturating_add(FROM_GERMINATION_DAYS.days());
    weeks.max(mown.saturating_add(TO_SECOND_MOWING_DAYS.days()))
}

/// When a stage begins.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "when", rename_all = "snake_case")]
#[schema(as = StageWhen)]
pub enum When {
    /// It began.
    Began {
        /// The day.
        on: Date,
        /// Whether somebody saw it; else by warmth.
        seen: bool,
    },
    /// It is to come.
    Comes {
        /// By the forecast, then as in past years.
        by: Spread<Date>,
    },
    /// It is to come, and no past year tells when.
    NotKnown,
}

impl When {
    /// Its day, or the middle of past years.
    #[must_use]
    pub const fn day(&self) -> Option<Date> {
        match self {
            Self::Began { on, .. } => Some(*on),
            Self::Comes { by } => Some(by.middle),
            Self::NotKnown => None,
        }
    }
}

/// A stage with its beginning.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct StageDay {
    /// The stage.
    pub stage: Stage,
    /// When.
    #[serde(flatten)]
    pub when: When,
}

/// A feeding.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct Feed {
    /// The day.
    pub on: Date,
    /// Whether it is the starter.
    pub starter: bool,
}

/// Everything of a zone's new grass.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[schema(as = NewGrassStages)]
pub struct Stages {
    /// When it was sown.
    pub sown_on: Date,
    /// What it was made of.
    pub made: NewGrassAs,
    /// How far it is.
    pub stage: Stage,
    /// Share of the ground that it covers.
    pub cover: f64,
    /// Warmth since it was sown, °C·d.
    pub warmth_c_d: f64,
    /// The stages, in order.
    pub stages: Vec<StageDay>,
    /// Feedings in order.
    pub feeds: Vec<Feed>,
    /// Share of the feed that is slow-release, %.
    pub slow_pct: f64,
    /// Height to which it is mown first.
    #[schema(value_type = f64)]
    pub mow_at_mm: Depth,
    /// Height of the blades at which that is due: it takes a third of them.
    #[schema(value_type = f64)]
    pub mow_from_mm: Depth,
    /// The first day on which weed killers are allowed by our rule; absent: not known yet.
    pub weed_killers_from: Option<Date>,
}

/// How a zone's new grass stands. `began`: the new grass on each morning since it was sown, in time order; `ahead`: today and the days after it by the forecast; `record`: the site's
/// past; `slow_pct`: share of the feed that is slow-release.
#[must_use]
pub fn stages(
    grass: Grass,
    began: &[(Date, Seedling)],
    ahead: &[DailyWeather],
    record: &[DailyWeather],
    slow_pct: f64,
) -> Option<Stages> {
    let (today, now) = *began.last()?;
    let comes = coming(grass, &now, today, ahead, record);
    let first = |stage: Stage| {
        // The last time that it was at it: what was seen later than the warmth said sets it back. A stage that was passed over began with the next.
        let at = began.iter().rfind(|(_, seedling)| seedling.stage == stage);
        let beyond = || began.iter().find(|(_, seedling)| seedling.stage > stage);
        at.or_else(beyond).map(|(on, seedling)| When::Began {
            on: seedling.since.min(*on),
            seen: seedling.seen.is_some_and(|seen| seen >= stage),
        })
    };
    let all = Stage::ALL.into_iter().filter(|stage| *stage > Stage::NotUp);
    let days: Vec<StageDay> = all
        .map(|stage| StageDay {
            stage,
            when: first(stage).unwrap_or_else(|| {
                let by = Spread::of_days(comes.iter().filter_map(|of| of.of(stage)).collect());
                by.map_or(When::NotKnown, |by| When::Comes { by })
            }),
        })
        .collect();
    let day = |stage: Stage| days.iter().find(|d| d.stage == stage)?.when.day();
    let (up, mown) = (day(Stage::Up), day(Stage::Established));
    let profile = grass.profile();
    // High: the upper end of the grass's own range.
    let mow_at = Depth::from_mm(profile.mowing_mm[1]);
    Some(Stages {
        sown_on: now.sown_on,
        stage: now.stage,
        cover: now.cover(grass),
        warmth_c_d: now.warmth_c_d,
        feeds: feeds(grass, now.made, now.sown_on, slow_pct),
        made: now.made,
        slow_pct,
        mow_at_mm: mow_at,
        mow_from_mm: mow_at / (1.0 - TAKEN),
        weed_killers_from: up.zip(mown).map(|(up, mown)| weed_killers_clear(up, mown)),
        stages: days,
    })
}

/// The first days of the stages to come: the forecast's days first, then those of each past year.
fn coming(
    grass: Grass,
    now: &Seedling,
    today: Date,
    ahead: &[DailyWeather],
    record: &[DailyWeather],
) -> Vec<Firsts> {
    let to = today.saturating_add((LOOKED_DAYS - 1).days());
    let years = past_years::on_days(record, today..=to).map(|(_, mut days)| {
        for known in ahead.iter().filter(|day| day.method.is_some()) {
            if let Some(day) = days.iter_mut().find(|day| day.date == known.date) {
                *day = *known;
            }
        }
        days
    });
    years.map(|days| now.course(&days, grass)).collect()
}

/// Feedings: the starter, and the next by how much of it is slow-release. What comes grown is fed at once.
#[must_use]
pub fn feeds(grass: Grass, made: NewGrassAs, sown_on: Date, slow_pct: f64) -> Vec<Feed> {
    let is_quick = grass.planted().up_c_d <= QUICK_C_D;
    let starter = if is_quick || made.is_turf() {
        sown_on
    } else {
        sown_on.saturating_add(SLOW_FED_AFTER_DAYS.days())
    };
    let weeks = FED_AGAIN_WEEKS + HALF_SLOW_MORE_WEEKS * slow_pct.clamp(0.0, 100.0) / 50.0;
    #[allow(clippy::cast_possible_truncation)] // at most ten weeks
    let days = (weeks * 7.0).round() as i64;
    vec![
        Feed {
            on: starter,
            starter: true,
        },
        Feed {
            on: starter.saturating_add(days.days()),
            starter: false,
        },
    ]
}

/// The morning from which the new grass of a zone is a lawn ([`ZoneHistory::lawn_from`]), by its ledger up to yesterday.
#[must_use]
pub fn lawn_from(
    document: &SiteDocument,
    zone: &Zone,
    days: &[PastDay],
    today: Date,
) -> Option<Date> {
    let (_, now) = mornings(document, zone, days, today).pop()?;
    ZoneHistory::of(document, zone).lawn_from(today, &now)
}

/// The new grass of a zone on each morning since it was sown, today the last, by its ledger up to yesterday; none: nothing is sown.
#[must_use]
pub fn mornings(
    document: &SiteDocument,
    zone: &Zone,
    days: &[PastDay],
    today: Date,
) -> Vec<(Date, Seedling)> {
    let history = ZoneHistory::of(document, zone);
    let before = days.last().map(|day| (day.date, day.seedling));
    let Some(now) = history.seedling(today, before) else {
        return Vec::new();
    };
    let seen = zone.seen.iter().filter(|seen| seen.date == today);
    let now = now.seen(
        seen.map(|seen| &seen.seen),
        history.on(today).zone.grass,
        today,
    );
    let earlier = days.iter().filter_map(|day| {
        let morning = day.date.saturating_add(1.day());
        let seedling = day.seedling?;
        (morning < today && seedling.sown_on == now.sown_on).then_some((morning, seedling))
    });
    earlier.chain([(today, now)]).collect()
}
