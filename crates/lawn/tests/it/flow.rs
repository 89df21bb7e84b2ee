//! Flow by the minute: whose water it was, and what departs from normal. Seasons are made up (`examples/faults`, 200 of each there); no published source.

#[path = "../../examples/faults/season.rs"]
mod season;

use jiff::{SignedDuration, Timestamp};
use lawn::quantity::Volume;
use lawn::record::flow::{Minutes, Pass, attribute};
use lawn::record::flow_watch::{FlowFinding, Named, Watch};
use proptest::prelude::*;
use season::{DAYS, Fault, Season};

const LITRE: Volume = Volume::from_l(1.0);

fn at(minute: i64) -> Timestamp {
    let first: Timestamp = "2026-06-18T06:00:00Z".parse().unwrap();
    first + SignedDuration::from_mins(minute)
}

fn pass(zone: usize, from: i64, to: i64, rated_l_min: f64) -> Pass {
    Pass {
        zone,
        from: at(from),
        to: at(to),
        rated_l_min,
        judged: true,
    }
}

/// A day of minutes of a flow, 1 L a pulse; `flow` gives litres of each minute.
fn counts(flow: impl Fn(i64) -> u16) -> Vec<Option<u16>> {
    (0..24 * 60).map(|minute| Some(flow(minute))).collect()
}

fn of(counts: &[Option<u16>]) -> Minutes<'_> {
    Minutes {
        from: at(0),
        counts,
        pulse: LITRE,
        day: counts.len(),
    }
}

#[test]
fn zones_that_run_together_share_by_their_rates_and_the_rest_is_nobodys() {
    // 30 and 60 L/min together from minute 100 on, the first for ten minutes longer; 7 L in the night.
    let counts = counts(|m| match m {
        100..110 => 90,
        110..120 => 30,
        700 => 7,
        _ => 0,
    });
    let passes = [pass(0, 100, 120, 30.0), pass(1, 100, 110, 60.0)];
    let whose = attribute(&of(&counts), &passes);
    let litres: Vec<f64> = whose.passes.iter().map(|t| t.litres.l()).collect();
    assert!(
        (litres[0] - 600.0).abs() < 0.1 && (litres[1] - 600.0).abs() < 0.1,
        "{litres:?}"
    );
    assert!((whose.metered.l() - 1207.0).abs() < 1e-9);
    let idle: u32 = whose.idle.iter().map(|i| i.pulses).sum();
    assert_eq!((idle, whose.bursts.len()), (7, 0));
    assert!((whose.passes[0].heard_min - 20.0).abs() < 1e-9);
}

#[test]
fn what_was_not_heard_says_nothing() {
    let mut watch = Watch::new(1);
    let passes = [pass(0, 100, 120, 30.0)];
    let usual = counts(|m| if (100..120).contains(&m) { 30 } else { 0 });
    for _ in 0..8 {
        assert!(watch.day(&of(&usual), &passes).1.is_empty());
    }
    let mut unheard = usual.clone();
    unheard[90..118].fill(None);
    assert!(watch.day(&of(&unheard), &passes).1.is_empty());
    assert!(watch.day(&of(&vec![None; 24 * 60]), &passes).1.is_empty());
    assert_eq!(watch.normal_l_min(0), Some(30.0));
    // Heard, and nothing flowed.
    let dry = counts(|_| 0);
    let found = watch.day(&of(&dry), &passes).1;
    assert_eq!(found[0].named, Named::DidNotRun { zone: 0 });
    assert!((found[0].litres.l() + 600.0).abs() < 1e-9, "{found:?}");
}

#[test]
fn a_hose_is_told_from_a_leak_and_from_a_valve_that_stays_open() {
    let mut watch = Watch::new(1);
    let passes = [pass(0, 100, 120, 30.0)];
    let run = |m: i64| if (100..120).contains(&m) { 30 } else { 0 };
    for _ in 0..8 {
        watch.day(&of(&counts(run)), &passes);
    }
    // 90 L/h all day, every fourth minute three litres of it, and a hose of 18 L/min for 25 minutes.
    let leaks = |m: i64| u16::from(m % 2 == 0) * 3;
    let both = counts(|m| run(m) + leaks(m) + if (600..625).contains(&m) { 18 } else { 0 });
    let found = watch.day(&of(&both), &passes).1;
    let [leak, hose] = &found[..] else {
        panic!("{found:?}")
    };
    assert!(
        matches!(leak.named, Named::Leak { litres_an_hour } if (litres_an_hour - 90.0).abs() < 2.0),
        "{leak:?}"
    );
    assert_eq!(leak.since, at(0));
    assert_eq!(hose.named, Named::ByHand { minutes: 25 });
    assert!((hose.litres.l() - 450.0).abs() < 15.0, "{hose:?}");
    // The pass is not blamed for the leak.
    assert!(
        watch
            .normal_l_min(0)
            .is_some_and(|l| (l - 30.0).abs() < 0.5)
    );
    let mut watch = Watch::new(1);
    for _ in 0..8 {
        watch.day(&of(&counts(run)), &passes);
    }
    let late = counts(|m| if (100..135).contains(&m) { 30 } else { 0 });
    let found = watch.day(&of(&late), &passes).1;
    assert!(
        matches!(
            found[0].named,
            Named::StaysOpen {
                zone: 0,
                minutes: 14
            }
        ),
        "{found:?}"
    );
}

#[test]
fn a_rate_that_is_steadily_another_is_told_once_and_a_repaired_zone_is_learned_anew() {
    let mut watch = Watch::new(1);
    let passes = [pass(0, 100, 120, 24.0)];
    let usual = counts(|m| if (100..120).contains(&m) { 30 } else { 0 });
    let found: Vec<Vec<FlowFinding>> = (0..9).map(|_| watch.day(&of(&usual), &passes).1).collect();
    let told: Vec<usize> = (0..9).filter(|i| !found[*i].is_empty()).collect();
    assert_eq!(told, [4], "with the fifth pass");
    assert_eq!(
        found[4][0].named,
        Named::WrongRate {
            zone: 0,
            rated_l_min: 24.0,
            now_l_min: 30.0
        }
    );
    let less = counts(|m| if (100..120).contains(&m) { 21 } else { 0 });
    let named: Vec<bool> = (0..3)
        .map(|_| !watch.day(&of(&less), &passes).1.is_empty())
        .collect();
    assert_eq!(named, [false, true, true]);
    watch.forget(0);
    assert_eq!(watch.normal_l_min(0), None);
    assert!(watch.day(&of(&less), &passes).1.is_empty());
}

/// What is named in a season with a fault from a day on, by day.
fn season(mut season: Season, begins: u32, fault: impl Fn(&Season) -> Fault) -> Vec<(u32, Named)> {
    let fault = fault(&season);
    let mut watch = Watch::new(season.zones());
    let days = (0..DAYS).flat_map(|number| {
        let now = if number < begins {
            Fault::Nothing
        } else {
            fault
        };
        let day = season.day(number, now);
        let found = watch.day(&day.minutes(season.pulse), &day.passes).1;
        found
            .into_iter()
            .map(move |f| (number, f.named))
            .collect::<Vec<_>>()
    });
    days.filter(|(_, named)| !matches!(named, Named::WrongRate { .. }))
        .collect()
}

#[test]
fn faults_of_some_seasons_are_found_in_time_and_sound_ones_are_quiet() {
    for seed in 0..12 {
        assert_eq!(
            season(Season::new(seed), DAYS, |_| Fault::Nothing),
            [],
            "seed {seed}"
        );
        let leak = season(Season::new(seed), 60, |s| {
            Fault::Leak(0.12 * s.day_l() / 24.0)
        });
        let (day, named) = leak[0];
        assert!(
            (60..=61).contains(&day) && matches!(named, Named::Leak { .. }),
            "seed {seed}: {day} {named:?}"
        );
        let head = season(Season::new(seed), 60, |_| Fault::Flow(0, 1.35));
        let (day, named) = head[0];
        // At most every fourth day: the third run is within twelve.
        assert!(
            (60..72).contains(&day) && matches!(named, Named::MoreThanNormal { zone: 0, .. }),
            "seed {seed}: {day} {named:?}"
        );
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    /// Planned, run and metered agree within a pulse in a season without faults.
    #[test]
    fn a_season_without_faults_agrees_within_a_pulse(seed in 0..10_000u64) {
        let mut season = Season::exact(seed);
        let (mut planned, mut run, mut metered) = (0.0, 0.0, 0.0);
        for number in 0..40 {
            let day = season.day(number, Fault::Nothing);
            let whose = attribute(&day.minutes(season.pulse), &day.passes);
            planned += day.rated_l;
            run += whose.passes.iter().map(|t| t.litres.l()).sum::<f64>();
            metered += whose.metered.l();
            prop_assert_eq!(whose.idle.iter().map(|i| i.pulses).sum::<u32>(), 0);
        }
        prop_assert!((metered - planned).abs() <= season.pulse.l() + 1e-6, "{} {}", metered, planned);
        prop_assert!((run - metered).abs() < 1e-6 * metered, "{} {}", run, metered);
    }

    /// Whatever is open and heard, every pulse is somebody's or nobody's, once.
    #[test]
    fn every_pulse_is_counted_once(
        heard in prop::collection::vec(prop::option::weighted(0.9, 0..40u16), 300),
        passes in prop::collection::vec((0..4usize, -30..320i64, 1..60i64, 1.0..90.0f64), 0..8),
    ) {
        let passes: Vec<Pass> = passes.into_iter().map(|(zone, from, length, rate)| pass(zone, from, from + length, rate)).collect();
        let whose = attribute(&of(&heard), &passes);
        let all: u32 = heard.iter().flatten().map(|c| u32::from(*c)).sum();
        let of_passes: f64 = whose.passes.iter().map(|t| t.litres.l()).sum();
        let idle: u32 = whose.idle.iter().map(|i| i.pulses).sum();
        prop_assert!((of_passes + f64::from(idle) - f64::from(all)).abs() < 1e-6);
        prop_assert!((whose.metered.l() - f64::from(all)).abs() < 1e-9);
        prop_assert!(whose.passes.iter().all(|t| t.heard_min <= t.length_min + 1e-9 && t.litres.l() >= 0.0));
    }
}
