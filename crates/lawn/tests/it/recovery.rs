//! Recovery: when a lawn is raked, fed and judged by its mild days, what closes a dead patch, and until when it is sown.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::quantity::Area;
use lawn::site::Regime;
use lawn::stress::dormancy::Day;
use lawn::stress::recovery::{Recovery, Step, When, is_early, recovery, sown_unjudged};
use lawn::stress::repair::{Look, Sow, SowBy, State, repair, sow, sow_by, telling};
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::turf::Grass;

use crate::fixture::plain;

const WOKEN: Date = date(2026, 8, 20);

/// A day of a ledger at its end.
fn day(date: Date, regime: Regime, used: f64, is_mild: bool) -> Day {
    Day {
        date,
        regime,
        since: None,
        used,
        dry_days: 0,
        wetted: None,
        asleep: None,
        proposes: None,
        sleeps: 1,
        spent_days: 0.0,
        is_mild,
    }
}

/// Five days asleep, then so many awake: wet from the third on; every seventh is too hot.
fn ledger(awake: i64) -> Vec<Day> {
    let on = |days: i64| WOKEN.saturating_add(days.days());
    let asleep = (-5..0).map(|i| day(on(i), Regime::Dormant, 0.95, true));
    let awake = (0..awake).map(|i| {
        let used = if i < 2 { 0.6 } else { 0.2 };
        day(on(i), Regime::Recovering, used, i % 7 != 6)
    });
    asleep.chain(awake).collect()
}

fn after(awake: i64) -> Recovery {
    let today = WOKEN.saturating_add(awake.days());
    recovery(&ledger(awake), Regime::Recovering, today).unwrap()
}

fn when(recovery: &Recovery, step: Step) -> When {
    recovery.steps.iter().find(|s| s.step == step).unwrap().when
}

#[test]
fn steps_go_by_wet_soil_and_mild_days_and_not_by_the_calendar() {
    // Woken this morning: the ledger knows it asleep alone.
    let at_once = after(0);
    assert_eq!((at_once.since, at_once.mild_days), (WOKEN, 0));
    assert_eq!(when(&at_once, Step::WetWell), When::Now);
    let later = |not_before| When::Later { not_before };
    assert_eq!(
        when(&at_once, Step::RakeMats),
        later(WOKEN.saturating_add(1.day()))
    );
    assert_eq!(
        when(&at_once, Step::Judge),
        later(WOKEN.saturating_add(21.days()))
    );
    // After a week it is wet since the third day, and six of seven days were mild: ten are due in four.
    let week = after(7);
    let wet = WOKEN.saturating_add(2.days());
    assert_eq!(week.mild_days, 6);
    assert_eq!(when(&week, Step::WetWell), When::Past { on: wet });
    assert_eq!(when(&week, Step::RakeMats), When::Now);
    assert_eq!(
        when(&week, Step::Feed),
        later(WOKEN.saturating_add(11.days()))
    );
    // The tenth mild day is the eleventh day: one was hot. From then on it is fed, and no longer raked.
    let grown = after(11);
    let on = WOKEN.saturating_add(10.days());
    assert_eq!(when(&grown, Step::RakeMats), When::Past { on });
    assert_eq!(when(&grown, Step::Feed), When::Now);
    assert_eq!(grown.judged_from, None);
    // The 21st mild day is the 24th: three were hot.
    let judged = after(25);
    assert_eq!(judged.judged_from, Some(WOKEN.saturating_add(24.days())));
    assert_eq!(when(&judged, Step::Judge), When::Now);
    // It is green again: that it woke is known still; asleep again it is not.
    let today = WOKEN.saturating_add(25.days());
    assert!(recovery(&ledger(25), Regime::Established, today).is_some());
    assert_eq!(recovery(&ledger(25), Regime::Dormant, today), None);
    // It slept a second time, and was woken this morning.
    let mut twice = ledger(5);
    twice.push(day(
        WOKEN.saturating_add(5.days()),
        Regime::Dormant,
        0.95,
        true,
    ));
    let this_morning = WOKEN.saturating_add(6.days());
    let woken = recovery(&twice, Regime::Recovering, this_morning).unwrap();
    assert_eq!((woken.since, woken.mild_days), (this_morning, 0));
    let never = [day(WOKEN, Regime::Established, 0.2, true)];
    assert_eq!(recovery(&never, Regime::Established, today), None);
}

#[test]
fn what_was_seen_before_is_to_be_looked_at_again() {
    let judged = after(40);
    let from = judged.judged_from.unwrap();
    let eve = from.yesterday().unwrap();
    let early = |looked| is_early(Regime::Recovering, Some(&judged), looked);
    assert!(early(eve) && !early(from));
    assert!(is_early(Regime::Recovering, Some(&after(10)), from));
    assert!(is_early(Regime::Dormant, None, from));
    // A patch of a lawn that never slept is what it looks like.
    assert!(!is_early(Regime::Established, None, from));

    for (holds, alive, state) in [
        (None, None, State::Unjudged),
        (Some(true), None, State::Unjudged),
        (Some(false), None, State::Dead),
        (Some(true), Some(false), State::Dead),
        (Some(false), Some(true), State::Loose),
        (None, Some(true), State::Alive),
        (Some(true), Some(true), State::Alive),
    ] {
        assert_eq!(State::of(holds, alive), state, "{holds:?} {alive:?}");
    }
    // The last look that tells something counts: a photo alone takes nothing back.
    let look = |state| Look { date: eve, state };
    let looks = [State::Alive, State::Dead, State::Unjudged].map(look);
    assert_eq!(telling(&looks), Some(look(State::Dead)));
    assert_eq!(telling(&looks[2..]), Some(look(State::Unjudged)));
    assert_eq!(telling(&[]), None);
}

/// Worked by hand from the table of seed.
#[test]
fn bunch_grass_is_sown_and_spreading_grass_closes_small_gaps() {
    let of = |grass, m2| repair(grass, Area::from_m2(m2));
    let fescue = of(Grass::TallFescue, 20.0);
    assert_eq!(fescue.seed_kg, Some(0.8));
    assert!((fescue.work_min - 100.0).abs() < 1e-9 && !fescue.closes_itself);
    assert_eq!(of(Grass::PerennialRyegrass, 0.2).seed_kg, Some(0.007));
    let small = of(Grass::KentuckyBluegrass, 0.8);
    assert!(small.closes_itself && small.seed_kg.is_none() && small.work_min == 0.0);
    assert_eq!(of(Grass::KentuckyBluegrass, 4.0).seed_kg, Some(0.06));
    // Two square metres, a plug every 30 cm: 22.2.
    let plugs = of(Grass::StAugustinegrass, 2.0);
    assert_eq!((plugs.plugs, plugs.seed_kg), (Some(23), None));
}

/// Days of a mean temperature, with hard frost on some.
fn autumns(mean_c: f64, years: &[(i16, Option<Date>)]) -> Vec<DailyWeather> {
    let (first, last) = (years[0].0, years[years.len() - 1].0);
    let from = date(first, 1, 1);
    let to = date(last, 12, 31);
    let frosts: Vec<Date> = years.iter().filter_map(|(_, frost)| *frost).collect();
    let days = from.series(1.day()).take_while(|day| *day <= to);
    let day = |date: Date| DailyWeather {
        tmin_c: Some(if frosts.contains(&date) {
            -2.0
        } else {
            mean_c - 6.0
        }),
        tmax_c: Some(mean_c + 6.0),
        ..plain(date, 3.0, 0.0)
    };
    days.map(day).collect()
}

#[test]
fn the_last_day_of_sowing_leaves_time_before_frost() {
    let today = date(2026, 9, 10);
    let north = 45.0;
    let last = |grass: Grass, record: &[DailyWeather]| {
        sow_by(&grass.seed().unwrap(), north, record, today)
    };
    // At 15 °C fescue wants 355 °C·d, 36 days, ryegrass less: 45 days before frost. Bluegrass wants 470 °C·d: the day of frost counts 2.5, 46 others 10, and 7.5
    // of the 47th.
    let record = autumns(15.0, &[(2025, Some(date(2025, 10, 31)))]);
    let on = |date, autumns| SowBy::Day { date, autumns };
    let hand = on(date(2026, 9, 16), 1);
    assert_eq!(last(Grass::TallFescue, &record), hand);
    assert_eq!(last(Grass::PerennialRyegrass, &record), hand);
    assert_eq!(
        last(Grass::KentuckyBluegrass, &record),
        on(date(2026, 9, 14), 1)
    );
    // Four of five autumns: of ten the third earliest.
    let frost = |year: i16, day| (year, Some(date(year, 10, day)));
    let ten: Vec<_> = (0..10i8)
        .map(|i| frost(2016 + i16::from(i), 1 + 2 * i))
        .collect();
    let record = autumns(15.0, &ten);
    assert_eq!(last(Grass::TallFescue, &record), on(date(2026, 8, 21), 10));
    // Nothing known, and no frost in any autumn.
    assert_eq!(last(Grass::TallFescue, &[]), SowBy::NotKnown);
    assert_eq!(
        last(Grass::TallFescue, &record[..200]),
        SowBy::NotKnown,
        "no whole autumn"
    );
    let mild = autumns(15.0, &[(2024, None), (2025, None)]);
    assert_eq!(last(Grass::TallFescue, &mild), SowBy::NoFrost);
    // South of the equator autumn is half a year on; in September the next one is meant.
    let record = autumns(15.0, &[(2025, Some(date(2025, 5, 31)))]);
    let south = sow_by(&Grass::TallFescue.seed().unwrap(), -38.0, &record, today);
    assert_eq!(south, on(date(2027, 4, 16), 1));
}

#[test]
fn spraying_first_is_offered_where_the_dates_allow_it() {
    let by = SowBy::Day {
        date: date(2026, 9, 16),
        autumns: 3,
    };
    let on = |month, day| sow(by, date(2026, month, day));
    assert_eq!(
        on(8, 26),
        Sow::SprayFirst {
            from: date(2026, 9, 16)
        }
    );
    assert_eq!(on(8, 27), Sow::Now);
    assert_eq!(on(9, 16), Sow::Now);
    assert_eq!(on(9, 17), Sow::TooLate);
    assert_eq!(sow(SowBy::NoFrost, date(2026, 9, 1)), Sow::NoFrost);
}

#[test]
fn what_cannot_wait_for_the_verdict_is_sown_without_it() {
    let by = |date| SowBy::Day { date, autumns: 3 };
    let at_once = after(0);
    let verdict = WOKEN.saturating_add(21.days());
    let eve = verdict.yesterday().unwrap();
    assert_eq!(sown_unjudged(&at_once, by(eve)), Some(eve));
    assert_eq!(sown_unjudged(&at_once, by(verdict)), None);
    // Its window had shut before it woke.
    let before = WOKEN.yesterday().unwrap();
    assert_eq!(sown_unjudged(&at_once, by(before)), None);
    assert_eq!(sown_unjudged(&at_once, SowBy::NoFrost), None);
    assert_eq!(sown_unjudged(&after(25), by(eve)), None, "it is judged");
}

proptest! {
    /// Whatever the days were like: steps come in their order, and a hotter day never brings the verdict nearer.
    #[test]
    fn a_day_that_is_not_mild_never_brings_the_verdict_nearer(mild in prop::collection::vec(any::<bool>(), 1..60), at in any::<prop::sample::Index>()) {
        let ledger = |mild: &[bool]| {
            let asleep = std::iter::once(day(WOKEN.yesterday().unwrap(), Regime::Dormant, 0.9, true));
            let awake = (0i64..).zip(mild).map(|(i, mild)| day(WOKEN.saturating_add(i.days()), Regime::Recovering, 0.2, *mild));
            asleep.chain(awake).collect::<Vec<_>>()
        };
        let today = WOKEN.saturating_add(i64::try_from(mild.len()).unwrap().days());
        let verdict = |mild: &[bool]| {
            let found = recovery(&ledger(mild), Regime::Recovering, today).unwrap();
            match when(&found, Step::Judge) {
                When::Later { not_before } => not_before,
                _ => found.judged_from.unwrap(),
            }
        };
        let before = verdict(&mild);
        let mut hotter = mild;
        let at = at.index(hotter.len());
        hotter[at] = false;
        prop_assert!(verdict(&hotter) >= before);
    }

    /// More seed for more ground, and the same for the same.
    #[test]
    fn repairs_grow_with_the_patch(m2 in 0.01f64..500.0, more in 1.0f64..3.0) {
        for grass in Grass::ALL {
            let (one, two) = (repair(grass, Area::from_m2(m2)), repair(grass, Area::from_m2(m2 * more)));
            prop_assert!(two.seed_kg.unwrap_or(0.0) >= one.seed_kg.unwrap_or(0.0));
            prop_assert!(two.plugs.unwrap_or(0) >= one.plugs.unwrap_or(0));
            prop_assert!(two.work_min >= one.work_min);
            prop_assert!(grass.spreads() || one.seed_kg.is_some());
        }
    }
}
