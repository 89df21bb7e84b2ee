//! What changed since yesterday's plan.

use jiff::ToSpan;
use lawn::quantity::Depth;
use lawn::record::watered::Watered;
use lawn::site::SiteDocument;
use lawn::view::changes::{Change, changes_with_causes};
use lawn::view::plan::{self, Known, Plan, Run};

use crate::fixture::{TODAY, day, dry, series, site, zone};

fn document() -> SiteDocument {
    let mut z = zone("a");
    z.initial_depletion_mm = Some(Depth::from_mm(14.0));
    site(vec![z])
}

fn plan(document: &SiteDocument, days_later: i64, rain_mm: f64, runs: &[Run]) -> Plan {
    let mut observed = dry(document, 2);
    for later in 0..days_later {
        let mut more = day(TODAY.checked_add(later.days()).unwrap());
        more.rain_mm = Some(rain_mm);
        observed.extend(series(document, &[more]));
    }
    plan::plan(&Known {
        runs,
        ..Known::of_record(
            document,
            &observed,
            TODAY.checked_add(days_later.days()).unwrap(),
        )
    })
    .unwrap()
}

fn changes(before: &Plan, after: &Plan) -> Vec<Change> {
    let found = changes_with_causes(&before.programme, after, &[]);
    found.into_iter().flat_map(|zone| zone.changes).collect()
}

#[test]
fn the_same_plan_has_no_changes() {
    let document = document();
    let before = plan(&document, 0, 0.0, &[]);
    assert_eq!(changes(&before, &before), []);
}

#[test]
fn rain_overnight_drops_or_moves_a_watering_and_it_is_said() {
    let document = document();
    let before = plan(&document, 0, 0.0, &[]);
    let planned: Vec<_> = before.week.zones[0]
        .cells
        .iter()
        .filter(|c| c.run.is_some() && c.date > TODAY)
        .map(|c| c.date)
        .collect();
    assert!(!planned.is_empty(), "a dry week waters");
    let after = plan(&document, 1, 25.0, &[]);
    let found = changes(&before, &after);
    assert!(
        found.iter().any(|c| match c {
            Change::Dropped { date, .. } => planned.contains(date),
            Change::Moved { from, to, .. } => planned.contains(from) && to > from,
            _ => false,
        }),
        "{found:?}"
    );
}

#[test]
fn what_ran_is_no_change() {
    let document = document();
    let before = plan(&document, 0, 0.0, &[]);
    let Some(run) = before.week.zones[0]
        .cells
        .iter()
        .find_map(|c| c.run.as_ref().map(|r| (c.date, r.passes, r.pass_s)))
    else {
        panic!("a dry week waters")
    };
    let later = i64::from(TODAY.until(run.0).unwrap().get_days());
    let ran = [Run {
        zone: "a".to_owned(),
        date: run.0,
        after_noon: false,
        started: None,
        passes: run.1,
        run_s: run.2 * i64::from(run.1),
        watered: Watered::all(),
        assumed: true,
    }];
    let after = plan(&document, later, 0.0, &ran);
    assert!(changes(&before, &after).iter().all(|c| c.date() != run.0));
}
