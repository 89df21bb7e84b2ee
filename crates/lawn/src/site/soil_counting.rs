//! Which test of the soil counts on a day. As the ground is known now it was always, unless a test says from when; whether it repels water is told
//! from the day of the drops.
//!
//! Of several tests of the texture the best way counts, a laboratory before a jar before the hand, then the newest; of all others the newest. One that
//! the manager pinned counts before any. A figure that was measured or typed later than a test counts before it.

use jiff::civil::Date;
use science::soil::Texture;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

use super::standing::Standing;
use super::{Invalid, Zone};
use crate::days;
use crate::measure::hot_spot::HotSpot;
use crate::measure::outline::Point;
use crate::measure::seen::Seen;
use crate::measure::soil::{Says, SoilShares, SoilTest};
use crate::ranges;
use crate::sourced::{Source, Sourced};

/// A test of a zone's soil, as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ZoneSoilTest {
    /// The day of the test.
    pub date: Date,
    /// The day from which it holds; absent: it was always so, but for repellency, which holds from the test.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub holds_from: Option<Date>,
    /// Whether it counts.
    #[serde(default, skip_serializing_if = "Standing::is_automatic")]
    pub standing: Standing,
    /// As it was done.
    pub test: SoilTest,
}

/// What was seen of a zone on a day.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ZoneSeen {
    /// The day.
    pub date: Date,
    /// Whether it was noon or later: then the day's ET has been used already.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub after_noon: bool,
    /// Where on the zone's plan; absent: all of it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub place: Option<Point>,
    /// The kind of place that it was seen at, which dries out before the rest; absent: it holds of the zone. What is seen of such a place alone says nothing of
    /// the zone's balance.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spot: Option<HotSpot>,
    /// What it was.
    pub seen: Seen,
}

/// Most tests of a zone's soil, and most of what was seen of it.
pub const MOST_OF_A_ZONE: usize = 2000;

impl Zone {
    /// Checks what was measured and seen of its ground; `path` as in [`Zone::validate`].
    pub(super) fn validate_soil_tests(&self, path: &str) -> Result<(), Invalid> {
        for (key, n) in [
            ("soil_tests", self.soil_tests.len()),
            ("seen", self.seen.len()),
        ] {
            if n > MOST_OF_A_ZONE {
                return Err(Invalid::new(
                    format!("{path}{key}"),
                    format!("of one zone at most {MOST_OF_A_ZONE} are kept, not {n}"),
                ));
            }
        }
        for (i, kept) in self.soil_tests.iter().enumerate() {
            let at = format!("{path}soil_tests[{i}].");
            days::check(&format!("{at}date"), kept.date, days::LAST)?;
            if let Some(day) = kept.holds_from {
                days::check(&format!("{at}holds_from"), day, kept.date)?;
            }
            kept.test
                .validate()
                .map_err(|error| error.within(&format!("{at}test.")))?;
        }
        for (i, kept) in self.seen.iter().enumerate() {
            let at = format!("{path}seen[{i}].");
            days::check(&format!("{at}date"), kept.date, days::LAST)?;
            if let Some(place) = kept.place {
                Invalid::unless_within(format!("{at}place.x_m"), ranges::PLAN, place.x_m)?;
                Invalid::unless_within(format!("{at}place.y_m"), ranges::PLAN, place.y_m)?;
            }
            kept.seen
                .validate()
                .map_err(|error| error.within(&format!("{at}seen.")))?;
        }
        Ok(())
    }
}

/// What a soil test tells, and how it stands.
struct Told<'a> {
    index: usize,
    kept: &'a ZoneSoilTest,
    says: Says,
}

impl Told<'_> {
    /// From which day it counts, for the ground or for repellency.
    fn from(&self, ground: bool) -> Date {
        let usual = if ground { days::FIRST } else { self.kept.date };
        self.kept.holds_from.unwrap_or(usual)
    }

    fn rank(&self) -> (bool, u8, Date, usize) {
        let way = self.says.texture.map_or(0, |t| t.rank);
        (
            self.kept.standing == Standing::Pinned,
            way,
            self.kept.date,
            self.index,
        )
    }
}

fn told(tests: &[ZoneSoilTest]) -> Vec<Told<'_>> {
    tests
        .iter()
        .enumerate()
        .filter(|(_, kept)| kept.standing != Standing::Void)
        .map(|(index, kept)| Told {
            index,
            kept,
            says: kept.test.says(kept.date),
        })
        .collect()
}

/// Of the tests that say something and count on a day, the one with the highest rank, with what it says.
fn best<'a, T>(
    told: &'a [Told<'a>],
    on: Date,
    ground: bool,
    says: impl Fn(&'a Says) -> Option<T>,
) -> Option<(&'a Told<'a>, T)> {
    told.iter()
        .filter(|t| t.from(ground) <= on)
        .filter_map(|t| Some((t, says(&t.says)?)))
        .max_by_key(|(t, _)| t.rank())
}

/// The tests that count on a day, by what they tell: places in the zone's list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct Counting {
    /// Texture and storage.
    pub texture: Option<usize>,
    /// Intake.
    pub intake: Option<usize>,
    /// Minutes to runoff.
    pub runoff: Option<usize>,
    /// Roots and layers.
    pub roots: Option<usize>,
    /// Repellency.
    pub repellency: Option<usize>,
}

impl Counting {
    /// Whether a test counts for anything.
    #[must_use]
    pub fn counts(&self, index: usize) -> bool {
        [
            self.texture,
            self.intake,
            self.runoff,
            self.roots,
            self.repellency,
        ]
        .contains(&Some(index))
    }
}

/// Which tests of a zone's soil count on a day.
#[must_use]
pub fn counting_on(tests: &[ZoneSoilTest], on: Date) -> Counting {
    let told = told(tests);
    let index = |t: Option<&Told>| t.map(|t| t.index);
    Counting {
        texture: index(best(&told, on, true, |s| s.texture).map(|b| b.0)),
        intake: index(best(&told, on, true, |s| s.intake.as_ref()).map(|b| b.0)),
        runoff: index(best(&told, on, true, |s| s.minutes_to_runoff.as_ref()).map(|b| b.0)),
        roots: index(best(&told, on, true, |s| s.root_depth.as_ref()).map(|b| b.0)),
        repellency: index(best(&told, on, false, |s| s.repellency).map(|b| b.0)),
    }
}

/// A zone with the figures of its ground that count on each day, from its own and its tests, which it then has no more.
pub(super) fn counted(zone: &Zone, tests: &[ZoneSoilTest]) -> Zone {
    let told = told(tests);
    if told.is_empty() {
        return zone.clone();
    }
    let mut turns = zone.turns();
    turns.push(days::FIRST);
    for test in &told {
        turns.extend([true, false].map(|ground| test.from(ground)));
    }
    turns.sort_unstable();
    turns.dedup();
    let mut courses: [(&str, Vec<(Date, Value)>); 9] = [
        "soil",
        "soil_shares",
        "available_mm_per_mm",
        "intake_mm_h",
        "minutes_to_runoff",
        "soak_minutes",
        "root_depth_mm",
        "layers",
        "repellency",
    ]
    .map(|key| (key, Vec::new()));
    for day in turns {
        let then = zone.on(day);
        let figures = on_day(&then, &told, day);
        for ((_, course), value) in courses.iter_mut().zip(figures) {
            if course.last().is_none_or(|(_, last)| *last != value) {
                course.push((day, value));
            }
        }
    }
    courses
        .into_iter()
        .fold(zone.clone(), |zone, (key, course)| {
            zone.with_course(key, course)
        })
}

/// The zone's own figure where it was measured or typed after a test, or there is none.
fn later<'a, T>(
    own: Option<&'a Sourced<T>>,
    test: Option<(&Told, &'a Sourced<T>)>,
) -> Option<&'a Sourced<T>> {
    match (own, test) {
        (Some(own), Some((test, _))) if own.source.date().is_some_and(|d| d > test.kept.date) => {
            Some(own)
        }
        (_, Some((_, says))) => Some(says),
        (own, None) => own,
    }
}

/// The figures of a zone's ground on a day, in the order of the courses.
fn on_day(then: &Zone, told: &[Told], day: Date) -> [Value; 9] {
    let texture = best(told, day, true, |s| s.texture);
    let soil: Texture = texture.map_or(then.soil, |(_, says)| says.texture);
    let shares: Option<SoilShares> = match texture {
        Some((_, says)) => says.shares,
        None => then.soil_shares,
    };
    // What was guessed or typed of the soil before its texture was known gives way.
    let gives_way = |source: &Source| match (texture, source) {
        (None, _) | (_, Source::Measured { .. }) => false,
        (Some((test, _)), Source::Entered { date }) => *date <= test.kept.date,
        (Some(_), Source::Assumed | Source::Handbook { .. }) => true,
    };
    let own = then.available_mm_per_mm.as_ref();
    let available = match (own.filter(|own| !gives_way(&own.source)), texture) {
        (Some(own), _) => Some(own.clone()),
        (None, Some((test, says))) => {
            let (value, _) = then.soil_figures.available(soil, shares);
            let within = |x: f64| x.clamp(ranges::AVAILABLE.min, ranges::AVAILABLE.max);
            Some(Sourced {
                value: within(value),
                low: within(value * (1.0 - says.storage_off)),
                high: within(value * (1.0 + says.storage_off)),
                source: Source::Measured {
                    test: format!("{}, {}", test.kept.test.name(), soil.name().to_lowercase()),
                    date: test.kept.date,
                },
            })
        }
        (None, None) => None,
    };
    let own = then.intake_mm_h.as_ref();
    let intake = later(
        own.filter(|own| !gives_way(&own.source)),
        best(told, day, true, |s| s.intake.as_ref()),
    );
    let runoff = best(told, day, true, |s| s.minutes_to_runoff.as_ref());
    let minutes = later(then.minutes_to_runoff.as_ref(), runoff);
    let soak = later(
        then.soak_minutes.as_ref(),
        best(told, day, true, |s| s.soak_minutes.as_ref()),
    );
    let roots = later(
        then.root_depth_mm.as_ref(),
        best(told, day, true, |s| s.root_depth.as_ref()),
    );
    let layers = best(told, day, true, |s| s.layers.as_ref()).map_or(&then.layers, |b| b.1);
    let repellency = best(told, day, false, |s| s.repellency)
        .map(|b| b.1)
        .or(then.repellency);
    [
        json(&soil),
        json(&shares),
        json(&available),
        json(&intake),
        json(&minutes),
        json(&soak),
        json(&roots),
        if layers.is_empty() {
            Value::Null
        } else {
            json(layers)
        },
        json(&repellency),
    ]
}

/// Plain figures always turn into JSON.
fn json<T: Serialize>(value: &T) -> Value {
    serde_json::to_value(value).unwrap_or(Value::Null)
}
