//! Rain and the dose: hold, or leave room, only where it pays; the reasons carry the costs.

use jiff::ToSpan;
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::Depth;
use lawn::site::{SiteDocument, Weekday};
use lawn::view::ledger::{Line, RainCandidate};
use lawn::view::plan::{Known, RainHold, plan_week};
use lawn::view::verdict::Verdict;
use lawn::view::week_plan::{Cell, State, WeekPlan};
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use standins::climate::Climate;

use crate::fixture::{TODAY, day, dry, made_up, plain, site, window, zone};

/// A zone that reaches its limit tomorrow: without rain it must be watered this morning, its only chance before the day after.
fn due_today() -> SiteDocument {
    let mut z = zone("a");
    // TAW 51 mm; six dry days use about 27 mm of it.
    z.initial_depletion_mm = Some(Depth::ZERO);
    z.allowable_depletion = Some(0.5);
    let mut document = site(vec![z]);
    document.windows = vec![window(&Weekday::ALL, "03:00", "09:00")];
    document
}

fn forecast(document: &SiteDocument, rain: &[(f64, f64)]) -> Vec<DailyWeather> {
    let days: Vec<WeatherDay> = rain
        .iter()
        .enumerate()
        .map(|(i, &(probability, mm))| WeatherDay {
            rain_mm: Some(mm),
            rain_probability_pct: Some(probability),
            ..day(TODAY.checked_add(i64::try_from(i).unwrap().days()).unwrap())
        })
        .collect();
    weather::series(&weather::place(&document.site), &days, Gaps::Refuse).unwrap()
}

/// The plan of the first number of dry days after which this morning is due.
fn plan(document: &SiteDocument, rain: &[(f64, f64)], holds: &[RainHold]) -> WeekPlan {
    let forecast = forecast(document, rain);
    let plain = forecast_free(document);
    let known = Known {
        forecast: &forecast,
        holds,
        ..Known::of_record(document, &plain, TODAY)
    };
    plan_week(&known).unwrap()
}

/// As many dry days as make a refill due this morning, no more.
fn forecast_free(document: &SiteDocument) -> Vec<DailyWeather> {
    (1..30)
        .map(|count| dry(document, count))
        .find(|observed| {
            let known = Known {
                forecast: &forecast(document, &[(0.0, 0.0); 7]),
                ..Known::of_record(document, observed, TODAY)
            };
            today(&plan_week(&known).unwrap()).run.is_some()
        })
        .expect("a dry month makes any zone due")
}

fn today(plan: &WeekPlan) -> &Cell {
    plan.zones[0]
        .cells
        .iter()
        .find(|c| c.date == plan.today)
        .unwrap()
}

fn candidates(cell: &Cell) -> (&[RainCandidate], usize) {
    cell.ledger
        .iter()
        .find_map(|r| match r {
            Line::RainCompared {
                candidates, best, ..
            } => Some((candidates.as_slice(), usize::try_from(*best).unwrap())),
            _ => None,
        })
        .expect("rain was compared")
}

#[test]
fn without_rain_in_sight_it_is_a_plain_refill() {
    let document = due_today();
    let plan = plan(&document, &[(0.0, 0.0); 7], &[]);
    let cell = today(&plan);
    assert_eq!(cell.state, State::Water);
    assert!(
        !cell
            .ledger
            .iter()
            .any(|r| matches!(r, Line::RainCompared { .. }))
    );
}

#[test]
fn likely_rain_holds_and_says_what_it_saves_and_costs() {
    let document = due_today();
    let plan = plan(&document, &[(90.0, 30.0), (10.0, 3.0)], &[]);
    let cell = today(&plan);
    assert_eq!(cell.state, State::Hold, "{:?}", cell.ledger);
    let Verdict::HeldForRain(held) = cell.verdict else {
        panic!("{:?}", cell.verdict)
    };
    assert!(cell.ledger.contains(&Line::HeldForRain(held)));
    let probability = held.probability_pct;
    // The 4.9 mm that it lacks by tonight come with 0.9 · exp(−4.9 / 30) = 76 %.
    assert!((74.0..79.0).contains(&probability), "{probability}");
    assert!(held.saves_mm.mm() > 5.0 && held.stress_mm.mm() < 1.0);
    assert_eq!(held.before, TODAY.checked_add(3.days()).unwrap());
    let (all, best) = candidates(cell);
    assert_eq!(all[best].net_mm, Depth::ZERO);
    for c in all {
        let cost = 0.3 * c.stress_mm.mm() + c.drained_mm.mm() + 2.0 * c.waterings;
        assert!((cost - c.cost_mm.mm()).abs() < 1e-9);
        assert!(all[best].cost_mm.mm() <= c.cost_mm.mm() + 1e-9);
    }
    // If it stays dry, tomorrow waters.
    let tomorrow = &plan.zones[0].cells[3];
    assert_eq!(tomorrow.state, State::Water);
}

#[test]
fn it_holds_at_most_four_times_running() {
    let document = due_today();
    let rain = [(90.0, 30.0), (90.0, 30.0)];
    let held = |back: &[i64]| -> State {
        let holds: Vec<RainHold> = back
            .iter()
            .map(|b| RainHold {
                zone: "a".to_owned(),
                date: TODAY.checked_sub(b.days()).unwrap(),
            })
            .collect();
        today(&plan(&document, &rain, &holds)).state
    };
    assert_eq!(held(&[1]), State::Hold);
    assert_eq!(held(&[1, 2, 3]), State::Hold);
    assert_eq!(held(&[1, 2, 3, 4]), State::Water);
    assert_eq!(held(&[2, 3, 4, 5]), State::Hold, "yesterday was not a hold");
}

#[test]
fn unlikely_rain_does_not_hold() {
    let document = due_today();
    let cell = plan(&document, &[(5.0, 4.0), (5.0, 4.0)], &[]);
    assert_eq!(today(&cell).state, State::Water);
}

#[test]
fn rain_after_the_next_chance_leaves_room_and_says_so() {
    let document = due_today();
    let plan = plan(
        &document,
        &[
            (5.0, 3.0),
            (10.0, 5.0),
            (10.0, 5.0),
            (95.0, 40.0),
            (95.0, 40.0),
        ],
        &[],
    );
    let cell = today(&plan);
    let Some(Line::RoomForRain {
        refill_mm,
        gives_mm,
    }) = cell
        .ledger
        .iter()
        .find(|r| matches!(r, Line::RoomForRain { .. }))
    else {
        panic!("{:?}", cell.ledger)
    };
    assert!(gives_mm < refill_mm);
    let seconds: i64 = cell.ledger.iter().filter_map(Line::seconds).sum();
    assert_eq!(seconds, cell.run.as_ref().unwrap().run_s);
}

#[test]
fn a_deeper_dial_never_waters_shallower() {
    let rain = [
        (20.0, 6.0),
        (40.0, 8.0),
        (60.0, 20.0),
        (30.0, 9.0),
        (20.0, 5.0),
    ];
    let dose = |dial: f64| {
        let mut document = due_today();
        document.zones[0].deep_and_seldom_mm = Some(Depth::from_mm(dial));
        let plan = plan(&document, &rain, &[]);
        let (all, best) = {
            let (all, best) = candidates(today(&plan));
            (all.to_vec(), best)
        };
        all[best].net_mm
    };
    // Fewer waterings weigh more: the dose grows, or the zone waits.
    let (shallow, deep) = (dose(0.3), dose(4.0));
    assert!(
        deep >= shallow || deep == Depth::ZERO,
        "{shallow:?} {deep:?}"
    );
}

#[test]
fn hindsight_wastes_no_more_than_plain_refills() {
    let document = due_today();
    // Every ninth day 25 mm, a hot dry stretch between.
    let record: Vec<DailyWeather> = (0..150)
        .map(|i| {
            plain(
                TODAY.checked_add(i64::from(i).days()).unwrap(),
                5.0,
                if i % 9 == 8 { 25.0 } else { 0.0 },
            )
        })
        .collect();
    let run = |foresight| {
        let rows = replay(
            &document,
            &record,
            record[0].date,
            record[129].date,
            foresight,
        )
        .unwrap();
        let sum =
            |f: fn(&lawn::engine::replay::Row) -> Depth| rows.iter().map(f).sum::<Depth>().mm();
        (
            sum(|r| r.balance.irrigation.net),
            sum(|r| r.balance.drainage),
            sum(|r| (r.balance.end - r.balance.raw).max(Depth::ZERO)),
        )
    };
    let (net, drained, stress) = run(Foresight::Perfect);
    let (plain_net, plain_drained, plain_stress) = run(Foresight::Refills);
    assert!(
        net < plain_net && drained < plain_drained,
        "{net} {plain_net} {drained} {plain_drained}"
    );
    assert!(
        stress <= plain_stress + 3.0,
        "{stress} against {plain_stress}"
    );
}

/// Six years of made-up weather in five climates (a prototype of the rule is the only source): less water than plain refills, and no more
/// stress but a trace.
#[test]
fn over_five_climates_it_uses_less_water_than_plain_refills() {
    for (climate, latitude) in [
        (Climate::Transition, 36.4),
        (Climate::HumidCool, 47.5),
        (Climate::MediterraneanDry, -33.0),
        (Climate::HumidSubtropical, 30.4),
        (Climate::Continental, 45.0),
    ] {
        let mut document = due_today();
        document.site.latitude = latitude;
        let record = made_up(
            &document,
            climate,
            3,
            jiff::civil::date(2019, 1, 1),
            jiff::civil::date(2025, 12, 31),
        );
        let run = |foresight| {
            let rows = replay(
                &document,
                &record,
                jiff::civil::date(2020, 1, 1),
                jiff::civil::date(2025, 12, 31),
                foresight,
            )
            .unwrap();
            let sum =
                |f: &dyn Fn(&lawn::engine::replay::Row) -> f64| rows.iter().map(f).sum::<f64>();
            (
                sum(&|r| r.balance.irrigation.net.mm()),
                sum(&|r| f64::from(u8::from(r.dose.is_some()))),
                sum(&|r| r.balance.etc.mm() - r.balance.eta.mm()),
                sum(&|r| r.balance.etc.mm()),
            )
        };
        let plain = run(Foresight::Refills);
        let none = run(Foresight::None);
        let perfect = run(Foresight::Perfect);
        let figures = format!(
            "{climate:?}: plain {plain:.1?}, by climatology {none:.1?}, by hindsight {perfect:.1?}"
        );
        // Net water.
        assert!(none.0 < plain.0 && perfect.0 < none.0, "{figures}");
        // Waterings: hindsight needs no more; climatology alone leaves room everywhere and comes back.
        assert!(
            perfect.1 <= plain.1 * 1.1 && none.1 <= plain.1 * 2.0,
            "{figures}"
        );
        // ET lost to stress, of all ET.
        assert!(
            none.2.max(perfect.2) <= plain.2 + 0.005 * plain.3,
            "{figures}"
        );
    }
}

/// The first run after today of a plan with a forecast, and what the week is expected to take of what it takes if no rain comes.
fn later_run(document: &SiteDocument, rain: &[(f64, f64)]) -> (f64, f64) {
    // Freshly refilled: nothing is due today.
    let observed = dry(document, 1);
    let forecast = forecast(document, rain);
    let plan = plan_week(&Known {
        forecast: &forecast,
        ..Known::of_record(document, &observed, TODAY)
    })
    .unwrap();
    let run = plan.zones[0].cells.iter().find_map(|c| c.run.clone());
    let totals = &plan.totals;
    (
        run.expect("a dry week waters").chance_pct,
        totals.expected_l.l() / totals.volume_l.l(),
    )
}

#[test]
fn a_later_run_says_how_likely_it_is_to_go_ahead_and_the_week_what_it_is_expected_to_take() {
    let mut document = due_today();
    document.zones[0].allowable_depletion = Some(0.3);
    let (chance, expected) = later_run(&document, &[(0.0, 0.0); 7]);
    assert_eq!(chance, 100.0);
    assert!((expected - 1.0).abs() < 0.15, "{expected}");
    // A soaking rain that comes on half of all courses cancels about half of them.
    let soaked = [
        (50.0, 200.0),
        (0.0, 0.0),
        (0.0, 0.0),
        (0.0, 0.0),
        (0.0, 0.0),
        (0.0, 0.0),
        (0.0, 0.0),
    ];
    let (chance, expected) = later_run(&document, &soaked);
    assert!((40.0..65.0).contains(&chance), "{chance}");
    assert!(expected < 0.9, "{expected}");
    let sure = [(100.0, 200.0); 7];
    let (chance, expected) = later_run(&document, &sure);
    assert!(chance < 10.0 && expected < 0.2, "{chance} {expected}");
}
