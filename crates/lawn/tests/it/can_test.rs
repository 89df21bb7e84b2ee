//! Can tests: what is refused, what is said, what the pattern looks like, how the range widens.

use jiff::civil::date;
use lawn::measure::cans::pattern::{Pattern, Side};
use lawn::measure::cans::{CanTest, Container, Fate, TestCan};
use lawn::measure::outline::Point;
use lawn::measure::result::{Doubt, TestRating, TestResult, Tested, of_cans};
use lawn::measure::unevenness::WeekNeed;
use lawn::measure::unlikely::{self, Unlikely};
use science::sprinkler::Kind;

const TESTED: Tested = Tested {
    kind: Kind::FixedSpray,
    date: date(2026, 6, 18),
    week: None,
};

/// 8 m by 6 m, heads in the corners, cans 2 m apart in rows of four; the catch by place.
fn test(catch: impl Fn(f64, f64) -> f64) -> CanTest {
    let point = |x_m, y_m| Point { x_m, y_m };
    let mut cans = Vec::new();
    for row in 0..4 {
        for column in 0..4 {
            let (x, y) = (1.0 + 2.0 * f64::from(column), 0.75 + 1.5 * f64::from(row));
            cans.push(TestCan {
                number: u16::try_from(cans.len() + 1).unwrap(),
                place: point(x, y),
                fate: Fate::Read,
                reading: Some(catch(x, y)),
            });
        }
    }
    CanTest {
        corners: vec![
            point(0.0, 0.0),
            point(8.0, 0.0),
            point(8.0, 6.0),
            point(0.0, 6.0),
        ],
        heads: vec![
            point(0.0, 0.0),
            point(8.0, 0.0),
            point(8.0, 6.0),
            point(0.0, 6.0),
        ],
        idle_heads: Vec::new(),
        container: Container::Volume {
            throat_cm2: 100.0,
            holds_ml: 250.0,
        },
        minutes: 15.0,
        wind_m_s: Some(1.0),
        pressure_kpa: None,
        cans,
    }
}

fn result(test: &CanTest) -> TestResult {
    test.validate().unwrap();
    of_cans(test, &TESTED).unwrap()
}

#[test]
fn an_even_catch_is_excellent_and_has_no_pattern() {
    let found = result(&test(|_, _| 40.0));
    assert!((found.rate_mm_h.value.mm_h() - 16.0).abs() < 1e-9);
    let evenness = found.evenness_du_lq.as_ref().unwrap();
    assert!((evenness.value - 1.0).abs() < 1e-9 && evenness.low < 1.0);
    assert_eq!(found.rating, Some(TestRating::Excellent));
    assert_eq!(found.patterns, []);
    assert!((found.driest_quarter_of_13_mm.unwrap() - 13.0).abs() < 1e-9);
    assert_eq!(
        found.doubts,
        [Doubt::FewCans {
            read: 16,
            wanted: 24
        }]
    );
    for contour in &found.contours {
        // The whole plan gets at least 0.9 of the mean, no place gets 1.1 of it.
        assert_eq!(contour.rings.is_empty(), contour.share > 1.0, "{contour:?}");
        assert_eq!(contour.label, None, "no line crosses the zone");
    }
}

#[test]
fn what_falls_short_is_said_and_widens_the_range() {
    let good = result(&test(|x, _| 40.0 + x));
    let mut poor = test(|x, _| 40.0 + x);
    poor.wind_m_s = Some(4.0);
    poor.minutes = 15.0;
    for can in &mut poor.cans[..4] {
        can.fate = Fate::TippedOver;
    }
    let worse = result(&poor);
    assert!(worse.doubts.contains(&Doubt::Windy {
        wind_m_s: 4.0,
        limit_m_s: 2.0
    }));
    assert!(worse.doubts.contains(&Doubt::Unread { cans: 4 }));
    let width = |r: &TestResult| {
        let e = r.evenness_du_lq.as_ref().unwrap();
        (
            e.high - e.low,
            r.rate_mm_h.high.mm_h() / r.rate_mm_h.low.mm_h(),
        )
    };
    assert!(width(&worse).0 > width(&good).0 && width(&worse).1 > width(&good).1);
    let short = result(&test(|_, _| 5.0));
    assert!(short.doubts.contains(&Doubt::TooShort { minutes: 75.0 }));
}

#[test]
fn impossible_readings_are_refused_at_their_field() {
    let with = |change: fn(&mut CanTest)| {
        let mut bad = test(|_, _| 40.0);
        change(&mut bad);
        let error = bad.validate().unwrap_err();
        (error.field, error.message)
    };
    for (change, field, words) in [
        (
            (|t| t.cans[3].reading = Some(-2.0)) as fn(&mut CanTest),
            "cans[3].reading",
            "below 0",
        ),
        (
            |t| t.cans[3].reading = Some(900.0),
            "cans[3].reading",
            "more than the can holds, 250 mL",
        ),
        (
            |t| t.cans[3].reading = Some(f64::NAN),
            "cans[3].reading",
            "below 0",
        ),
        (
            |t| t.cans[3].reading = None,
            "cans[3].reading",
            "has a reading",
        ),
        (|t| t.minutes = 0.0, "minutes", "0"),
        (
            |t| t.cans[5].place = t.cans[2].place,
            "cans[5].place",
            "can 6 stands where can 3 does",
        ),
        (
            |t| t.cans[5].number = 3,
            "cans[5].place",
            "can 3 stands twice",
        ),
        (|t| t.corners.truncate(2), "corners", "three corners"),
        (|t| t.corners.swap(1, 2), "corners", "cross"),
        (
            |t| t.cans[4].place.x_m = 8.6,
            "cans[4].place",
            "can 5 stands outside of the zone",
        ),
        (|t| t.idle_heads = vec![5], "idle_heads", "no head 5"),
        (
            |t| t.idle_heads = vec![1, 2, 3, 4],
            "idle_heads",
            "no head ran",
        ),
        (
            |t| {
                t.container = Container::Round {
                    mouth_mm: 2.0,
                    holds_ml: 250.0,
                }
            },
            "container.mouth_mm",
            "below the lowest",
        ),
        (
            |t| t.container = Container::Straight { deep_mm: 30.0 },
            "cans[0].reading",
            "more than the can holds, 30 mm",
        ),
    ] {
        let (at, said) = with(change);
        assert_eq!(at, field);
        assert!(said.contains(words), "{said}");
    }
}

#[test]
fn a_can_unread_or_skipped_does_not_count() {
    let mut t = test(|_, _| 40.0);
    t.cans[0].fate = Fate::Skipped;
    t.cans[1].fate = Fate::Unread;
    t.cans[1].reading = None;
    assert_eq!(result(&t).read, 14);
    for can in &mut t.cans {
        can.fate = Fate::Unread;
        can.reading = None;
    }
    assert_eq!(of_cans(&t, &TESTED), None);
}

#[test]
fn patterns_are_found_by_their_evidence() {
    let corner = |x: f64, y: f64| {
        let dx = x.min(8.0 - x);
        let dy = y.min(6.0 - y);
        dx.hypot(dy)
    };
    let near = result(&test(|x, y| 20.0 + 10.0 * corner(x, y)));
    assert!(
        matches!(near.patterns[0], Pattern::DryNextToHeads { correlation } if correlation > 0.9),
        "{:?}",
        near.patterns
    );
    let midway = result(&test(|x, y| 80.0 - 10.0 * corner(x, y)));
    assert!(
        matches!(midway.patterns[0], Pattern::DryMidway { .. }),
        "{:?}",
        midway.patterns
    );
    let west = result(&test(|x, _| if x < 4.0 { 25.0 } else { 45.0 }));
    assert!(
        west.patterns.iter().any(|p| matches!(p, Pattern::DrySide { side: Side::Left, share } if (share - 25.0 / 45.0).abs() < 1e-9)),
        "{:?}",
        west.patterns
    );
    let weak = result(&test(|x, y| if x < 4.0 && y < 3.0 { 15.0 } else { 45.0 }));
    assert!(
        weak.patterns
            .iter()
            .any(|p| matches!(p, Pattern::WeakHead { head: 1, .. })),
        "{:?}",
        weak.patterns
    );
    let wet = result(&test(|x, y| if x > 6.0 && y > 5.0 { 120.0 } else { 40.0 }));
    assert!(
        wet.patterns
            .iter()
            .any(|p| matches!(p, Pattern::WetSpot { can: 16, .. })),
        "{:?}",
        wet.patterns
    );
}

#[test]
fn edges_corners_and_pressure_are_named() {
    let edge = result(&test(|_, y| if y > 5.0 { 20.0 } else { 45.0 }));
    assert!(
        edge.patterns.iter().any(|p| matches!(p, Pattern::DryEdge { side: Side::Top, share } if (share - 20.0 / 38.75).abs() < 1e-9)),
        "{:?}",
        edge.patterns
    );
    assert!(
        !edge.patterns.iter().any(|p| matches!(
            p,
            Pattern::DrySide {
                side: Side::Top,
                ..
            }
        )),
        "said once: {:?}",
        edge.patterns
    );
    let mut corner = test(|x, y| if x > 4.0 && y < 3.0 { 12.0 } else { 45.0 });
    let with_heads = result(&corner);
    assert!(matches!(
        with_heads.patterns[0],
        Pattern::WeakHead { head: 2, .. }
    ));
    corner.heads.clear();
    let found = result(&corner);
    assert!(
        matches!(
            found.patterns[0],
            Pattern::DryCorner {
                across: Side::Right,
                up: Side::Bottom,
                ..
            }
        ),
        "{:?}",
        found.patterns
    );
    // Sprays are made for 30 psi, 207 kPa.
    for (pressure, right) in [(120.0, "low"), (200.0, ""), (240.0, ""), (300.0, "high")] {
        let mut at = test(|_, _| 40.0);
        at.pressure_kpa = Some(pressure);
        let said = match result(&at).patterns.first() {
            Some(Pattern::LowPressure { .. }) => "low",
            Some(Pattern::HighPressure { .. }) => "high",
            _ => "",
        };
        assert_eq!(said, right, "{pressure}");
    }
}

#[test]
fn the_file_of_a_test_audits_to_the_same_figures() {
    let mut t = test(|x, y| 30.0 + x * y);
    t.cans[3].fate = Fate::TippedOver;
    let cans =
        lawn::measure::cans::file::read(&lawn::measure::cans::file::write(&t), None).unwrap();
    let audit = science::catch_can::audit(&cans, t.minutes).unwrap();
    let found = result(&t);
    assert_eq!(audit.n, 15);
    assert!((audit.precipitation_rate_mm_h - found.rate_mm_h.value.mm_h()).abs() < 1e-9);
    assert!((audit.du_lq.unwrap() - found.evenness_du_lq.unwrap().value).abs() < 1e-12);
    let driest = science::catch_can::scheduling_coefficient(&cans, &|_, _| true);
    assert!((driest.unwrap() - found.scheduling_coefficient.unwrap()).abs() < 1e-9);
}

#[test]
fn a_test_reads_back_as_it_was_written() {
    let t = test(|x, y| x + y);
    let json = serde_json::to_string(&t).unwrap();
    assert_eq!(serde_json::from_str::<CanTest>(&json).unwrap(), t);
}

#[test]
fn a_round_mouth_is_measured_across() {
    // 112.8379 mm across is 100 cm².
    let mut round = test(|x, _| 30.0 + x);
    round.container = Container::Round {
        mouth_mm: 112.837_916_7,
        holds_ml: 250.0,
    };
    let (a, b) = (result(&round), result(&test(|x, _| 30.0 + x)));
    let rate = |r: &TestResult| r.rate_mm_h.value.mm_h();
    assert!((rate(&a) / rate(&b) - 1.0).abs() < 1e-9);
}

#[test]
fn heads_that_stood_still_are_said_and_widen_the_range() {
    let mut idle = test(|x, _| 40.0 + x);
    idle.idle_heads = vec![2];
    let (with, without) = (result(&idle), result(&test(|x, _| 40.0 + x)));
    assert!(with.doubts.contains(&Doubt::Idle { heads: vec![2] }));
    assert!(with.rate_mm_h.high.mm_h() > without.rate_mm_h.high.mm_h());
}

/// By hand: 28 mm a week, 8 % lost, 600 m², 2.10 per m³; low quarter 0.5, M = 1 / 0.7; rate 16 mm/h. Even: 28 / 0.92 = 30.435 mm.
/// The excess is 3/7 of it: 13.043 mm, 48.91 min, 7826 L, 16.43.
#[test]
fn what_unevenness_costs_a_week_is_told_in_minutes_water_and_money() {
    let week = WeekNeed {
        need_mm: 28.0,
        area_m2: 600.0,
        spray_loss: 0.08,
        price_per_m3: Some(2.10),
    };
    let cost = week.cost(16.0, 0.5).unwrap();
    assert!((cost.minutes - 48.91).abs() < 0.01, "{cost:?}");
    assert!((cost.volume_l - 7826.1).abs() < 0.1, "{cost:?}");
    assert!((cost.money.unwrap() - 16.43).abs() < 0.01, "{cost:?}");
    let even = week.cost(16.0, 1.0).unwrap();
    assert!(even.minutes.abs() < 1e-9 && even.volume_l.abs() < 1e-9);
    assert_eq!(week.cost(0.0, 0.5), None);
}

#[test]
fn a_can_that_caught_many_times_what_the_others_did_is_asked_about() {
    let even = |_, _| 10.0;
    assert_eq!(unlikely::can(&test(even)), None);
    // A slipped decimal: 95 among tens.
    let mut slipped = test(even);
    slipped.cans[6].reading = Some(95.0);
    assert_eq!(
        unlikely::can(&slipped),
        Some(Unlikely::OddCan { can: 7, times: 9.5 })
    );
    // Uneven sprinklers are no slip of the thumb, and three cans tell nothing.
    assert_eq!(unlikely::can(&test(|x, y| 4.0 + x + y)), None);
    for can in &mut slipped.cans {
        can.fate = if [6, 7, 8].contains(&can.number) {
            Fate::Read
        } else {
            Fate::Unread
        };
    }
    assert_eq!(unlikely::can(&slipped), None);
}
