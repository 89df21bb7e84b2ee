//! Several windows a day, several runs of a zone in one, what people have fixed; and one morning that plan and replay share.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::engine::dose;
use lawn::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use lawn::engine::replay::{Foresight, replay};
use lawn::engine::root_zone::{self, Given, Irrigation};
use lawn::engine::schools::{Keeping, School};
use lawn::engine::slot::{HORIZON, Standing};
use lawn::engine::timetable::WHOLE;
use lawn::engine::zone_model::ZoneModel;
use lawn::quantity::{Area, Depth};
use lawn::record::watered::Watered;
use lawn::site::{SiteDocument, Weekday};
use lawn::view::plan::{Known, Run, plan_week};
use lawn::view::verdict::Verdict;
use lawn::view::week_plan::{PlannedRun, State, WeekPlan};
use lawn::weather::DailyWeather;

use crate::corner_cases::nothing_overlaps;
use crate::fixture::{TODAY, dry, exactly, model, openings, plain, site, week_of, window, zone};

fn plan(document: &SiteDocument, observed: &[DailyWeather], runs: &[Run], today: Date) -> WeekPlan {
    plan_week(&Known {
        runs,
        ..Known::of_record(document, observed, today)
    })
    .unwrap()
}

/// Half an hour at dawn and half an hour in the evening, on two days of the week: neither carries a refill.
fn twice_a_day() -> SiteDocument {
    let mut document = site(vec![zone("a")]);
    let days = [Weekday::Thursday, Weekday::Sunday];
    document.windows = vec![
        window(&days, "05:00", "05:30"),
        window(&days, "19:00", "19:30"),
    ];
    document
}

#[test]
fn a_zone_that_one_window_does_not_carry_runs_twice_on_a_day() {
    let document = twice_a_day();
    let plan = plan(&document, &dry(&document, 8), &[], TODAY);
    nothing_overlaps(&plan);
    let cell = &plan.zones[0].cells[2];
    assert_eq!((cell.state, cell.later.len()), (State::Water, 1));
    let (dawn, evening) = (cell.run.as_ref().unwrap(), &cell.later[0]);
    assert_eq!(dawn.window, plan.days[2].windows[0]);
    assert_eq!(evening.run.window, plan.days[2].windows[1]);
    assert!(evening.run.starts[0] >= evening.run.window.opens);
    assert!(matches!(evening.verdict, Verdict::Due { .. }));
    // Each run has a working of its own that adds up.
    for (run, ledger) in [(dawn, &cell.ledger), (&evening.run, &evening.ledger)] {
        let sum: i64 = ledger
            .iter()
            .filter_map(lawn::view::ledger::Line::seconds)
            .sum();
        assert_eq!(sum, run.run_s);
    }
    // The day's balance has both; totals count both.
    let both = dawn.net_mm + evening.run.net_mm;
    assert!((cell.irrigation_net_mm - both).abs().mm() < 1e-9);
    let all: Depth = plan.zones[0]
        .cells
        .iter()
        .flat_map(|c| c.runs().map(|r| r.net_mm))
        .sum();
    assert!((plan.zones[0].totals.net_mm - all).abs().mm() < 1e-9);
    let next = plan.next.unwrap();
    assert_eq!((next.date, next.starts), (TODAY, Some(dawn.starts[0])));
    let last = evening.run.starts.last().unwrap();
    assert_eq!(next.ends, Some(*last + evening.run.pass_s.seconds()));
}

#[test]
fn an_evenings_water_comes_after_the_days_use() {
    let m = model(&zone("a"));
    let day = plain(TODAY, 8.0, 0.0);
    let start = m.taw * 0.9;
    let water = Irrigation {
        gross: Depth::from_mm(12.0),
        net: Depth::from_mm(12.0),
        runoff: Depth::ZERO,
    };
    let dawn = root_zone::day(&m, start, &day, water);
    let evening = root_zone::day(
        &m,
        start,
        &day,
        Given {
            dawn: Irrigation::default(),
            later: water,
        },
    );
    let none = root_zone::day(&m, start, &day, Irrigation::default());
    // Dry grass uses less until it is watered.
    assert!(dawn.eta > none.eta);
    assert_eq!((evening.eta, evening.ks), (none.eta, none.ks));
    assert!((none.end - evening.end - water.net).abs().mm() < 1e-9);
    // The same for a run in the record.
    let document = site(vec![zone("a")]);
    let run = |after_noon| Run {
        zone: "a".to_owned(),
        date: TODAY.yesterday().unwrap(),
        after_noon,
        started: None,
        passes: 1,
        run_s: 900,
        watered: Watered::all(),
        assumed: false,
    };
    let observed = dry(&document, 30);
    let eta = |runs: &[Run]| plan(&document, &observed, runs, TODAY).zones[0].cells[1].eta_mm;
    assert_eq!(eta(&[run(true)]), eta(&[]));
    assert!(eta(&[run(false)]) > eta(&[]));
}

#[test]
fn what_a_person_has_fixed_runs_and_is_crowded_out_by_nobody() {
    let zones: Vec<_> = (0..4)
        .map(|i| {
            let mut z = zone(&format!("z{i}"));
            z.area_m2 = Area::from_m2(100.0);
            z
        })
        .collect();
    let models: Vec<ZoneModel> = zones.iter().map(model).collect();
    let weather = week_of(6.0);
    let fixed = dose::dose(&models[0], Depth::from_mm(9.0), 7200).unwrap();
    let facts = Facts {
        zones: zones
            .iter()
            .zip(&models)
            .enumerate()
            .map(|(i, (zone, model))| ZoneFacts {
                model,
                keeping: Keeping::School(School::default()),
                priority: if i == 0 { 9 } else { zone.priority },
                area: zone.area_m2,
                takes: WHOLE,
                by_hand: false,
                planned: true,
                barred: Vec::new(),
                kept_dry: Vec::new(),
                water_in: Vec::new(),
                fixed: if i == 0 {
                    vec![(0, Standing::Fixed(fixed))]
                } else {
                    Vec::new()
                },
            })
            .collect(),
        openings: openings(0b11, 3600),
        targets_s: [None; HORIZON],
        caps: Vec::new(),
        reserve: None,
        capacity: |zone: usize, window_s| dose::capacity(&models[zone], window_s),

        hours: Vec::new(),
    };
    // The first has all that it needs, and would give way by its rank; the others are due at once and do not fit the hour.
    let state: Vec<ZoneState> = models
        .iter()
        .enumerate()
        .map(|(i, m)| ZoneState {
            depletion: m.taw * if i == 0 { 0.2 } else { 0.6 },
            ..ZoneState::default()
        })
        .collect();
    let ahead = Ahead {
        days: &weather,
        outlook: None,
        yesterday: None,
    };
    let week = morning::decide(&facts, &state, &ahead);
    assert_eq!(week.zones[0].dose_at(0), Some(&fixed));
    assert!(week.gave_way.iter().any(|g| g.opening == 0));
    assert!(week.gave_way.iter().all(|g| g.opening > 0 || g.zone > 0));
    let runs: i64 = (0..4)
        .filter_map(|z| week.zones[z].dose_at(0))
        .map(dose::Dose::run_s)
        .sum();
    assert!(runs <= 3600);
}

/// A plan made each morning of a past month, its runs kept as what ran, is the replay of that month.
#[test]
fn a_plan_made_each_morning_of_a_past_month_is_the_replay() {
    let mut zones: Vec<_> = (0..7).map(|i| zone(&format!("z{i}"))).collect();
    for (zone, school) in zones.iter_mut().skip(3).zip(School::usual()) {
        zone.school = school;
    }
    zones[1].sprinkler = science::sprinkler::Kind::Rotor;
    zones[2].soil = science::soil::Texture::Sand;
    // Roots that go deeper in the middle of the month, and sprinklers that were repaired.
    let roots = |mm: f64| serde_json::to_value(exactly(Depth::from_mm(mm))).unwrap();
    let rate = serde_json::to_value(exactly(lawn::quantity::Rate::from_mm_h(30.0))).unwrap();
    let turned = serde_json::json!([
        { "from": "1900-01-01", "root_depth_mm": roots(120.0), "rate_mm_h": null },
        { "from": "2026-06-24", "root_depth_mm": roots(220.0) },
        { "from": "2026-06-27", "rate_mm_h": rate }
    ]);
    zones[3].root_depth_mm = Some(exactly(Depth::from_mm(220.0)));
    zones[3].rate_mm_h = Some(exactly(lawn::quantity::Rate::from_mm_h(30.0)));
    zones[3].facts = serde_json::from_value(turned).unwrap();
    let mut document = site(zones);
    let days = [Weekday::Monday, Weekday::Wednesday, Weekday::Saturday];
    document.windows = vec![
        window(&days, "04:00", "06:00"),
        window(&days, "20:00", "21:00"),
    ];
    let first = TODAY.checked_sub(90.days()).unwrap();
    let record: Vec<DailyWeather> = (0..120i32)
        .map(|i| {
            let rain = if i % 9 == 0 {
                f64::from(i % 7) * 4.0
            } else {
                0.0
            };
            let et0 = 4.0 + f64::from(i % 5);
            plain(first.checked_add(i.days()).unwrap(), et0, rain)
        })
        .collect();
    let from = record[80].date;
    let to = record[109].date;
    let replayed = document.clone();
    let rows = replay(&replayed, &record, from, to, Foresight::None).unwrap();
    // The replay's zones begin at its first day; so do the plan's.
    for zone in &mut document.zones {
        zone.active_from = Some(from);
    }
    let mut runs: Vec<Run> = Vec::new();
    let mut holds = Vec::new();
    let mut compared = 0;
    for (index, today) in record.iter().enumerate().take(110).skip(80) {
        let plan = plan_week(&Known {
            runs: &runs,
            holds: &holds,
            ..Known::of_record(&document, &record[..index], today.date)
        })
        .unwrap();
        for zone in &plan.zones {
            let cell = &zone.cells[2];
            let row = rows
                .iter()
                .find(|r| r.date == today.date && r.zone == zone.zone)
                .unwrap();
            assert!((cell.depletion_start_mm - row.balance.start).abs().mm() < 1e-9);
            assert!(
                (cell.irrigation_net_mm - row.balance.irrigation.net)
                    .abs()
                    .mm()
                    < 1e-9
            );
            compared += cell.runs().count();
            runs.extend(cell.runs().map(|run| Run {
                zone: zone.zone.clone(),
                date: today.date,
                after_noon: run.window == *plan.days[2].windows.last().unwrap()
                    && plan.days[2].windows.len() > 1,
                started: None,
                passes: run.passes,
                run_s: run.run_s,
                watered: Watered::all(),
                assumed: true,
            }));
            if matches!(cell.verdict, Verdict::HeldForRain(_)) {
                holds.push(lawn::view::plan::RainHold {
                    zone: zone.zone.clone(),
                    date: today.date,
                });
            }
        }
    }
    assert!(compared > 10, "{compared}");
}

/// Where the supply gives twice what a zone takes, two run at a time: a night that is too short for one at a time holds them all.
#[test]
fn zones_run_together_where_the_flow_allows() {
    let zones: Vec<_> = (0..6)
        .map(|i| {
            let mut z = zone(&format!("z{i}"));
            z.initial_depletion_mm = Some(Depth::from_mm(28.0));
            z
        })
        .collect();
    let mut document = site(zones);
    document.windows = vec![window(&[Weekday::Thursday], "03:00", "05:00")];
    let flow = model(&document.zones[0]).flow_l_min;
    document.supply.flow_l_min = Some(2.1 * flow);
    let observed: Vec<DailyWeather> = dry(&document, 4);
    let thursday = |document: &SiteDocument| {
        let plan = crate::fixture::plan_on(document, &observed, TODAY);
        let runs = plan.zones.iter().flat_map(|z| z.cells[2].runs().cloned());
        runs.collect::<Vec<_>>()
    };
    let net = |runs: &[PlannedRun]| runs.iter().map(|r| r.net_mm).sum::<Depth>();
    let alone = thursday(&document);
    document.supply.together = true;
    assert!(document.validate().is_ok());
    let together = thursday(&document);
    assert!(
        net(&together) > net(&alone) * 1.2,
        "{:?} after {:?}",
        net(&together),
        net(&alone)
    );
    let starts = together.iter().flat_map(|r| {
        let pass_s = r.pass_s;
        r.starts
            .iter()
            .map(move |s| (s.as_second(), s.as_second() + pass_s))
    });
    let passes: Vec<(i64, i64)> = starts.collect();
    let beside = |at: i64| {
        passes
            .iter()
            .filter(|(from, to)| *from <= at && at < *to)
            .count()
    };
    assert_eq!(passes.iter().map(|(from, _)| beside(*from)).max(), Some(2));
    // It needs to know what the supply gives.
    document.supply.flow_l_min = None;
    assert_eq!(document.validate().unwrap_err().field, "supply.flow_l_min");
}
