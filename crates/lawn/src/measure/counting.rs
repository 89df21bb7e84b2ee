//! Which figure counts on which day: what was typed, or what a test of the sprinklers tells.
//!
//! A test counts from its day on, or from the repair before it: what it measured, the repair had made. Of several the newest counts, or the one
//! that the manager pinned; a figure that was measured or typed later than the test counts before it.

use jiff::civil::Date;
use serde_json::Value;

use crate::days;
use crate::quantity::Rate;
use crate::site::Zone;
use crate::sourced::Sourced;

/// A test of a zone's sprinklers with its standing.
#[derive(Debug, Clone, PartialEq)]
pub struct Told {
    /// Its number; of two on a day the later counts.
    pub id: i64,
    /// The day of the test.
    pub date: Date,
    /// Whether the manager pinned it.
    pub pinned: bool,
    /// Whether it was voided.
    pub voided: bool,
    /// The precipitation rate that it tells.
    pub rate: Option<Sourced<Rate>>,
    /// The low-quarter uniformity that it tells.
    pub evenness: Option<Sourced<f64>>,
}

/// The test that tells a figure at present: the pinned one, else the newest that is not voided.
#[must_use]
pub fn at_present<T>(tests: &[Told], figure: impl Fn(&Told) -> Option<&T>) -> Option<&Told> {
    let usable = || tests.iter().filter(|t| !t.voided && figure(t).is_some());
    usable()
        .filter(|t| t.pinned)
        .chain(usable())
        .max_by_key(|t| (t.pinned, t.date, t.id))
}

/// The day from which a test counts: its own, or that of the last repair since the test before it.
fn counts_from(test: &Told, tests: &[Told], repairs: &[Date]) -> Date {
    let before = tests
        .iter()
        .filter(|t| !t.voided && (t.date, t.id) < (test.date, test.id))
        .map(|t| t.date)
        .max();
    repairs
        .iter()
        .copied()
        .filter(|day| *day <= test.date && before.is_none_or(|before| before < *day))
        .max()
        .unwrap_or(test.date)
}

/// A zone with the rate and evenness that count on each day, from its own figures, its tests and the days on which its heads were repaired.
#[must_use]
pub fn with_tests(zone: &Zone, tests: &[Told], repairs: &[Date]) -> Zone {
    if tests.iter().all(|t| t.voided) {
        return zone.clone();
    }
    let rate = course(
        zone,
        tests,
        repairs,
        |zone| zone.rate_mm_h.as_ref(),
        |test| test.rate.as_ref(),
    );
    let evenness = course(
        zone,
        tests,
        repairs,
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
    repairs: &[Date],
    typed: impl for<'a> Fn(&'a Zone) -> Option<&'a Sourced<T>>,
    told: impl for<'a> Fn(&'a Told) -> Option<&'a Sourced<T>>,
) -> Vec<(Date, Value)> {
    let usable: Vec<(Date, &Told)> = tests
        .iter()
        .filter(|t| !t.voided && told(t).is_some())
        .map(|t| (counts_from(t, tests, repairs), t))
        .collect();
    let mut turns = zone.turns();
    turns.push(days::FIRST);
    turns.extend(usable.iter().map(|(from, _)| *from));
    turns.sort_unstable();
    turns.dedup();
    let mut course: Vec<(Date, Value)> = Vec::with_capacity(turns.len());
    for day in turns {
        let then = zone.on(day);
        let own = typed(&then);
        let test = usable
            .iter()
            .filter(|(from, _)| *from <= day)
            .map(|(_, test)| *test)
            .max_by_key(|t| (t.pinned, t.date, t.id));
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
    use crate::sourced::Source;
    use jiff::civil::date;
    use serde_json::json;

    fn zone() -> Zone {
        serde_json::from_value(json!({
            "name": "Field", "grass": "tall_fescue", "soil": "loam", "slope_pct": 1, "area_m2": 400, "sprinkler": "rotor"
        }))
        .unwrap()
    }

    fn told(id: i64, date: Date, rate: f64, evenness: Option<f64>) -> Told {
        let source = Source::Measured {
            test: "cans".to_owned(),
            date,
        };
        let rate = Rate::from_mm_h(rate);
        Told {
            id,
            date,
            pinned: false,
            voided: false,
            rate: Some(Sourced {
                value: rate,
                low: rate,
                high: rate,
                source: source.clone(),
            }),
            evenness: evenness.map(|value| Sourced {
                value,
                low: value,
                high: value,
                source,
            }),
        }
    }

    fn rate(zone: &Zone, on: Date) -> Option<f64> {
        zone.on(on).rate_mm_h.map(|r| r.value.mm_h())
    }

    #[test]
    fn a_test_counts_from_its_day_or_from_the_repair_before_it() {
        let tests = [
            told(1, date(2026, 4, 10), 14.0, Some(0.6)),
            told(2, date(2026, 6, 18), 12.0, None),
        ];
        let z = with_tests(&zone(), &tests, &[date(2026, 6, 1)]);
        assert_eq!(rate(&z, date(2026, 4, 9)), None);
        assert_eq!(rate(&z, date(2026, 4, 10)), Some(14.0));
        assert_eq!(rate(&z, date(2026, 5, 31)), Some(14.0));
        assert_eq!(rate(&z, date(2026, 6, 1)), Some(12.0));
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(12.0));
        // The quick test tells no evenness: the cans' goes on.
        let evenness = |on| z.on(on).evenness_du_lq.map(|e| e.value);
        assert_eq!(evenness(date(2026, 6, 20)), Some(0.6));
        assert_eq!(evenness(date(2026, 4, 9)), None);
        assert!(z.validate("").is_ok());
        // A repair before the first test is its beginning; one after the last test is not.
        let early = with_tests(&zone(), &tests[..1], &[date(2026, 3, 1), date(2026, 5, 1)]);
        assert_eq!(rate(&early, date(2026, 3, 1)), Some(14.0));
        assert_eq!(rate(&early, date(2026, 2, 28)), None);
    }

    #[test]
    fn the_pinned_one_counts_and_what_was_measured_later_counts_before_tests() {
        let mut tests = [
            told(1, date(2026, 4, 10), 14.0, Some(0.6)),
            told(2, date(2026, 6, 18), 12.0, None),
        ];
        tests[0].pinned = true;
        let z = with_tests(&zone(), &tests, &[]);
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(14.0));
        assert_eq!(at_present(&tests, |t| t.rate.as_ref()).unwrap().id, 1);
        tests[0].pinned = false;
        tests[1].voided = true;
        let mut typed = zone();
        typed.rate_mm_h = told(0, date(2026, 5, 1), 10.0, None).rate;
        let z = with_tests(&typed, &tests, &[]);
        assert_eq!(rate(&z, date(2026, 6, 20)), Some(10.0));
        assert_eq!(with_tests(&typed, &[], &[]), typed);
    }
}
