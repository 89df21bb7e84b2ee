//! The demo's tests of sprinklers and walks along the heads: one zone before and after a repair, an old test, one whose readings show a
//! broken head. Made up, with scatter.

use jiff::civil::Date;
use lawn::measure::cans::{CanTest, Container, Fate, TestCan};
use lawn::measure::head_fault::Fault;
use lawn::measure::outline::Point;
use lawn::measure::result::{Tested, of_cans};
use lawn::measure::sprinkler::SprinklerTest;
use lawn::measure::unevenness::WeekNeed;
use lawn::site::Zone;
use sqlx::PgConnection;

use super::{Error, defect};
use crate::db::head_faults::{self, NewFault};
use crate::db::sprinkler_tests::{self, NewTest};
use crate::db::{AccountId, ZoneId};
use lawn::site::counting::Standing;

/// How readings differ from one another in the same conditions, share; by number of the can.
const SCATTER: [f64; 9] = [1.04, 0.95, 1.01, 0.93, 1.08, 0.98, 1.03, 0.9, 1.06];
/// Cans in a row, and rows.
const CANS: (u16, u16) = (6, 4);

/// What the turf uses in a dry week of May, mm.
const MAY_WEEK_MM: f64 = 28.0;

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
            idle_heads: Vec::new(),
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

/// What the walks found: zone, head, fault, note, noted, due, repaired.
type MadeFault = (
    &'static str,
    u16,
    Fault,
    Option<&'static str>,
    Date,
    Option<Date>,
    Option<Date>,
);

const FAULTS: [MadeFault; 4] = [
    (
        "Pavilion front",
        2,
        Fault::Clogged,
        Some("grit in the filter"),
        Date::constant(2026, 5, 2),
        Some(Date::constant(2026, 5, 10)),
        Some(Date::constant(2026, 5, 8)),
    ),
    (
        "West bank",
        3,
        Fault::Broken,
        Some("does not rise; part ordered"),
        Date::constant(2026, 5, 23),
        Some(Date::constant(2026, 6, 18)),
        None,
    ),
    (
        "Schoolhouse strip",
        4,
        Fault::AtPaving,
        None,
        Date::constant(2026, 6, 11),
        Some(Date::constant(2026, 6, 25)),
        None,
    ),
    (
        "Playing field",
        7,
        Fault::Tilted,
        Some("after the match"),
        Date::constant(2026, 6, 14),
        None,
        None,
    ),
];

/// Adds what was wrong with heads to the demo's zones.
pub(super) async fn add_faults(
    db: &mut PgConnection,
    zones: &[Zone],
    account: AccountId,
) -> Result<(), Error> {
    for (number, (name, head, fault, note, noted_on, due_on, mended_on)) in (1..).zip(FAULTS) {
        let zone = zones
            .iter()
            .find(|z| z.name == name)
            .ok_or_else(|| defect(format!("no zone {name}")))?;
        let new = NewFault {
            zone: ZoneId(zone.id.parse().map_err(defect)?),
            head,
            fault,
            note,
            noted_on,
            due_on,
            account,
            idempotency_key: &format!("demo-fault-{number}"),
        };
        let id = head_faults::add(&mut *db, &new).await?;
        if let (Some(id), Some(on)) = (id, mended_on) {
            head_faults::mend(&mut *db, id, on, account).await?;
        }
    }
    Ok(())
}

/// Adds the tests to the demo's zones.
pub(super) async fn add(
    db: &mut PgConnection,
    zones: &[Zone],
    account: AccountId,
    price_per_m3: Option<f64>,
) -> Result<(), Error> {
    for (number, made) in (1..).zip(&MADE) {
        let zone = zones
            .iter()
            .find(|z| z.name == made.zone)
            .ok_or_else(|| defect(format!("no zone {}", made.zone)))?;
        let test = made.test();
        test.validate().map_err(defect)?;
        let tested = Tested {
            kind: zone.sprinkler,
            date: made.date,
            week: Some(WeekNeed {
                need_mm: MAY_WEEK_MM,
                area_m2: zone.area_m2.m2(),
                spray_loss: zone.sprinkler.defaults().spray_loss[1],
                price_per_m3,
            }),
        };
        let result = of_cans(&test, &tested).ok_or_else(|| defect("no can was read"))?;
        let new = NewTest {
            zone: ZoneId(zone.id.parse().map_err(defect)?),
            account: Some(account),
            date: made.date,
            counts_from: None,
            standing: Standing::Automatic,
            test: &SprinklerTest::Cans(test),
            result: &result,
            idempotency_key: &format!("demo-test-{number}"),
        };
        sprinkler_tests::add(&mut *db, &new).await?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use lawn::measure::cans::pattern::Pattern;
    use science::sprinkler::Kind;

    #[test]
    fn the_broken_heads_are_found_and_the_repair_shows() {
        let [before, after, _, broken] = MADE.map(|m| {
            let test = m.test();
            test.validate().unwrap();
            let tested = Tested {
                kind: Kind::FixedSpray,
                date: m.date,
                week: None,
            };
            of_cans(&test, &tested).unwrap()
        });
        let weak = |r: &lawn::measure::result::TestResult, wanted: u16| {
            r.patterns
                .iter()
                .any(|p| matches!(p, Pattern::WeakHead { head, .. } if *head == wanted))
        };
        assert!(weak(&before, 2), "{:?}", before.patterns);
        assert!(weak(&broken, 3), "{:?}", broken.patterns);
        assert_eq!(after.patterns, []);
        let du = |r: &lawn::measure::result::TestResult| r.evenness_du_lq.as_ref().unwrap().value;
        assert!(
            du(&after) > du(&before) + 0.15,
            "{} {}",
            du(&before),
            du(&after)
        );
    }
}
