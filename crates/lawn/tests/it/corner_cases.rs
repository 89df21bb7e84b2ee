//! Every corner that the rules name: shallow roots, RAW under a day's ETc, PR ≤ IR, IR near 0, unknown or very low evenness, no
//! allowed day, a slow deep drip zone, all zones due at once, ET0 below 0, a window past the forecast.

use jiff::ToSpan;
use lawn::engine::dose::dose;
use lawn::engine::root_zone::{self, Irrigation};
use lawn::engine::schools::{Act, Why};
use lawn::engine::slot::zone_days;
use lawn::engine::zone_model::PassLimit;
use lawn::quantity::{Area, Depth, Rate};
use lawn::site::{SiteDocument, Weekday};
use lawn::view::ledger::Line;
use lawn::view::plan::{Known, plan_week};
use lawn::view::verdict::{Verdict, Warning};
use lawn::view::week_plan::{State, WeekPlan, ZonePlan};
use science::soil::Texture;
use science::sprinkler::Kind;

use crate::fixture::{
    DryMorning, TODAY, dry, exactly, model, openings, plain, site, week_of, window, zone,
};

const MORNING_S: i64 = 6 * 3600;

fn plan(document: &SiteDocument, dry_days: i64) -> WeekPlan {
    let observed = dry(document, dry_days);
    plan_week(&Known::of_record(document, &observed, TODAY)).unwrap()
}

fn find<'a, T>(plan: &'a WeekPlan, zone: usize, pick: impl Fn(&'a Line) -> Option<T>) -> Option<T> {
    let cells = &plan.zones[zone].cells;
    cells.iter().flat_map(|c| &c.ledger).find_map(pick)
}

fn warned<T>(plan: &WeekPlan, zone: usize, pick: impl Fn(&Warning) -> Option<T>) -> Option<T> {
    let cells = &plan.zones[zone].cells;
    cells.iter().flat_map(|c| &c.warnings).find_map(pick)
}

#[test]
fn roots_that_hold_less_than_a_day_are_said_to_limit() {
    let mut z = zone("a");
    z.root_depth_mm = Some(exactly(Depth::from_mm(25.0)));
    let document = site(vec![z]);
    let plan = plan(&document, 3);
    let (raw, etc, every) = warned(&plan, 0, |r| match r {
        Warning::RootsLimit {
            raw_mm,
            etc_mm,
            every_days,
        } => Some((*raw_mm, *etc_mm, *every_days)),
        _ => None,
    })
    .expect("says that roots limit");
    assert!(raw < etc);
    assert_eq!(every, 1);
    // Watered at every dawn, and still short: also said.
    assert!(
        plan.zones[0].cells[2..]
            .iter()
            .all(|c| c.state == State::Water)
    );
    assert!(
        warned(&plan, 0, |r| matches!(r, Warning::Shortfall { .. })
            .then_some(()))
        .is_some()
    );
}

#[test]
fn a_soil_that_drinks_as_fast_as_it_rains_takes_one_pass() {
    let mut z = zone("a");
    z.soil = Texture::Sand;
    z.sprinkler = Kind::Rotor;
    let m = model(&z);
    assert!(m.rate.value <= m.intake.value);
    assert_eq!((m.longest_pass, m.pass_limit), (None, PassLimit::None));
    let d = dose(&m, Depth::from_mm(10.0), MORNING_S).unwrap();
    assert_eq!((d.passes, d.soak_s), (1, 0));
}

#[test]
fn a_soil_that_drinks_next_to_nothing_is_planned_at_the_least_intake_and_said() {
    let mut z = zone("a");
    z.intake_mm_h = Some(exactly(Rate::from_mm_h(0.0)));
    let m = model(&z);
    assert!(m.intake_raised);
    assert!((m.intake.value.mm_h() - 0.5).abs() < 1e-12);
    let d = dose(&m, Depth::from_mm(10.0), 24 * 3600).unwrap();
    assert!(d.passes >= 1 && d.soak_s > 3600);
    let document = site(vec![z]);
    assert!(
        warned(&plan(&document, 3), 0, |r| matches!(
            r,
            Warning::RepairSoil { .. }
        )
        .then_some(()))
        .is_some()
    );
}

#[test]
fn unknown_evenness_is_the_kinds_and_very_low_evenness_is_not_followed() {
    let m = model(&zone("a"));
    assert!((m.evenness.value - 0.55).abs() < 1e-12);
    assert!((m.multiplier - 1.0 / (0.4 + 0.6 * 0.55)).abs() < 1e-12);
    let mut z = zone("b");
    z.evenness_du_lq = Some(exactly(0.1));
    let m = model(&z);
    assert!(m.repair_first);
    assert!((m.multiplier - 1.0 / 0.64).abs() < 1e-12);
}

#[test]
fn without_an_allowed_day_the_plan_says_when_it_goes_wrong() {
    let mut document = site(vec![zone("a")]);
    document.windows.clear();
    let plan = plan(&document, 3);
    let (passes_on, short) = find(&plan, 0, |r| match r {
        Line::NoWindow {
            passes_on,
            short_mm,
        } => Some((*passes_on, *short_mm)),
        _ => None,
    })
    .expect("says that there is no window");
    assert!(passes_on.is_some_and(|d| d > TODAY));
    assert!(short > Depth::ZERO);
    assert!(
        plan.zones[0].cells[2..]
            .iter()
            .all(|c| c.state == State::NoWindow)
    );
    assert_eq!(plan.next, None);
}

#[test]
fn a_slow_deep_drip_zone_starts_early_enough() {
    let mut z = zone("a");
    z.sprinkler = Kind::Drip;
    z.soil = Texture::ClayLoam;
    z.root_depth_mm = Some(exactly(Depth::from_mm(600.0)));
    z.rate_mm_h = Some(exactly(Rate::from_mm_h(3.0)));
    let m = model(&z);
    let days = zone_days(&m, &week_of(7.0));
    // An hour a day: 2.55 mm net, less than half of the day's ETc of 5.7 mm.
    let window_s = 3600;
    let week = |hours: i64, start: Depth| {
        let morning = DryMorning {
            zones: std::slice::from_ref(&z),
            models: std::slice::from_ref(&m),
            depletion: vec![start],
            openings: openings(127, hours * window_s),
            weather: week_of(7.0),
        };
        morning.week().zones.remove(0)
    };
    let start = days[0].raw - Depth::from_mm(12.0);
    let slow = week(1, start);
    // Today alone could wait two days; later windows cannot carry what is lost, so it starts at once.
    let first = &slow.proposals[0];
    let Why::WaterBalance(why) = &first.why else {
        panic!("another school's reasons: {:?}", first.why)
    };
    assert!(why.before_next < Depth::ZERO);
    assert!(first.dose().is_some());
    // Long windows can: it waits.
    assert_eq!(week(6, start).proposals[0].act, Act::Wait);
}

#[test]
fn zones_that_one_night_does_not_hold_start_the_night_before() {
    // Six zones and two nights running, of which the second does not hold what they need until the next week.
    let zones: Vec<_> = (0..6)
        .map(|i| {
            let mut z = zone(&format!("z{i}"));
            z.initial_depletion_mm = Some(Depth::from_mm(9.0));
            z.area_m2 = Area::from_m2(100.0);
            z
        })
        .collect();
    let mut document = site(zones);
    document.windows = vec![window(
        &[Weekday::Thursday, Weekday::Friday],
        "03:00",
        "07:00",
    )];
    let plan = plan(&document, 1);
    let lines = plan
        .zones
        .iter()
        .flat_map(|z| &z.cells)
        .flat_map(|c| &c.ledger);
    let full: Vec<(i64, i64)> = lines
        .filter_map(|line| match line {
            Line::StartsForOthers {
                hold_s, needed_s, ..
            } => Some((*hold_s, *needed_s)),
            _ => None,
        })
        .collect();
    assert!(!full.is_empty(), "none starts early for the others");
    // The nights that are full hold less than is needed by then.
    assert!(
        full.iter().all(|(hold_s, needed_s)| needed_s > hold_s),
        "{full:?}"
    );
    // Nobody is left out: each gets some of it on either night.
    let waters = |z: &ZonePlan| z.cells.iter().any(|c| c.irrigation_net_mm > Depth::ZERO);
    assert!(plan.zones.iter().all(waters));
    nothing_overlaps(&plan);
}

#[test]
fn what_cannot_fit_is_shared_by_rank_and_says_what_would_make_it_fit() {
    let zones: Vec<_> = (0..5)
        .map(|i| {
            let mut z = zone(&format!("z{i}"));
            z.initial_depletion_mm = Some(Depth::from_mm(5.0));
            z.priority = if i == 4 { 1 } else { 5 };
            z
        })
        .collect();
    let mut document = site(zones);
    document.windows = vec![window(&[Weekday::Thursday], "05:00", "06:30")];
    let plan = plan(&document, 1);
    nothing_overlaps(&plan);
    let net = |zone: usize| plan.zones[zone].cells[2].irrigation_net_mm;
    // None starves, and the first in rank gets most.
    assert!((0..5).all(|zone| net(zone) > Depth::ZERO));
    assert!((0..4).all(|zone| net(zone) <= net(4)) && net(1) < net(4));
    let (wanted, gives, more) = find(&plan, 0, |r| match r {
        Line::GivesWay {
            wanted_mm,
            gives_mm,
            more_s,
        } => Some((*wanted_mm, *gives_mm, *more_s)),
        _ => None,
    })
    .expect("says that it gives way");
    assert!(wanted > gives && (gives - net(0)).abs().mm() < 1e-9 && more > 0);
    let warned = &plan.zones[0].cells[2].warnings;
    assert!(warned.iter().any(|w| matches!(w, Warning::NoRoom { .. })));
    // With as much longer a window as it says, all of it fits.
    let longer = i64::from(90 * 60) + more + 60;
    let to = format!("{:02}:{:02}", 5 + longer / 3600, longer % 3600 / 60);
    document.windows = vec![window(&[Weekday::Thursday], "05:00", &to)];
    let plan = self::plan(&document, 1);
    assert!(
        find(&plan, 0, |r| matches!(r, Line::GivesWay { .. })
            .then_some(()))
        .is_none()
    );
}

#[test]
fn a_zone_above_the_supplys_flow_is_said_to_be_infeasible() {
    let mut document = site(vec![zone("a")]);
    document.supply.flow_l_min = Some(50.0);
    let plan = plan(&document, 10);
    // 40.64 mm/h on 500 m² is 339 L/min.
    let Verdict::FlowAboveSupply {
        flow_l_min: flow, ..
    } = plan.zones[0].cells[2].verdict
    else {
        panic!("{:?}", plan.zones[0].cells[2].verdict)
    };
    assert!((flow - 40.64 * 500.0 / 60.0).abs() < 1e-6);
    assert_eq!(plan.next, None);
}

#[test]
fn et0_below_0_counts_as_0() {
    let m = model(&zone("a"));
    let b = root_zone::day(
        &m,
        Depth::from_mm(10.0),
        &plain(TODAY, -1.0, 0.0),
        Irrigation::default(),
    );
    assert_eq!(
        (b.etc, b.eta, b.end),
        (Depth::ZERO, Depth::ZERO, Depth::from_mm(10.0))
    );
}

#[test]
fn beyond_the_forecast_the_mean_of_the_last_seven_days_stands_in() {
    let document = site(vec![zone("a")]);
    let observed = dry(&document, 10);
    let forecast = [plain(TODAY, 9.0, 12.0)];
    let plan = plan_week(&Known {
        forecast: &forecast,
        ..Known::of_record(&document, &observed, TODAY)
    })
    .unwrap();
    assert!((plan.days[2].et0_mm.mm() - 9.0).abs() < 1e-12);
    assert_eq!(plan.days[2].forecast_rain_mm, Some(Depth::from_mm(12.0)));
    let mean = lawn::weather::mean_et0(&observed);
    assert_eq!(plan.days[8].et0_mm, mean);
    assert_eq!(plan.days[8].forecast_rain_mm, None);
}

#[test]
fn skips_name_frost_wind_and_yesterdays_rain_and_drip_minds_no_wind() {
    use lawn::engine::skip::{Skip, skip};
    let spray = model(&zone("a"));
    let mut z = zone("b");
    z.sprinkler = Kind::Drip;
    let drip = model(&z);
    let mut cold = plain(TODAY, 3.0, 0.0);
    cold.tmin_c = Some(3.0);
    assert_eq!(
        skip(&spray, &cold, false, None),
        Some(Skip::Frost { tmin_c: 3.0 })
    );
    let mut windy = plain(TODAY, 6.0, 0.0);
    windy.wind_m_s = Some(7.0);
    // By day the wind is not a dawn's: 5 m/s is 3 at dawn.
    let mut breezy = plain(TODAY, 6.0, 0.0);
    breezy.wind_m_s = Some(5.0);
    assert_eq!(skip(&spray, &breezy, false, None), None);
    assert!(matches!(
        skip(&spray, &breezy, true, None),
        Some(Skip::Wind { .. })
    ));
    assert!(matches!(
        skip(&spray, &windy, false, None),
        Some(Skip::Wind { .. })
    ));
    assert_eq!(skip(&drip, &windy, false, None), None);
    let yesterday = plain(TODAY.checked_sub(1.day()).unwrap(), 2.0, 10.5);
    assert!(matches!(
        skip(&drip, &plain(TODAY, 3.0, 0.0), false, Some(&yesterday)),
        Some(Skip::Rained { .. })
    ));
}

#[test]
fn more_than_three_moves_a_day_are_not_asked_of_a_person() {
    let mut z = zone("a");
    z.sprinkler = Kind::Portable;
    z.soil = Texture::Clay;
    let m = model(&z);
    let d = dose(&m, Depth::from_mm(25.0), 20 * 3600).unwrap();
    assert_eq!(d.passes, 3);
    assert!(d.irrigation.net < Depth::from_mm(25.0));
}

#[test]
fn measured_minutes_to_runoff_are_the_longest_pass() {
    let mut z = zone("a");
    z.minutes_to_runoff = Some(exactly(7.0));
    z.soak_minutes = Some(exactly(20.0));
    let m = model(&z);
    assert_eq!(m.pass_limit, PassLimit::MeasuredRunoff);
    let d = dose(&m, Depth::from_mm(12.0), 12 * 3600).unwrap();
    assert!(d.pass_s <= 7 * 60);
    assert_eq!(d.soak_s, 20 * 60);
}

#[test]
fn a_least_pass_longer_than_the_ground_takes_runs_off_and_says_so() {
    let mut z = zone("a");
    z.soil = Texture::Clay;
    z.slope_pct = 20.0;
    z.rate_mm_h = Some(exactly(Rate::from_mm_h(120.0)));
    let m = model(&z);
    assert!(m.longest_pass.unwrap().minutes() < 2.0);
    let d = dose(&m, Depth::from_mm(6.0), 12 * 3600).unwrap();
    assert_eq!(d.pass_s, 120);
    assert!(d.irrigation.runoff > Depth::ZERO);
    assert!(d.irrigation.net < m.net_of_gross(d.irrigation.gross));
}

/// One zone at a time, inside the windows, soaks kept.
pub fn nothing_overlaps(plan: &WeekPlan) {
    for (index, day) in plan.days.iter().enumerate() {
        let mut spans: Vec<(i64, i64)> = Vec::new();
        for run in plan.zones.iter().flat_map(|z| z.cells[index].runs()) {
            let starts: Vec<i64> = run.starts.iter().map(|t| t.as_second()).collect();
            for pair in starts.windows(2) {
                assert!(
                    pair[1] - pair[0] >= run.pass_s + run.soak_s,
                    "short of a soak"
                );
            }
            spans.extend(starts.iter().map(|s| (*s, s + run.pass_s)));
        }
        spans.sort_unstable();
        assert!(
            spans.windows(2).all(|w| w[0].1 <= w[1].0),
            "two at a time on {}",
            day.date
        );
        assert!(spans.iter().all(|(s, e)| {
            day.windows
                .iter()
                .any(|w| w.opens.as_second() <= *s && *e <= w.closes.as_second())
        }));
    }
}
