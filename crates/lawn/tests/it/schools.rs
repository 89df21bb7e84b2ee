//! Schools that go by the calendar against the arithmetic of common practice (no source), and what they share with every school.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::replay::{Foresight, Row, replay};
use lawn::quantity::{Depth, Rate};
use lawn::site::{
    EveryOtherDay, FixedInterval, School, SiteDocument, Weekday, WeeklyTarget, Zone, document,
};
use lawn::view::ledger::Line;
use lawn::view::verdict::Verdict;
use lawn::weather::DailyWeather;

use crate::fixture::{TODAY, exactly, plain, plan_on, site, window, zone};

/// An inch an hour, perfectly even, nothing lost, on sand: a can on the lawn reads what the clock says.
fn inch_an_hour(school: School) -> Zone {
    Zone {
        school,
        soil: science::soil::Texture::Sand,
        rate_mm_h: Some(exactly(Rate::from_mm_h(25.4))),
        evenness_du_lq: Some(exactly(1.0)),
        spray_loss: Some(exactly(0.0)),
        ..zone("a")
    }
}

/// A Monday.
const MONDAY: Date = Date::constant(2026, 6, 1);

fn record(days: i64, rain: impl Fn(i64) -> f64) -> Vec<DailyWeather> {
    (-10..days)
        .map(|i| plain(MONDAY.checked_add(i.days()).unwrap(), 6.0, rain(i)))
        .collect()
}

fn replayed<'a>(document: &'a SiteDocument, days: i64, rain: impl Fn(i64) -> f64) -> Vec<Row<'a>> {
    let to = MONDAY.checked_add((days - 1).days()).unwrap();
    replay(document, &record(days, rain), MONDAY, to, Foresight::None).unwrap()
}

/// Days from Monday on with water, and the net depth of each, mm.
fn waterings(rows: &[Row]) -> Vec<(i32, f64)> {
    let mm = |row: &Row| (row.balance.irrigation.net.mm() * 1e6).round() / 1e6;
    rows.iter()
        .filter(|row| row.balance.irrigation.net > Depth::ZERO)
        .map(|row| (row.date.since(MONDAY).unwrap().get_days(), mm(row)))
        .collect()
}

#[test]
fn half_an_inch_every_third_day_is_thirty_millimetres_a_week() {
    let document = site(vec![inch_an_hour(School::FixedInterval(
        FixedInterval::default(),
    ))]);
    let ran = waterings(&replayed(&document, 21, |_| 0.0));
    assert_eq!(
        ran,
        (0..7).map(|n| (3 * n, 12.7)).collect::<Vec<_>>(),
        "half an inch takes 30 min at an inch an hour"
    );
    let a_week = ran.iter().map(|(_, mm)| mm).sum::<f64>() / 3.0;
    assert!((a_week - 30.0).abs() < 0.5, "{a_week}");
}

/// Practitioners skip a morning on which rain is as good as sure to bring what they would give (common practice, no source).
#[test]
fn a_morning_of_sure_rain_is_left_to_it() {
    let document = site(vec![inch_an_hour(School::FixedInterval(
        FixedInterval::default(),
    ))]);
    let days = |rain_mm: f64| -> Vec<i32> {
        let rain = |day: i64| if day == 3 { rain_mm } else { 0.0 };
        let to = MONDAY.checked_add(7.days()).unwrap();
        let record = record(8, rain);
        let rows = replay(&document, &record, MONDAY, to, Foresight::Perfect).unwrap();
        waterings(&rows).iter().map(|(day, _)| *day).collect()
    };
    assert_eq!(
        days(5.0),
        [0, 3, 6],
        "less than half an inch is none to wait for"
    );
    // Then it rained within the last 24 hours; on the day after that the interval is long over.
    assert_eq!(days(20.0), [0, 5]);
}

#[test]
fn twenty_minutes_thrice_a_week_at_an_inch_an_hour_is_an_inch() {
    let minutes = EveryOtherDay {
        run_minutes: 20.0,
        every_days: 2,
    };
    let mut document = site(vec![inch_an_hour(School::EveryOtherDay(minutes))]);
    let days = [Weekday::Monday, Weekday::Wednesday, Weekday::Friday];
    document.windows = vec![window(&days, "04:00", "07:00")];
    let sum = |document: &SiteDocument| -> f64 {
        let ran = waterings(&replayed(document, 7, |_| 0.0));
        ran.iter().map(|(_, mm)| mm).sum()
    };
    assert!((sum(&document) - 25.4).abs() < 1e-5);
    // 30 min × 3 are an inch and a half.
    document.zones[0].school = School::EveryOtherDay(EveryOtherDay {
        run_minutes: 30.0,
        ..minutes
    });
    assert!((sum(&document) - 38.1).abs() < 1e-5);
}

#[test]
fn the_weekly_target_counts_rain_and_shares_the_rest_among_its_soaks() {
    let document = site(vec![inch_an_hour(School::WeeklyTarget(
        WeeklyTarget::default(),
    ))]);
    // Whole minutes at an inch an hour: 12.5 mm take 29 min.
    let minutes = |n: f64| n * 25.4 / 60.0;
    let rounded = |mm: f64| (mm * 1e6).round() / 1e6;
    let dry = waterings(&replayed(&document, 7, |_| 0.0));
    let first = rounded(minutes(29.0));
    let second = rounded(minutes(((25.0 - minutes(29.0)) * 60.0 / 25.4).floor()));
    assert_eq!(dry, [(0, first), (3, second)]);
    // 9 mm on Tuesday; the sand is dry enough to take it all.
    let showers = waterings(&replayed(
        &document,
        7,
        |day| {
            if day == 1 { 9.0 } else { 0.0 }
        },
    ));
    assert_eq!(showers[0], (0, first));
    assert!(
        (showers[1].1 - (25.0 - 9.0 - first)).abs() < minutes(1.0),
        "{showers:?}"
    );
    // Wet through before the first soak: nothing is left of the week's depth, and next Monday it begins anew.
    let mut thirsty = document;
    thirsty.zones[0].root_depth_mm = Some(exactly(Depth::from_mm(600.0)));
    thirsty.zones[0].initial_depletion_mm = Some(Depth::from_mm(34.0));
    let days = [Weekday::Wednesday, Weekday::Saturday];
    thirsty.windows = vec![window(&days, "04:00", "07:00")];
    let rain = |day: i64| if day == 0 { 40.0 } else { 0.0 };
    let ran = waterings(&replayed(&thirsty, 14, rain));
    assert_eq!(ran.iter().map(|(day, _)| *day).collect::<Vec<_>>(), [9, 12]);
}

#[test]
fn cold_turf_gets_no_weekly_target_unless_it_is_set() {
    let mut document = site(vec![inch_an_hour(School::WeeklyTarget(
        WeeklyTarget::default(),
    ))]);
    let cold: Vec<DailyWeather> = record(7, |_| 0.0)
        .into_iter()
        .map(|day| DailyWeather {
            smoothed_c: Some(2.0),
            ..day
        })
        .collect();
    let ran = |document: &SiteDocument| {
        let to = date(2026, 6, 7);
        let rows = replay(document, &cold, MONDAY, to, Foresight::Perfect).unwrap();
        waterings(&rows).len()
    };
    assert_eq!(ran(&document), 0);
    document.zones[0].school = School::WeeklyTarget(WeeklyTarget {
        dormant_target_mm: Depth::from_mm(10.0),
        soaks: 1,
        ..WeeklyTarget::default()
    });
    assert_eq!(ran(&document), 1);
}

#[test]
fn minutes_on_slow_ground_are_cut_into_passes_with_soaks() {
    let zone = Zone {
        soil: science::soil::Texture::Clay,
        slope_pct: 8.0,
        ..inch_an_hour(School::EveryOtherDay(EveryOtherDay {
            run_minutes: 30.0,
            every_days: 2,
        }))
    };
    let document = site(vec![zone]);
    let observed = record(17, |_| 0.0);
    let plan = plan_on(&document, &observed, TODAY);
    let zone = &plan.zones[0];
    let cell = &zone.cells[2];
    let run = cell.run.as_ref().unwrap();
    assert!(run.passes >= 3 && run.soak_s > 0, "{run:?}");
    assert!(matches!(cell.verdict, Verdict::RuleDue { .. }));
    let sum: i64 = cell.ledger.iter().filter_map(Line::seconds).sum();
    assert_eq!(sum, run.run_s);
    assert!(cell.ledger.iter().any(|l| matches!(l, Line::Rule { .. })));
    assert!(
        cell.ledger
            .iter()
            .any(|l| matches!(l, Line::BalanceWould { .. }))
    );
    // Tomorrow the rule asks for nothing, and says when it does.
    let tomorrow = &zone.cells[3];
    let again = TODAY.checked_add(2.days()).unwrap();
    assert!(
        matches!(tomorrow.verdict, Verdict::RuleWaits { on, .. } if on == again),
        "{:?}",
        tomorrow.verdict
    );
    // What the water balance would make of the week stands beside it.
    let beside = zone.beside.unwrap();
    assert!(beside.own.net_mm > Depth::ZERO && beside.balance.net_mm > Depth::ZERO);
}

#[test]
fn a_school_is_a_fact_with_a_day_and_reads_and_writes() {
    let json = serde_json::json!({ "kind": "weekly_target", "soaks": 3 });
    let school: School = serde_json::from_value(json).unwrap();
    let School::WeeklyTarget(target) = school else {
        panic!("{school:?}")
    };
    assert_eq!((target.soaks, target.target_mm.mm()), (3, 25.0));
    let mut own = inch_an_hour(school);
    own.facts = serde_json::from_value(serde_json::json!([
        { "from": "1900-01-01", "school": null },
        { "from": "2026-06-04", "school": school }
    ]))
    .unwrap();
    let made = site(vec![own]);
    let read = document::read(&document::write(&made)).unwrap();
    assert_eq!(read, made);
    assert!(read.zones[0].on(MONDAY).school.is_water_balance());
    assert_eq!(read.zones[0].on(date(2026, 6, 4)).school, school);
    // One school for all, at all times.
    let all = read.with_school(School::FixedInterval(FixedInterval::default()));
    assert!(all.validate().is_ok());
    assert!(!all.zones[0].on(MONDAY).school.is_water_balance());
    let bad = |school: serde_json::Value| {
        let school = serde_json::from_value(school).unwrap();
        let document = site(vec![inch_an_hour(school)]);
        document.validate().unwrap_err().field
    };
    let kind = |kind: &str, key: &str, value: f64| serde_json::json!({ "kind": kind, key: value });
    assert_eq!(
        bad(kind("weekly_target", "target_mm", 900.0)),
        "zones[0].school.target_mm"
    );
    assert_eq!(
        bad(kind("every_other_day", "run_minutes", 0.0)),
        "zones[0].school.run_minutes"
    );
    assert_eq!(
        bad(serde_json::json!({ "kind": "fixed_interval", "every_days": 9 })),
        "zones[0].school.every_days"
    );
}
