//! The plan as people read it: the working adds up, runs count, windows that are past are past.

use jiff::Timestamp;
use jiff::civil::date;
use lawn::quantity::{Area, Depth};
use lawn::record::watered::Watered;
use lawn::site::SiteDocument;
use lawn::view::ledger::Line;
use lawn::view::plan::{DryDay, Error, Known, Run, plan_week};
use lawn::view::verdict::Note;
use lawn::view::week_plan::{State, WeekPlan};
use lawn::weather::DailyWeather;

use science::sprinkler::Kind;

use crate::fixture::{TODAY, day, dry, series, site, zone};

fn plan_of(
    document: &SiteDocument,
    observed: &[DailyWeather],
    runs: &[Run],
    now: Option<Timestamp>,
) -> WeekPlan {
    plan_week(&Known {
        runs,
        now,
        ..Known::of_record(document, observed, TODAY)
    })
    .unwrap()
}

#[test]
fn the_times_of_a_working_add_up_to_the_second_and_the_depths_to_the_depletion() {
    let document = site(vec![zone("a"), zone("b")]);
    let observed = dry(&document, 12);
    let plan = plan_of(&document, &observed, &[], None);
    let mut runs = 0;
    for cell in plan.zones.iter().flat_map(|z| &z.cells) {
        for reason in &cell.ledger {
            if let Line::Account {
                start_mm,
                eta_mm,
                effective_rain_mm,
                irrigation_mm,
                drainage_mm,
                adjustment_mm,
                depletion_mm,
                ..
            } = reason
            {
                let sum = *start_mm + *eta_mm - *effective_rain_mm - *irrigation_mm
                    + *drainage_mm
                    + *adjustment_mm;
                assert!((sum - *depletion_mm).abs().mm() < 1e-9);
            }
        }
        if let Some(run) = &cell.run {
            runs += 1;
            let total: i64 = cell.ledger.iter().filter_map(Line::seconds).sum();
            assert_eq!(total, run.run_s);
            assert_eq!(run.run_s, run.pass_s * i64::from(run.passes));
        }
    }
    assert!(runs > 0);
}

#[test]
fn a_wet_day_makes_the_next_dose_smaller() {
    let document = site(vec![zone("a")]);
    let mut days: Vec<_> = (11..=17).map(|d| day(date(2026, 6, d))).collect();
    let first = |days: &[lawn::weather::WeatherDay]| {
        let plan = plan_of(&document, &series(&document, days), &[], None);
        plan.zones[0]
            .cells
            .iter()
            .find_map(|c| c.run.clone())
            .unwrap()
            .net_mm
    };
    let without = first(&days);
    days[3].rain_mm = Some(20.0);
    days[3].tmax_c = Some(24.0);
    assert!(first(&days) < without);
}

#[test]
fn a_run_in_the_record_lowers_the_depletion_and_is_shown() {
    let document = site(vec![zone("a")]);
    let observed = dry(&document, 6);
    let dry_plan = plan_of(&document, &observed, &[], None);
    let runs = [Run {
        zone: "a".to_owned(),
        date: date(2026, 6, 17),
        after_noon: false,
        started: None,
        passes: 2,
        run_s: 1200,
        watered: Watered::all(),
        assumed: true,
    }];
    let plan = plan_of(&document, &observed, &runs, None);
    let gap =
        dry_plan.zones[0].cells[2].depletion_start_mm - plan.zones[0].cells[2].depletion_start_mm;
    // 20 min at 40.64 mm/h, 8 % lost, M 1.37: 9.1 mm.
    assert!(
        (gap.mm() - 40.64 / 3.0 * 0.92 * 0.73).abs() < 1e-6,
        "{gap:?}"
    );
    assert_eq!(plan.zones[0].cells[1].state, State::Ran);
    assert!(matches!(
        plan.zones[0].cells[1].ledger[0],
        Line::Ran {
            seconds: 1200,
            assumed: true,
            ..
        }
    ));
}

#[test]
fn windows_that_ended_are_past_and_an_open_one_is_what_remains() {
    let mut z = zone("a");
    z.initial_depletion_mm = Some(Depth::from_mm(40.0));
    let document = site(vec![z]);
    let observed = dry(&document, 1);
    let at = |time: &str| {
        Some(
            format!("2026-06-18T{time}-04:00")
                .parse::<Timestamp>()
                .unwrap(),
        )
    };
    let early = plan_of(&document, &observed, &[], None);
    assert_eq!(early.zones[0].cells[2].state, State::Water);
    let late = plan_of(&document, &observed, &[], at("09:30:00"));
    assert_eq!(late.zones[0].cells[2].state, State::NoWindow);
    assert_eq!(late.zones[0].cells[3].state, State::Water);
    let open = plan_of(&document, &observed, &[], at("07:30:00"));
    let run = open.zones[0].cells[2].run.clone().unwrap();
    assert!(run.starts[0] >= at("07:30:00").unwrap());
}

#[test]
fn old_weather_is_filled_and_said() {
    let document = site(vec![zone("a")]);
    let observed = dry(&document, 9);
    let plan = plan_of(&document, &observed[..6], &[], None);
    assert!(plan.notes.contains(&Note::WeatherMissing {
        dates: (15..=17).map(|d| date(2026, 6, d)).collect(),
        last_known: Some(date(2026, 6, 14)),
        by_normals: false,
    }));
}

#[test]
fn rain_that_only_the_gauge_knows_holds_the_run_back() {
    let mut z = zone("a");
    z.initial_depletion_mm = Some(Depth::from_mm(45.0));
    let document = site(vec![z]);
    let mut days: Vec<_> = (11..=17).map(|d| day(date(2026, 6, d))).collect();
    days[6] = lawn::weather::WeatherDay {
        date: date(2026, 6, 17),
        rain_mm: Some(12.0),
        ..Default::default()
    };
    let observed = lawn::weather::series(
        &lawn::weather::place(&document.site),
        &days,
        lawn::weather::Gaps::Fill,
    )
    .unwrap();
    let plan = plan_of(&document, &observed, &[], None);
    assert_eq!(plan.zones[0].cells[2].state, State::Skip);
    assert_eq!(plan.zones[0].cells[3].state, State::Water);
}

#[test]
fn no_weather_is_no_plan() {
    let document = site(vec![zone("a")]);
    let none = plan_week(&Known::of_record(&document, &[], TODAY));
    assert_eq!(none, Err(Error::NoWeather { today: TODAY }));
}

#[test]
fn an_ended_zone_leaves_the_plan_and_a_future_one_waits() {
    let mut ended = zone("a");
    ended.active_to = Some(date(2026, 6, 10));
    let mut coming = zone("b");
    coming.active_from = Some(date(2026, 6, 25));
    let document = site(vec![ended, coming]);
    let plan = plan_of(&document, &dry(&document, 20), &[], None);
    assert_eq!(plan.zones.len(), 1);
    assert!(plan.zones[0].cells.iter().all(|c| c.state == State::Absent));
}

#[test]
fn a_portable_is_moved_through_its_settings_within_the_hours() {
    let mut portable = zone("a");
    portable.sprinkler = Kind::Portable;
    portable.setting_m2 = Some(Area::from_m2(100.0));
    let mut document = site(vec![portable.clone()]);
    let observed = dry(&document, 12);
    let first = |document: &SiteDocument| {
        let plan = plan_of(document, &observed, &[], None);
        plan.zones[0]
            .cells
            .iter()
            .find_map(|c| c.run.clone())
            .unwrap()
    };
    let run = first(&document);
    assert_eq!(run.settings, 5, "500 m² by 100 m²");
    // All of the places fit the six allowed hours.
    assert!(run.run_s * 5 <= 6 * 3600, "{run:?}");
    // One that reached all at once would be let run longer at a time.
    document.zones[0].setting_m2 = Some(Area::from_m2(500.0));
    let whole = first(&document);
    assert_eq!(whole.settings, 1);
    assert!(whole.run_s >= run.run_s);
    // What it takes from the tap is what one setting takes.
    let flow = |zone: &lawn::site::Zone| {
        lawn::engine::zone_model::ZoneModel::new(zone, &document.controller, 36.4).flow_l_min
    };
    assert!((flow(&document.zones[0]) / flow(&portable) - 5.0).abs() < 1e-9);
}

#[test]
fn a_day_on_which_a_person_wants_it_dry_is_watered_around() {
    let document = site(vec![zone("a")]);
    let observed = dry(&document, 12);
    let without = plan_of(&document, &observed, &[], None);
    let day = without.zones[0]
        .cells
        .iter()
        .find(|c| c.run.is_some())
        .unwrap()
        .date;
    let dry_days = [DryDay {
        zone: "a".to_owned(),
        date: day,
    }];
    let plan = plan_week(&Known {
        dry_days: &dry_days,
        ..Known::of_record(&document, &observed, TODAY)
    })
    .unwrap();
    let cell = plan.zones[0].cells.iter().find(|c| c.date == day).unwrap();
    assert_eq!(cell.run, None);
    assert!(cell.ledger.contains(&Line::KeptDry));
    assert!(plan.zones[0].cells.iter().any(|c| c.run.is_some()));
}
