//! Which figure counts on which day: what was typed, or what a test of the sprinklers tells.
//!
//! A test counts from its day on, or from the repair before it: what it measured, the repair had made. Of several the newest counts, or the one
//! that the manager pinned; a figure that was measured or typed later than the test counts before it.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

pub use super::standing::Standing;
use super::{Invalid, Zone, soil_counting};
use crate::days;
use crate::measure::result::Figures;
use crate::measure::sprinkler::SprinklerTest;
use crate::quantity::Rate;
use crate::sourced::Sourced;

/// A test of a zone's sprinklers, as it is kept.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ZoneTest {
    /// The day of the test.
    pub date: Date,
    /// The day from which it counts, that of a repair before it; absent: its own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub counts_from: Option<Date>,
    /// Whether it counts.
    #[serde(default, skip_serializing_if = "Standing::is_automatic")]
    pub standing: Standing,
    /// As it was done.
    pub test: SprinklerTest,
}

/// Most tests of a site.
pub const MOST_TESTS: usize = 2000;

impl ZoneTest {
    fn first_day(&self) -> Date {
        self.counts_from.unwrap_or(self.date)
    }

    fn validate(&self, path: &str) -> Result<(), Invalid> {
        days::check(&format!("{path}date"), self.date, days::LAST)?;
        if let Some(day) = self.counts_from {
            days::check(&format!("{path}counts_from"), day, self.date)?;
        }
        let at = format!("{path}test.");
        self.test.validate().map_err(|error| error.within(&at))?;
        match self.test.figures(self.date) {
            Some(_) => Ok(()),
            None => Err(Invalid::new(format!("{path}test.cans"), "no can was read")),
        }
    }
}

impl Zone {
    /// Checks its tests; `path` as in [`Zone::validate`].
    pub(super) fn validate_tests(&self, path: &str) -> Result<(), Invalid> {
        let mut pinned = false;
        for (i, test) in self.tests.iter().enumerate() {
            let at = format!("{path}tests[{i}].");
            test.validate(&at)?;
            if test.standing == Standing::Pinned && std::mem::replace(&mut pinned, true) {
                return Err(Invalid::new(
                    format!("{at}standing"),
                    "another test of the zone is pinned",
                ));
            }
        }
        Ok(())
    }
}

/// What a test tells, and how it stands.
#[derive(Debug, Clone, PartialEq)]
pub struct Told {
    /// Its number; of two on a day the later counts.
    pub id: i64,
    /// The day of the test.
    pub date: Date,
    /// The first day on which it counts.
    pub from: Date,
    /// Whether it counts.
    pub standing: Standing,
    /// The precipitation rate that it tells.
    pub rate: Option<Sourced<Rate>>,
    /// The low-quarter uniformity that it tells.
    pub evenness: Option<Sourced<f64>>,
}

impl Told {
    /// By a test with a number.
    #[must_use]
    pub fn by(id: i64, test: &ZoneTest) -> Self {
        let figures = test.test.figures(test.date);
        Self {
            id,
            date: test.date,
            from: test.first_day(),
            standing: test.standing,
            rate: figures.as_ref().and_then(Figures::rate),
            evenness: figures.as_ref().and_then(Figures::evenness),
        }
    }

    fn is_void(&self) -> bool {
        self.standing == Standing::Void
    }

    /// Of several the greatest counts.
    fn rank(&self) -> (bool, Date, i64) {
        (self.standing == Standing::Pinned, self.date, self.id)
    }
}

/// The test that tells a figure at present: the pinned one, else the newest that is not void.
#[must_use]
pub fn at_present<T>(tests: &[Told], figure: impl Fn(&Told) -> Option<&T>) -> Option<&Told> {
    tests
        .iter()
        .filter(|t| !t.is_void() && figure(t).is_some())
        .max_by_key(|t| t.rank())
}

/// Lets tests, in the order in which they were done, count from the last repair since the test before them; `repairs`: the days on which heads
/// of the zone were repaired. A test that says from when it counts keeps its word.
pub fn count_from_repairs(tests: &mut [ZoneTest], repairs: &[Date]) {
    let mut before = None;
    for test in tests {
        if test.standing == Standing::Void {
            continue;
        }
        let repaired = repairs
            .iter()
            .copied()
            .filter(|day| *day <= test.date && before.is_none_or(|before| before < *day))
            .max();
        test.counts_from = test.counts_from.or(repaired.filter(|day| *day < test.date));
        before = Some(test.date);
    }
}

/// A zone with the figures that count on each day, from its own and its tests, which it then has no more; nor what was seen of it.
#[must_use]
pub fn counted(zone: &Zone) -> Zone {
    let mut own = zone.clone();
    let tests: Vec<Told> = (0..)
        .zip(std::mem::take(&mut own.tests))
        .map(|(id, test)| Told::by(id, &test))
        .collect();
    let soil_tests = std::mem::take(&mut own.soil_tests);
    own.seen.clear();
    soil_counting::counted(&with_tests(&own, &tests), &soil_tests)
}

fn with_tests(zone: &Zone, tests: &[Told]) -> Zone {
    if tests.iter().all(Told::is_void) {
        return zone.clone();
    }
    let rate = course(
        zone,
        tests,
        |zone| zone.rate_mm_h.as_ref(),
        |test| test.rate.as_ref(),
    );
    let evenness = course(
        zone,
        tests,
        |zone| zone.evenness_du_lq.as_ref(),
        |test| test.evenness.as_ref(),
    );
    zone.with_course("rate_mm_h", rate)
        .with_course("evenness_du_lq", evenness)
}

/// What a figure is from each day on.
fn course<T: Clone + serde::Serialize>(
    zone: &Zone,
    tests: &[Told],
    typed: impl for<'a> Fn(&'a Zone) -> Option<&'a Sourced<T>>,
    told: impl for<'a> Fn(&'a Told) -> Option<&'a Sourced<T>>,
) -> Vec<(Date, Value)> {
    let usable: Vec<&Told> = tests
        .iter()
        .filter(|t| !t.is_void() && told(t).is_some())
        .collect();
    let mut turns = zone.turns();
    turns.push(days::FIRST);
    turns.extend(usable.iter().map(|t| t.from));
    turns.sort_unstable();
    turns.dedup();
    let mut course: Vec<(Date, Value)> = Vec::with_capacity(turns.len());
    for day in turns {
        let then = zone.on(day);
        let own = typed(&then);
        let test = usable
            .iter()
            .copied()
            .filter(|t| t.from <= day)
            .max_by_key(|t| t.rank());
        let counts = match (own, test) {
            (Some(own), Some(test)) if own.source.date().is_some_and(|d| d > test.date) => {
                Some(own)
            }
            (_, Some(test)) => told(test),
            (own, None) => own,
        };
        let value = serde_json::to_value(counts).unwrap_or(Value::Null);
        if course.last().is_none_or(|(_, last)| *last != value) {
            course.push((day, value));
        }
    }
    course
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::measure::quick::QuickTest;
    use jiff::civil::date;
    use serde_json::json;

    fn zone() -> Zone {
        serde_json::from_value(json!({
            "name": "Field", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor"
        }))
        .unwrap()
    }

    /// Straight cans, 30 minutes: a rate of twice the mean; the driest quarter is the least of four.
    fn cans(date: Date, depths: [f64; 4]) -> ZoneTest {
        let cans: Vec<Value> = (1..)
            .zip(depths)
            .map(|(number, depth)| json!({ "number": number, "place": { "x_m": number, "y_m": 1 }, "fate": "read", "reading": depth }))
            .collect();
        let test = json!({
            "method": "cans", "corners": [{ "x_m": 0, "y_m": 0 }, { "x_m": 9, "y_m": 0 }, { "x_m": 9, "y_m": 6 }, { "x_m": 0, "y_m": 6 }],
            "container": { "kind": "straight", "deep_mm": 90 }, "minutes": 30, "cans": cans
        });
        kept(date, serde_json::from_value(test).unwrap())
    }

    /// One can that fills to 6 mm in half an hour: 12 mm/h.
    fn quick(date: Date) -> ZoneTest {
        let test = QuickTest::ToDepth {
            mark_mm: 6.0,
            minutes: vec![30.0],
        };
        kept(date, SprinklerTest::Quick(test))
    }

    fn kept(date: Date, test: SprinklerTest) -> ZoneTest {
        ZoneTest {
            date,
            counts_from: None,
            standing: Standing::Automatic,
            test,
        }
    }

    fn with(zone: &Zone, tests: &[ZoneTest], repairs: &[Date]) -> Zone {
        let mut zone = zone.clone();
        zone.tests = tests.to_vec();
        count_from_repairs(&mut zone.tests, repairs);
        assert!(zone.validate("").is_ok());
        let counted = counted(&zone);
        assert!(counted.validate("").is_ok() && counted.tests.is_empty());
        counted
    }

    fn rate(zone: &Zone, on: Date) -> Option<f64> {
        zone.on(on).rate_mm_h.map(|r| r.value.mm_h())
    }

    #[test]
    fn a_test_counts_from_its_day_or_from_the_repair_before_it() {
        let tests = [
            cans(date(2026, 4, 10), [4.2, 7.8, 8.0, 8.0]),
            quick(date(2026, 6, 18)),
        ];
        let z = with(&zone(), &tests, &[date(2026, 6, 1)]);
        assert_eq!(rate(&z, date(2026, 4, 9)), None);
        assert_eq!(rate(&z, date(2026, 4, 10)), Some(14.0));
        assert_eq!(rate(&z, date(2026, 5, 31)), Some(14.0));
        assert_eq!(rate(&z, date(2026, 6, 1)), Some(12.0));
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(12.0));
        // The quick test tells no evenness: the cans' goes on.
        let evenness = |on| z.on(on).evenness_du_lq.map(|e| e.value);
        assert!((evenness(date(2026, 6, 20)).unwrap() - 0.6).abs() < 1e-12);
        assert_eq!(evenness(date(2026, 4, 9)), None);
        // A repair before the first test is its beginning; one after the last test is not.
        let early = with(&zone(), &tests[..1], &[date(2026, 3, 1), date(2026, 5, 1)]);
        assert_eq!(rate(&early, date(2026, 3, 1)), Some(14.0));
        assert_eq!(rate(&early, date(2026, 2, 28)), None);
    }

    #[test]
    fn the_pinned_one_counts_and_what_was_measured_later_counts_before_tests() {
        let mut tests = [
            cans(date(2026, 4, 10), [4.2, 7.8, 8.0, 8.0]),
            quick(date(2026, 6, 18)),
        ];
        tests[0].standing = Standing::Pinned;
        let z = with(&zone(), &tests, &[]);
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(14.0));
        let told: Vec<Told> = (1..).zip(&tests).map(|(id, t)| Told::by(id, t)).collect();
        assert_eq!(at_present(&told, |t| t.rate.as_ref()).unwrap().id, 1);
        tests[0].standing = Standing::Automatic;
        tests[1].standing = Standing::Void;
        let mut typed = zone();
        typed.rate_mm_h = Some(crate::sourced::Sourced {
            value: Rate::from_mm_h(10.0),
            low: Rate::from_mm_h(9.0),
            high: Rate::from_mm_h(11.0),
            source: crate::sourced::Source::Entered {
                date: date(2026, 5, 1),
            },
        });
        let z = with(&typed, &tests, &[]);
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(10.0));
        assert_eq!(with(&typed, &[], &[]), typed);
    }

    #[test]
    fn a_test_that_says_nothing_or_is_pinned_twice_is_refused_where_it_is() {
        let field = |tests: &[ZoneTest]| {
            let mut zone = zone();
            zone.tests = tests.to_vec();
            zone.validate("zones[0].").unwrap_err().field
        };
        let good = quick(date(2026, 6, 18));
        let mut pinned = good.clone();
        pinned.standing = Standing::Pinned;
        assert_eq!(
            field(&[pinned.clone(), pinned]),
            "zones[0].tests[1].standing"
        );
        let mut later = good.clone();
        later.counts_from = Some(date(2026, 6, 19));
        assert_eq!(field(&[later]), "zones[0].tests[0].counts_from");
        let mut unread = cans(date(2026, 6, 18), [1.0; 4]);
        if let SprinklerTest::Cans(test) = &mut unread.test {
            for can in &mut test.cans {
                can.fate = crate::measure::cans::Fate::Skipped;
            }
        }
        assert_eq!(field(&[good, unread]), "zones[0].tests[1].test.cans");
    }
}
