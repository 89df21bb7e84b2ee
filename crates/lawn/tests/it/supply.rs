//! What the supply and the controller allow: a tank or a well that must recover, starts, seasonal adjust, volumes; what would shorten a full night.

use jiff::ToSpan;
use jiff::civil::date;
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::{Area, Depth, Rate};
use lawn::site::rules::{AtMost, Period, Says};
use lawn::site::supply::{DayPattern, Store};
use lawn::site::{Controller, SiteDocument, document};
use lawn::view::ledger::Line;
use lawn::view::week_plan::{Cell, RemedyBy, WeekPlan};
use proptest::prelude::*;

use crate::fixture::{TODAY, dry, exactly, plain, plan_on, site, zone};

/// Three thirsty zones.
fn thirsty() -> SiteDocument {
    let mut document = site(vec![zone("a"), zone("b"), zone("c")]);
    for zone in &mut document.zones {
        zone.initial_depletion_mm = Some(Depth::from_mm(30.0));
        zone.active_from = Some(TODAY);
    }
    document
}

fn plan(document: &SiteDocument) -> WeekPlan {
    plan_on(document, &dry(document, 12), TODAY)
}

fn litres(plan: &WeekPlan, days: std::ops::Range<usize>) -> f64 {
    let cells = plan.zones.iter().flat_map(|z| &z.cells[days.clone()]);
    cells.flat_map(Cell::runs).map(|r| r.volume_l.l()).sum()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]
    /// Whatever the tank: no minute of the week draws it below nothing, one zone at a time or several; a run of each zone is as long as it can give at once.
    #[test]
    fn a_plan_never_runs_a_tank_dry(
        holds in 300.0..30_000.0f64, refill in 1.0..60.0f64, together in any::<bool>(), areas in prop::collection::vec(80.0..600.0f64, 3),
    ) {
        let mut document = thirsty();
        for (zone, area) in document.zones.iter_mut().zip(&areas) {
            zone.area_m2 = Area::from_m2(*area);
        }
        document.supply.flow_l_min = Some(900.0);
        document.supply.together = together;
        document.supply.store = Some(Store { holds_l: holds, refill_l_min: refill });
        let plan = plan(&document);
        let mut runs: Vec<(i64, i64, f64)> = Vec::new();
        for zone in &plan.zones {
            for run in zone.cells.iter().flat_map(Cell::runs) {
                let flow = run.volume_l.l() / lawn::quantity::RunTime::from_whole_s(run.run_s).s();
                runs.extend(run.starts.iter().map(|s| (s.as_second(), s.as_second() + run.pass_s, flow)));
            }
        }
        let mut turns: Vec<i64> = runs.iter().flat_map(|r| [r.0, r.1]).collect();
        turns.sort_unstable();
        // Full at the first start: what was drawn before is not known here.
        let (mut level, mut now) = (holds, turns.first().copied().unwrap_or(0));
        for turn in turns {
            let flow: f64 = runs.iter().filter(|r| r.0 < turn && turn <= r.1).map(|r| r.2).sum();
            let passed = lawn::quantity::RunTime::from_whole_s(turn - now).s();
            level = (level + (refill / 60.0 - flow) * passed).min(holds);
            now = turn;
            prop_assert!(level > -1e-3, "{level} L");
        }
    }
}

#[test]
fn a_well_that_recovers_slowly_shares_what_it_has_and_says_so() {
    let mut document = thirsty();
    document.zones[0].priority = 1;
    document.zones[2].priority = 9;
    let free = plan(&document);
    let tonight = litres(&free, 2..3);
    document.supply.store = Some(Store {
        holds_l: tonight / 2.0,
        refill_l_min: 1.0,
    });
    let well = plan(&document);
    let (night, week) = (litres(&well, 2..3), litres(&well, 2..9));
    // Half of it stands in the well; 6 h of window bring 360 L, a week 10 m³.
    assert!(
        night <= tonight / 2.0 + 360.0 && night > 0.4 * tonight,
        "{night} of {tonight}"
    );
    assert!(week <= tonight / 2.0 + 7.0 * 1440.0, "{week}");
    let by_zone = |zone: usize| -> f64 {
        let runs = well.zones[zone].cells.iter().flat_map(Cell::runs);
        runs.map(|r| r.volume_l.l()).sum()
    };
    assert!(by_zone(0) > by_zone(2), "{} {}", by_zone(0), by_zone(2));
    let mut lines = well
        .zones
        .iter()
        .flat_map(|z| &z.cells)
        .flat_map(|c| &c.ledger);
    assert!(
        lines.any(|l| matches!(l, Line::Rationed { rule: None, more_l, .. } if more_l.l() > 0.0))
    );
    // A replay keeps to it over the weeks.
    for zone in &mut document.zones {
        zone.active_from = None;
    }
    let first = date(2026, 6, 1);
    let record: Vec<_> = (0..28)
        .map(|i| plain(first.checked_add(i.days()).unwrap(), 7.0, 0.0))
        .collect();
    let rows = replay(
        &document,
        &record,
        first,
        date(2026, 6, 28),
        Foresight::None,
    )
    .unwrap();
    let used: f64 = rows
        .iter()
        .map(|r| (r.balance.irrigation.gross * document.zones[0].area_m2).l())
        .sum();
    let gives = tonight / 2.0 + 28.0 * 1440.0;
    assert!(used <= gives && used > 0.85 * gives, "{used} of {gives}");
}

#[test]
fn a_controller_with_few_starts_makes_few_passes_and_its_adjust_is_set_against() {
    let mut document = thirsty();
    for zone in &mut document.zones {
        zone.minutes_to_runoff = Some(exactly(4.0));
        zone.soak_minutes = Some(exactly(6.0));
    }
    let passes = |plan: &WeekPlan| {
        let cells = plan.zones.iter().flat_map(|z| &z.cells);
        cells.flat_map(Cell::runs).map(|r| r.passes).max().unwrap()
    };
    assert!(passes(&plan(&document)) > 3);
    document.controller.starts = Some(3);
    document.controller.seasonal_adjust_pct = Some(80);
    let few = plan(&document);
    assert_eq!(passes(&few), 3);
    for cell in few.zones.iter().flat_map(|z| &z.cells) {
        let Some(run) = &cell.run else { continue };
        // 48 s of each minute that is set.
        assert_eq!(run.pass_s % 48, 0);
        let set = Line::SetOnController {
            adjust_pct: 80,
            set_s: run.pass_s / 48 * 60,
        };
        assert!(cell.ledger.contains(&set), "{:?}", cell.ledger);
        let limited = |l: &Line| {
            matches!(
                l,
                Line::Passes {
                    most_passes: Some(3),
                    ..
                }
            )
        };
        assert!(cell.ledger.iter().any(limited));
    }
    // What it cannot be told is said: one programme for zones of their own minutes on their own days.
    document.zones[1].initial_depletion_mm = Some(Depth::from_mm(12.0));
    document.controller.programmes = Some(1);
    document.controller.patterns = vec![DayPattern::EveryNth];
    let beyond = plan(&document).beyond_controller.unwrap();
    assert!(beyond.programmes_needed > 1 && beyond.programmes == Some(1));
    assert_eq!(few.beyond_controller, None);
}

/// Slow sprinklers on ground that takes all they give: the night does not hold them, and still no valve is opened a dozen times for what one pass gives.
#[test]
fn a_full_night_makes_no_more_passes_than_it_needs() {
    let mut document = thirsty();
    for zone in &mut document.zones {
        zone.rate_mm_h = Some(exactly(Rate::from_mm_h(6.0)));
        zone.intake_mm_h = Some(exactly(Rate::from_mm_h(60.0)));
    }
    let plan = plan(&document);
    let tonight: Vec<_> = (plan.zones.iter())
        .flat_map(|z| z.cells[2].runs())
        .map(|run| (run.passes, run.run_s))
        .collect();
    let whole_s: i64 = tonight.iter().map(|(_, run_s)| run_s).sum();
    assert!(whole_s >= 6 * 3600, "the night is full: {tonight:?}");
    assert!(
        tonight.iter().all(|(passes, _)| *passes <= 2),
        "{tonight:?}"
    );
}

#[test]
fn a_full_night_says_which_repair_would_shorten_it() {
    let mut document = thirsty();
    document.windows[0].to = jiff::civil::time(4, 0, 0, 0);
    for zone in &mut document.zones {
        zone.intake_mm_h = Some(exactly(Rate::from_mm_h(60.0)));
    }
    document.zones[1].evenness_du_lq = Some(exactly(0.42));
    document.zones[2].minutes_to_runoff = Some(exactly(3.0));
    document.zones[2].soak_minutes = Some(exactly(25.0));
    let full = plan(&document);
    let tonight = || full.remedies.iter().filter(|r| r.date == TODAY);
    assert!(full.zones.iter().any(|z| {
        z.cells[2]
            .ledger
            .iter()
            .any(|l| matches!(l, Line::GivesWay { .. } | Line::NoRoom { .. }))
    }));
    let evener = tonight().find(|r| matches!(r.remedy, RemedyBy::Evenness { .. }));
    assert_eq!(evener.unwrap().zone, "b");
    let unrested = tonight().find(|r| r.remedy == RemedyBy::NoSoak);
    assert_eq!(unrested.unwrap().zone, "c");
    assert!(tonight().all(|r| r.saves_s >= 300));
    // Nothing is said of nights on which all fits.
    document.windows[0].to = jiff::civil::time(9, 0, 0, 0);
    document.zones[2].soak_minutes = None;
    assert_eq!(plan(&document).remedies, []);
}

#[test]
fn a_plan_says_how_much_of_a_volume_is_used() {
    let mut document = thirsty();
    document.rules.list = vec![crate::rules::rule(
        "Stage 2",
        Says::AtMost(AtMost {
            volume_l: 20_000.0,
            per: Period::Week,
        }),
    )];
    let plan = plan(&document);
    let [volume] = plan.volumes.as_slice() else {
        panic!("{:?}", plan.volumes);
    };
    // To Sunday; nothing was used before the zones began.
    assert_eq!(
        (volume.rule.as_str(), volume.until),
        ("Stage 2", date(2026, 6, 21))
    );
    assert_eq!((volume.most_l.l(), volume.used_l.l()), (20_000.0, 0.0));
    assert!((volume.planned_l.l() - litres(&plan, 2..6)).abs() < 1e-6);
}

#[test]
fn figures_of_supply_and_controller_that_do_not_hold_are_refused_where_they_are() {
    let field = |change: &dyn Fn(&mut SiteDocument)| {
        let mut document = thirsty();
        change(&mut document);
        document.validate().unwrap_err().field
    };
    let store = |holds_l, refill_l_min| {
        Some(Store {
            holds_l,
            refill_l_min,
        })
    };
    assert_eq!(
        field(&|d| d.supply.store = store(1.0, 5.0)),
        "supply.store.holds_l"
    );
    assert_eq!(
        field(&|d| d.supply.store = store(500.0, 0.0)),
        "supply.store.refill_l_min"
    );
    assert_eq!(
        field(&|d| d.controller.starts = Some(0)),
        "controller.starts"
    );
    assert_eq!(
        field(&|d| d.controller.seasonal_adjust_pct = Some(300)),
        "controller.seasonal_adjust_pct"
    );
    // And all of them survive a document.
    let mut whole = thirsty();
    whole.supply.store = store(5000.0, 12.0);
    whole.controller = Controller {
        starts: Some(4),
        patterns: vec![DayPattern::Weekdays, DayPattern::OddEven],
        seasonal_adjust_pct: Some(90),
        ..Controller::default()
    };
    let text = serde_json::to_string(&whole).unwrap();
    assert_eq!(document::read(&text).unwrap(), whole);
}
