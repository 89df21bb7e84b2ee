//! The demo's can tests: one zone before and after a repair, an old one, one whose readings show a broken head. Made up, with scatter.

use jiff::civil::Date;
use lawn::can_test::{CanTest, Container, Fate, Point, TestCan};
use lawn::site::Zone;
use sqlx::PgConnection;

use super::{Error, defect};
use crate::db::can_tests::{self, NewTest};
use crate::db::{AccountId, ZoneId};

/// How readings differ from one another in the same conditions, share; by number of the can.
const SCATTER: [f64; 9] = [1.04, 0.95, 1.01, 0.93, 1.08, 0.98, 1.03, 0.9, 1.06];
/// Cans in a row, and rows.
const CANS: (u16, u16) = (6, 4);

/// A made-up test.
struct Made {
    /// Name of the zone.
    zone: &'static str,
    date: Date,
    /// Width and length, m.
    size: (f64, f64),
    minutes: f64,
    /// Mean depth that it is to have, mm.
    mean_mm: f64,
    /// What each head gives, share: left and right, front row then back.
    heads: [f64; 4],
    wind_m_s: f64,
}

const MADE: [Made; 4] = [
    Made {
        zone: "Pavilion front",
        date: Date::constant(2026, 5, 2),
        size: (31.0, 20.0),
        minutes: 15.0,
        mean_mm: 9.2,
        heads: [1.0, 0.05, 1.1, 1.0],
        wind_m_s: 1.5,
    },
    Made {
        zone: "Pavilion front",
        date: Date::constant(2026, 5, 9),
        size: (31.0, 20.0),
        minutes: 15.0,
        mean_mm: 10.1,
        heads: [1.0, 0.95, 1.1, 1.0],
        wind_m_s: 0.5,
    },
    Made {
        zone: "Library lawn",
        date: Date::constant(2025, 4, 12),
        size: (30.0, 25.0),
        minutes: 12.0,
        mean_mm: 8.0,
        heads: [1.0, 0.9, 0.8, 1.0],
        wind_m_s: 3.0,
    },
    Made {
        zone: "West bank",
        date: Date::constant(2026, 5, 23),
        size: (22.0, 20.0),
        minutes: 30.0,
        mean_mm: 5.6,
        heads: [1.0, 1.0, 0.05, 1.05],
        wind_m_s: 1.5,
    },
];

impl Made {
    fn test(&self) -> CanTest {
        let (width, length) = self.size;
        let point = |x_m: f64, y_m: f64| Point { x_m, y_m };
        let corners = vec![
            point(0.0, 0.0),
            point(width, 0.0),
            point(width, length),
            point(0.0, length),
        ];
        let heads = vec![
            point(0.0, 0.0),
            point(width, 0.0),
            point(0.0, length),
            point(width, length),
        ];
        let (across, rows) = CANS;
        let mut cans: Vec<(TestCan, f64)> = Vec::new();
        for number in 0..across * rows {
            let (column, row) = (number % across, number / across);
            let at = |i: u16, of: u16, size: f64| {
                ((f64::from(i) + 0.5) * size / f64::from(of) * 10.0).round() / 10.0
            };
            let place = point(at(column, across, width), at(row, rows, length));
            // Each head reaches a little beyond the middle.
            let reach = width.hypot(length) * 0.66;
            let depth: f64 = heads
                .iter()
                .zip(self.heads)
                .map(|(head, gives)| {
                    let far = (head.x_m - place.x_m).hypot(head.y_m - place.y_m) / reach;
                    gives * (1.0 - far * far).max(0.0)
                })
                .sum::<f64>()
                * SCATTER[usize::from(number) % SCATTER.len()];
            let can = TestCan {
                number: number + 1,
                place,
                fate: Fate::Read,
                reading: None,
            };
            cans.push((can, depth));
        }
        let mean = cans.iter().map(|(_, d)| d).sum::<f64>() / f64::from(across * rows);
        CanTest {
            corners,
            heads,
            container: Container::Volume {
                throat_cm2: 95.0,
                holds_ml: 300.0,
            },
            minutes: self.minutes,
            wind_m_s: Some(self.wind_m_s),
            pressure_kpa: None,
            cans: cans
                .into_iter()
                .map(|(can, depth)| TestCan {
                    // Whole millilitres, as one reads them.
                    reading: Some((depth / mean * self.mean_mm * 9.5).round()),
                    ..can
                })
                .collect(),
        }
    }
}

/// Adds the tests to the demo's zones.
pub(super) async fn add(
    db: &mut PgConnection,
    zones: &[Zone],
    account: AccountId,
) -> Result<(), Error> {
    for (number, made) in (1..).zip(&MADE) {
        let zone = zones
            .iter()
            .find(|z| z.name == made.zone)
            .ok_or_else(|| defect(format!("no zone {}", made.zone)))?;
        let test = made.test();
        test.validate().map_err(defect)?;
        let result = test
            .result(zone.sprinkler, made.date)
            .ok_or_else(|| defect("no can was read"))?;
        let new = NewTest {
            zone: ZoneId(zone.id.parse().map_err(defect)?),
            account,
            date: made.date,
            test: &test,
            result: &result,
            idempotency_key: &format!("demo-test-{number}"),
        };
        can_tests::add(&mut *db, &new).await?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use lawn::can_pattern::Pattern;
    use science::sprinkler::Kind;

    #[test]
    fn the_broken_heads_are_found_and_the_repair_shows() {
        let [before, after, _, broken] = MADE.map(|m| {
            let test = m.test();
            test.validate().unwrap();
            test.result(Kind::FixedSpray, m.date).unwrap()
        });
        let weak = |r: &lawn::can_test::TestResult, wanted: u16| {
            r.patterns
                .iter()
                .any(|p| matches!(p, Pattern::WeakHead { head, .. } if *head == wanted))
        };
        assert!(weak(&before, 2), "{:?}", before.patterns);
        assert!(weak(&broken, 3), "{:?}", broken.patterns);
        assert_eq!(after.patterns, []);
        let du = |r: &lawn::can_test::TestResult| r.evenness_du_lq.as_ref().unwrap().value;
        assert!(
            du(&after) > du(&before) + 0.15,
            "{} {}",
            du(&before),
            du(&after)
        );
    }
}
