//! Entries for some hours: keep dry, water in; what a plan makes of them, and what of them it cannot keep.

use jiff::Timestamp;
use jiff::civil::{Date, date, time};
use jiff::tz::TimeZone;
use lawn::engine::skip::Skip;
use lawn::quantity::Depth;
use lawn::record::constraint::{Asks, Constraint};
use lawn::record::watered::Watered;
use lawn::site::rules::{Never, Says};
use lawn::site::{Regime, SiteDocument};
use lawn::view::ledger::Line;
use lawn::view::plan::{Known, Run, plan_week};
use lawn::view::verdict::{NotWateredIn, Verdict, Warning};
use lawn::view::week_plan::{Cell, WeekPlan};
use proptest::prelude::*;

use crate::fixture::{TODAY, dry, model, plan_on, site, window, zone};

fn at(day: Date, hour: i8) -> Timestamp {
    let zone = TimeZone::get("America/New_York").unwrap();
    let local = day.to_datetime(time(hour, 0, 0, 0));
    local.to_zoned(zone).unwrap().timestamp()
}

fn entry(from: Timestamp, until: Timestamp, asks: Asks) -> Constraint {
    Constraint {
        zone: "a".to_owned(),
        from,
        until,
        asks,
    }
}

fn water_in(mm: f64) -> Asks {
    Asks::WaterIn {
        net_mm: Depth::from_mm(mm),
    }
}

/// One zone at field capacity: nothing is due for days.
fn moist() -> SiteDocument {
    let mut document = site(vec![zone("a")]);
    document.zones[0].initial_depletion_mm = Some(Depth::from_mm(2.0));
    document.zones[0].active_from = Some(TODAY);
    document
}

fn plan_with(document: &SiteDocument, constraints: &[Constraint]) -> WeekPlan {
    plan_week(&Known {
        constraints,
        ..Known::of_record(document, &dry(document, 30), TODAY)
    })
    .unwrap()
}

fn not_in(plan: &WeekPlan) -> Option<(f64, NotWateredIn)> {
    let warnings = plan.zones[0].cells.iter().flat_map(|c| &c.warnings);
    let mut found = warnings.filter_map(|w| match w {
        Warning::NotWateredIn {
            short_mm, because, ..
        } => Some((short_mm.mm(), *because)),
        _ => None,
    });
    found.next()
}

fn runs(plan: &WeekPlan) -> Vec<(Date, f64)> {
    let cells = plan.zones[0].cells.iter();
    cells
        .flat_map(|c| c.runs().map(|r| (c.date, r.net_mm.mm())))
        .collect()
}

#[test]
fn what_is_put_down_is_watered_in_at_the_first_hours_that_are_open() {
    let document = moist();
    let tomorrow = TODAY.tomorrow().unwrap();
    let asked = entry(at(TODAY, 10), at(tomorrow, 10), water_in(6.0));
    let plan = plan_with(&document, std::slice::from_ref(&asked));
    let cell = plan.zones[0].cells.iter().find(|c| c.date == tomorrow);
    let cell = cell.unwrap();
    assert!(
        matches!(cell.verdict, Verdict::WatersIn { by } if by == tomorrow.to_datetime(time(10, 0, 0, 0)))
    );
    assert!(
        cell.ledger
            .iter()
            .any(|l| matches!(l, Line::WatersIn { net_mm, .. } if net_mm.mm() == 6.0))
    );
    let net = cell.run.as_ref().unwrap().net_mm.mm();
    // At least as much as asked, and no more than a step of the clock beyond.
    let step = model(&document.zones[0]).rate.value.mm_h() / 60.0;
    assert!((6.0..6.0 + 2.0 * step).contains(&net), "{net}");
    assert_eq!(not_in(&plan), None);
    // Not at all without the entry.
    assert!(
        runs(&plan_on(&document, &dry(&document, 30), TODAY))
            .iter()
            .all(|r| r.0 != tomorrow)
    );
    // A window that lies only partly within the hours is used within them: cut at both ends.
    let early = entry(at(tomorrow, 4), at(tomorrow, 6), water_in(6.0));
    let plan = plan_with(&document, &[early]);
    let run = plan.zones[0]
        .cells
        .iter()
        .find_map(|c| c.run.clone())
        .unwrap();
    let ends = run.starts.last().unwrap().as_second() + run.pass_s;
    assert!(run.starts[0] >= at(tomorrow, 4) && ends <= at(tomorrow, 6).as_second());
}

#[test]
fn what_ran_within_the_hours_counts() {
    let document = moist();
    let yesterday = TODAY.yesterday().unwrap();
    let asked = entry(
        at(yesterday, 10),
        at(TODAY.tomorrow().unwrap(), 10),
        water_in(6.0),
    );
    let ran = |hour: i8| Run {
        zone: "a".to_owned(),
        date: yesterday,
        after_noon: hour >= 12,
        started: Some(time(hour, 0, 0, 0)),
        passes: 1,
        run_s: 1800,
        watered: Watered::all(),
        assumed: false,
    };
    let observed = dry(&document, 30);
    let first_run = |runs_of: &[Run]| {
        let plan = plan_week(&Known {
            runs: runs_of,
            constraints: std::slice::from_ref(&asked),
            ..Known::of_record(&document, &observed, TODAY)
        });
        runs(&plan.unwrap()).first().map(|r| r.0)
    };
    assert_eq!(first_run(&[]), Some(TODAY));
    // What ran before it was put down did not wash it in.
    assert_eq!(first_run(&[ran(6)]), Some(TODAY));
    assert_ne!(first_run(&[ran(18)]), Some(TODAY));
}

#[test]
fn conflicts_say_what_is_short_and_why() {
    let tomorrow = TODAY.tomorrow().unwrap();
    let asked = entry(at(TODAY, 10), at(tomorrow, 10), water_in(6.0));
    let dry_too = entry(at(TODAY, 10), at(tomorrow, 12), Asks::KeepDry);
    let because = |document: &SiteDocument, entries: &[Constraint]| {
        let (short, because) = not_in(&plan_with(document, entries)).unwrap();
        assert!(short > 0.5, "{short}");
        because
    };
    let moist = moist();
    assert_eq!(
        because(&moist, &[asked.clone(), dry_too]),
        NotWateredIn::Forbidden {
            skip: Skip::KeptDry
        }
    );
    // No allowed hours before; a rule that closes them; a zone that is not planned; more than the hours carry.
    let noon = entry(at(TODAY, 10), at(TODAY, 20), water_in(6.0));
    assert_eq!(because(&moist, &[noon]), NotWateredIn::NoHours);
    let mut closed = moist.clone();
    closed.zones.push(zone("b"));
    let mut never = crate::rules::rule("Match", Says::Never(Never::default()));
    never.zones = vec!["a".to_owned()];
    closed.rules.list.push(never);
    assert_eq!(
        because(&closed, std::slice::from_ref(&asked)),
        NotWateredIn::Closed
    );
    let mut seed = moist.clone();
    seed.zones[0].regime = Regime::Off;
    assert_eq!(
        because(&seed, std::slice::from_ref(&asked)),
        NotWateredIn::NotPlanned
    );
    let mut short = moist;
    short.windows = vec![window(&lawn::site::Weekday::ALL, "05:00", "05:10")];
    assert_eq!(because(&short, &[asked]), NotWateredIn::NoRoom);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    /// Whatever hours are asked: no minute of a run lies in hours that must stay dry; what is asked in is given within its hours or said to be short.
    #[test]
    fn entries_are_kept_or_said_to_be_short(
        dry_from in 0..140i32, dry_hours in 1..60i32,
        in_from in 0..140i32, in_hours in 1..60i32, mm in 2.0..15.0f64,
        depletion in 0.0..40.0f64,
    ) {
        let hours = |n: i32| at(date(2026, 6, 18), 0).as_second() + i64::from(n) * 3600;
        let instant = |n: i32| Timestamp::from_second(hours(n)).unwrap();
        let mut document = moist();
        document.zones.push(zone("b"));
        document.zones[0].initial_depletion_mm = Some(Depth::from_mm(depletion));
        let entries = [
            entry(instant(dry_from), instant(dry_from + dry_hours), Asks::KeepDry),
            entry(instant(in_from), instant(in_from + in_hours), water_in(mm)),
        ];
        let plan = plan_with(&document, &entries);
        let mut given = 0.0;
        for run in plan.zones[0].cells.iter().flat_map(Cell::runs) {
            let mut within = true;
            for start in &run.starts {
                let (start, end) = (start.as_second(), start.as_second() + run.pass_s);
                prop_assert!(end <= hours(dry_from) || start >= hours(dry_from + dry_hours), "{start} to {end}");
                within &= start >= hours(in_from) && end <= hours(in_from + in_hours);
            }
            if within {
                given += run.net_mm.mm();
            }
        }
        let ends_in_plan = in_from + in_hours < 7 * 24;
        if let Some((short, _)) = not_in(&plan) {
            prop_assert!(given + short >= mm - 1e-6);
        } else if ends_in_plan {
            prop_assert!(given >= mm - 0.5, "{given} of {mm}");
        }
    }
}
