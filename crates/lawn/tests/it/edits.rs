//! What people change of a plan: a day taken out, what runs on it set; the days after are planned with it, and what has become harmful is pointed out.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::dose::of_minutes;
use lawn::engine::skip::Skip;
use lawn::quantity::{Depth, RunTime};
use lawn::record::edit::{Becomes, Edit};
use lawn::record::watered::Watered;
use lawn::site::SiteDocument;
use lawn::view::plan::{Known, Run, plan_week};
use lawn::view::verdict::{Verdict, Warning};
use lawn::view::week_plan::{Cell, State, WeekPlan};
use lawn::weather::DailyWeather;
use proptest::prelude::*;

use crate::fixture::{TODAY, dry, model, plain, site, zone};

fn document(zones: usize, depletion_mm: f64) -> SiteDocument {
    let mut document = site((0..zones).map(|i| zone(&format!("z{i}"))).collect());
    for zone in &mut document.zones {
        zone.initial_depletion_mm = Some(Depth::from_mm(depletion_mm));
        zone.active_from = Some(TODAY);
    }
    document
}

fn plan(document: &SiteDocument, edits: &[Edit]) -> WeekPlan {
    plan_week(&Known {
        edits,
        ..Known::of_record(document, &dry(document, 20), TODAY)
    })
    .unwrap()
}

/// The same with a forecast of one low for today.
fn plan_at(document: &SiteDocument, edits: &[Edit], tmin_c: f64) -> WeekPlan {
    let today = DailyWeather {
        tmin_c: Some(tmin_c),
        ..plain(TODAY, 2.0, 0.0)
    };
    plan_week(&Known {
        edits,
        forecast: &[today],
        ..Known::of_record(document, &dry(document, 20), TODAY)
    })
    .unwrap()
}

fn on(day: i64) -> Date {
    TODAY.checked_add(day.days()).unwrap()
}

fn edit(zone: &str, day: i64, becomes: Becomes) -> Edit {
    Edit {
        zone: zone.to_owned(),
        date: on(day),
        becomes,
    }
}

fn cell(plan: &WeekPlan, zone: usize, date: Date) -> &Cell {
    let mut cells = plan.zones[zone].cells.iter();
    cells.find(|c| c.date == date).unwrap()
}

fn watered(plan: &WeekPlan, zone: usize) -> Vec<Date> {
    let cells = plan.zones[zone].cells.iter();
    cells.filter(|c| c.run.is_some()).map(|c| c.date).collect()
}

#[test]
fn a_day_that_is_taken_out_is_made_up_for_on_others() {
    let document = document(1, 20.0);
    let first = watered(&plan(&document, &[]), 0)[0];
    let out = [Edit {
        date: first,
        ..edit("z0", 0, Becomes::TakenOut)
    }];
    let without = plan(&document, &out);
    let day = cell(&without, 0, first);
    assert_eq!(
        (day.state, &day.run, day.edit),
        (State::Skip, &None, Some(Becomes::TakenOut))
    );
    assert_eq!(
        day.verdict,
        Verdict::Skipped {
            skip: Skip::TakenOut
        }
    );
    // The night before or after carries what it does not.
    let near = |date: &Date| (first.until(*date).unwrap().get_days()).abs() <= 2;
    assert!(watered(&without, 0).iter().any(near));
}

#[test]
fn what_is_set_runs_as_it_was_set_and_the_days_after_know_it() {
    let document = document(2, 20.0);
    let free = plan(&document, &[]);
    let dose = of_minutes(&model(&document.zones[0]), RunTime::from_minutes(30.0)).unwrap();
    let set = Becomes::Set {
        passes: dose.passes,
        pass_s: dose.pass_s,
    };
    let edited = plan(&document, &[edit("z0", 0, set)]);
    let today = cell(&edited, 0, TODAY);
    let run = today.run.as_ref().unwrap();
    assert_eq!(
        (run.passes, run.pass_s, today.edit),
        (dose.passes, dose.pass_s, Some(set))
    );
    assert_eq!(today.verdict, Verdict::Fixed);
    assert!(cell(&edited, 0, on(1)).depletion_start_mm < cell(&free, 0, on(1)).depletion_start_mm);
    // Locked is what the plan had: nothing else changes.
    let first = watered(&free, 0)[0];
    let run = cell(&free, 0, first).run.as_ref().unwrap();
    let lock = Edit {
        date: first,
        ..edit(
            "z0",
            0,
            Becomes::Set {
                passes: run.passes,
                pass_s: run.pass_s,
            },
        )
    };
    let locked = plan(&document, &[lock]);
    for zone in 0..2 {
        let runs = |plan: &WeekPlan| -> Vec<(Date, i64)> {
            let cells = plan.zones[zone].cells.iter();
            cells
                .flat_map(|c| c.runs().map(|r| (c.date, r.run_s)))
                .collect()
        };
        assert_eq!(runs(&locked), runs(&free), "zone {zone}");
    }
}

#[test]
fn what_has_become_harmful_is_pointed_out_and_kept() {
    let moist = document(1, 1.0);
    let set = Becomes::Set {
        passes: 2,
        pass_s: 900,
    };
    let edited = plan(&moist, &[edit("z0", 0, set)]);
    let today = cell(&edited, 0, TODAY);
    assert_eq!(today.run.as_ref().map(|r| r.run_s), Some(1800));
    let drains = today
        .warnings
        .iter()
        .any(|w| matches!(w, Warning::EditDrains { drains_mm } if drains_mm.mm() > 2.0));
    assert!(drains, "{:?}", today.warnings);
    let mut closed = moist;
    closed.windows[0]
        .days
        .retain(|d| *d != lawn::site::Weekday::of(TODAY));
    let edited = plan(&closed, &[edit("z0", 0, set)]);
    assert!(
        cell(&edited, 0, TODAY)
            .warnings
            .contains(&Warning::EditHasNoHours)
    );
}

#[test]
fn what_a_person_set_on_a_night_that_may_freeze_is_kept_and_pointed_out() {
    let document = document(1, 10.0);
    let set = Becomes::Set {
        passes: 2,
        pass_s: 900,
    };
    let edits = [edit("z0", 0, set)];
    // Water on paving freezes: nothing runs by itself at or below 3 °C (common practice, no source).
    for (tmin_c, freezes) in [(3.0, true), (-2.0, true), (3.1, false)] {
        let edited = plan_at(&document, &edits, tmin_c);
        let today = cell(&edited, 0, TODAY);
        assert_eq!(today.run.as_ref().map(|r| r.run_s), Some(1800), "{tmin_c}");
        let said = today.warnings.contains(&Warning::EditFreezes { tmin_c });
        assert_eq!(said, freezes, "{tmin_c}: {:?}", today.warnings);
    }
}

/// What has run today is not hidden by an edit that came after it.
#[test]
fn a_day_that_is_taken_out_after_it_ran_says_that_it_ran() {
    let document = document(1, 10.0);
    let ran = [Run {
        zone: "z0".to_owned(),
        date: TODAY,
        after_noon: false,
        started: None,
        passes: 1,
        run_s: 900,
        watered: Watered::all(),
        assumed: true,
    }];
    let edits = [edit("z0", 0, Becomes::TakenOut)];
    let observed = dry(&document, 20);
    let plan = plan_week(&Known {
        runs: &ran,
        edits: &edits,
        ..Known::of_record(&document, &observed, TODAY)
    })
    .unwrap();
    assert_eq!(cell(&plan, 0, TODAY).state, State::Ran);
}

/// What people set never leaves the allowed hours, however much it is.
#[test]
fn more_than_a_night_holds_stays_within_its_hours() {
    let document = document(3, 30.0);
    let long = Becomes::Set {
        passes: 3,
        pass_s: 3600,
    };
    let edits: Vec<Edit> = (0..3).map(|i| edit(&format!("z{i}"), 0, long)).collect();
    let full = plan(&document, &edits);
    let mut runs = 0;
    for zone in 0..3 {
        for run in cell(&full, zone, TODAY).runs() {
            let ends = run.starts.iter().map(|s| s.as_second() + run.pass_s);
            assert!(ends.max().unwrap() <= run.window.closes.as_second());
            runs += 1;
        }
    }
    assert!(runs > 0);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]
    /// Any edits: what is set runs so, nothing runs on a day taken out, what nobody touched of a zone stays within its windows; the same edits in another order are the same week.
    #[test]
    fn any_edits_are_kept(
        depletion in 0.0..40.0f64,
        edits in prop::collection::btree_map((0..3usize, 0..6i64), prop::option::of((1..4u32, 3..15i64)), 0..8),
    ) {
        let document = document(3, depletion);
        let list: Vec<Edit> = edits.iter().map(|((zone, day), set)| {
            let becomes = match set {
                Some((passes, min)) => Becomes::Set { passes: *passes, pass_s: 60 * min },
                None => Becomes::TakenOut,
            };
            edit(&format!("z{zone}"), *day, becomes)
        }).collect();
        let edited = plan(&document, &list);
        for ((zone, day), set) in &edits {
            let cell = cell(&edited, *zone, on(*day));
            let runs: Vec<(u32, i64)> = cell.runs().map(|r| (r.passes, r.pass_s)).collect();
            match set {
                Some((passes, min)) => prop_assert_eq!(runs, [(*passes, 60 * min)]),
                None => prop_assert!(runs.is_empty()),
            }
        }
        let mut turned = list;
        turned.reverse();
        prop_assert_eq!(plan(&document, &turned), edited);
    }
}
