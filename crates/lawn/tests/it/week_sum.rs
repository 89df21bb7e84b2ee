//! What a zone got since Monday, against its target or its plan (common practice, no source).

use jiff::civil::date;
use lawn::quantity::Depth;
use lawn::record::known::Run;
use lawn::record::watered::Watered;
use lawn::site::{School, WeeklyTarget};
use lawn::view::plan::{Known, plan_week};
use lawn::view::week_plan::{Cell, WeekSum};

use crate::fixture::{TODAY, dry, site, zone};

/// On Thursday, after a run on Tuesday of so many minutes.
fn sum(school: School, minutes: i64) -> (WeekSum, Vec<Cell>) {
    let mut zone = zone("a");
    zone.school = school;
    let document = site(vec![zone]);
    let mut observed = dry(&document, 40);
    // 8 mm of rain on Monday; what fell on Sunday was last week's.
    let count = observed.len();
    observed[count - 3].rain = Depth::from_mm(8.0);
    observed[count - 4].rain = Depth::from_mm(30.0);
    let run = Run {
        zone: "a".to_owned(),
        date: date(2026, 6, 16),
        after_noon: false,
        started: None,
        passes: 2,
        run_s: minutes * 60,
        watered: Watered::all(),
        assumed: true,
    };
    let runs = [run];
    let plan = plan_week(&Known {
        runs: &runs,
        ..Known::of_record(&document, &observed, TODAY)
    })
    .unwrap();
    let zone = &plan.zones[0];
    (zone.this_week, zone.cells.clone())
}

#[test]
fn the_sum_counts_from_monday_and_ends_on_sunday() {
    let (balance, cells) = sum(School::WaterBalance, 20);
    assert_eq!(balance.since, date(2026, 6, 15));
    assert!((balance.rain_mm.mm() - 8.0).abs() < 0.5, "{balance:?}");
    let tuesday = cells.iter().find(|c| c.date == date(2026, 6, 16)).unwrap();
    assert_eq!(balance.given_mm, tuesday.irrigation_net_mm);
    assert!(balance.given_mm > Depth::from_mm(5.0), "{balance:?}");
    assert_eq!(balance.got_mm, balance.given_mm + balance.rain_mm);
    let left: Depth = (cells
        .iter()
        .filter(|c| c.date >= TODAY && c.date <= date(2026, 6, 21)))
    .flat_map(Cell::runs)
    .map(|run| run.net_mm)
    .sum();
    assert_eq!(
        (balance.target, balance.of_mm),
        (false, balance.got_mm + left)
    );

    let target = WeeklyTarget::default();
    let (weekly, cells) = sum(School::WeeklyTarget(target), 20);
    assert_eq!((weekly.target, weekly.of_mm), (true, target.target_mm));
    assert_eq!(weekly.got_mm, balance.got_mm);
    // What is left of the target is what the school gives until Sunday, by its own rule; passes are whole minutes of 0.7 mm.
    let left: Depth = (cells
        .iter()
        .filter(|c| c.date >= TODAY && c.date <= date(2026, 6, 21)))
    .flat_map(Cell::runs)
    .map(|run| run.net_mm)
    .sum();
    let missing = (weekly.of_mm - weekly.got_mm).mm();
    assert!(
        (0.0..1.5).contains(&(missing - left.mm())),
        "{} of {missing}",
        left.mm()
    );
}
