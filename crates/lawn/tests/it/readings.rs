//! Meters: roll-over, a changed meter, slipped digits, the night on which the clock is set. What is asked about is ours (common practice, no source).

use jiff::civil::date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use lawn::measure::unlikely::Unlikely;
use lawn::quantity::Volume;
use lawn::record::readings::{
    Follows, Heard, OnTheClock, Reading, expected, odd, odd_beside, on_the_clock, used,
};
use lawn::site::meter::{Meter, MeterUnit};
use proptest::prelude::*;

fn meter() -> Meter {
    Meter {
        id: "1".to_owned(),
        name: "Lawn".to_owned(),
        unit: MeterUnit::M3,
        digits: 5,
        decimals: 1,
        multiplier: 1.0,
        pulse_l: None,
        feeds: Vec::new(),
        house: false,
        active_from: None,
        active_to: None,
    }
}

fn day(days: i64) -> Timestamp {
    let first: Timestamp = "2026-06-01T12:00:00Z".parse().unwrap();
    first + SignedDuration::from_hours(24 * days)
}

fn reading(days: i64, register: f64) -> Reading {
    Reading {
        at: day(days),
        register,
        follows: Follows::On,
    }
}

fn m3(m3: f64) -> Volume {
    Volume::from_l(m3 * 1000.0)
}

/// NIST Special Publication 811, B.8: 1 ft³ = 28.316 846 592 L, 1 gal = 3.785 411 784 L; CCF and kgal are a hundred and a thousand of them.
#[test]
fn units_are_those_of_nist_sp_811() {
    for (unit, litres) in [
        (MeterUnit::M3, 1000.0),
        (MeterUnit::Ft3, 28.316_846_592),
        (MeterUnit::Ccf, 2_831.684_659_2),
        (MeterUnit::Gal, 3.785_411_784),
        (MeterUnit::Kgal, 3_785.411_784),
        (MeterUnit::L, 1.0),
    ] {
        assert!((unit.volume().l() / litres - 1.0).abs() < 1e-12, "{unit:?}");
    }
    // The trade's 748 gal to a CCF (TRADE's tables, three digits).
    assert!((MeterUnit::Ccf.volume().l() / MeterUnit::Gal.volume().l() - 748.0).abs() < 0.1);
    let tens = Meter {
        unit: MeterUnit::Gal,
        multiplier: 10.0,
        ..meter()
    };
    assert!((tens.volume(3.0).l() - 30.0 * 3.785_411_784).abs() < 1e-9);
}

#[test]
fn what_flowed_over_a_turn_and_a_change() {
    let meter = meter();
    let between = |before: f64, register, follows| {
        let now = Reading {
            follows,
            ..reading(7, register)
        };
        used(&meter, &reading(0, before), &now).map(|v| (v.m3() * 1e6).round() / 1e6)
    };
    assert_eq!(between(120.5, 142.0, Follows::On), Some(21.5));
    assert_eq!(between(99_990.0, 12.5, Follows::RolledOver), Some(22.5));
    let new = |old_register| Follows::NewMeter {
        old_register,
        began_with: 0.3,
    };
    assert_eq!(between(500.0, 4.3, new(Some(510.0))), Some(14.0));
    assert_eq!(between(500.0, 4.3, new(None)), None);
}

#[test]
fn a_reading_is_held_against_the_flow_that_was_heard() {
    // A dial of six digits, a count of 100 L; ten days, of which every twentieth minute was not heard.
    let meter = Meter {
        digits: 6,
        decimals: 0,
        unit: MeterUnit::L,
        multiplier: 100.0,
        ..meter()
    };
    let before = reading(0, 100_700.0);
    let minutes: Vec<Option<u16>> = (0..10 * 1440)
        .map(|minute| (minute % 20 != 0).then_some(u16::from(minute % 1440 < 120)))
        .collect();
    let heard = Heard::of(&minutes, Volume::from_l(92.0)).unwrap();
    // 120 pulses of 92 L on each of ten days.
    assert!(
        (heard.flowed.l() / 110_400.0 - 1.0).abs() < 0.01,
        "{heard:?}"
    );
    let ask = |register| {
        let new = reading(10, register);
        odd_beside(&meter, Some(&before), None, &new, m3(50.0), Some(heard))
    };
    assert_eq!(ask(101_805.0), None);
    // Lower than the last: what is offered is what was heard, not what is merely possible.
    let Some(Unlikely::LowerReading {
        meant,
        heard_register,
        ..
    }) = ask(100_664.0)
    else {
        panic!("it is lower")
    };
    assert_eq!(meant, None, "no digit away from what was heard");
    assert!((heard_register.unwrap() - 101_804.0).abs() <= 5.0);
    // Possible by what is usual, and not what was heard: asked about, both ways.
    for register in [101_164.0, 103_805.0] {
        let Some(Unlikely::OtherThanHeard { .. }) = ask(register) else {
            panic!("{register} is not asked about")
        };
    }
    let Some(Unlikely::OtherThanHeard { meant, .. }) = ask(101_205.0) else {
        panic!("less than was heard")
    };
    assert_eq!(meant, Some(101_805.0));
    // Of which little was heard says nothing.
    assert_eq!(Heard::of(&[Some(1), None], Volume::from_l(10.0)), None);
    assert_eq!(Heard::of(&[], Volume::from_l(10.0)), None);
}

#[test]
fn what_is_odd_is_asked_about_and_the_rest_is_not() {
    let meter = meter();
    let before = reading(0, 412.6);
    let ask = |register, follows, expects| {
        let new = Reading {
            follows,
            ..reading(7, register)
        };
        odd(&meter, Some(&before), None, &new, m3(expects))
    };
    assert_eq!(ask(434.1, Follows::On, 20.0), None);
    assert_eq!(
        ask(464.1, Follows::On, 20.0),
        None,
        "more than expected, and not three times"
    );
    // A 4 too many: far too much, and without it what is expected.
    assert_eq!(
        ask(4344.1, Follows::On, 20.0),
        Some(Unlikely::MuchUsed {
            used_l: (4344.1 - 412.6) * 1000.0,
            expected_l: 20_000.0,
            meant: Some(434.1),
        })
    );
    let lower = ask(344.1, Follows::On, 20.0).unwrap();
    let Unlikely::LowerReading {
        last,
        rolled_over_l,
        meant,
        ..
    } = lower
    else {
        panic!("{lower:?}")
    };
    assert_eq!((last, rolled_over_l, meant), (412.6, None, Some(434.1)));
    assert!(!lower.can_be());
    // Near its last figure the counter may have turned.
    let near_the_turn = reading(0, 99_995.0);
    let new = reading(7, 9.0);
    let turned = odd(&meter, Some(&near_the_turn), None, &new, m3(15.0));
    let Some(Unlikely::LowerReading {
        rolled_over_l: Some(litres),
        ..
    }) = turned
    else {
        panic!("{turned:?}")
    };
    assert!((litres - 14_000.0).abs() < 1e-6);
    let told = Reading {
        follows: Follows::RolledOver,
        ..new
    };
    assert_eq!(
        odd(&meter, Some(&near_the_turn), None, &told, m3(15.0)),
        None
    );
    // Nothing flowed: asked about where water ran, not in winter.
    assert!(matches!(
        ask(412.6, Follows::On, 20.0),
        Some(Unlikely::SameReading { .. })
    ));
    assert_eq!(ask(412.6, Follows::On, 0.0), None);
    let again = Reading {
        at: day(0) + SignedDuration::from_mins(5),
        ..before
    };
    let twice = odd(&meter, Some(&before), None, &again, m3(0.0));
    assert!(matches!(twice, Some(Unlikely::SameReading { .. })));
    // Between two others it cannot be higher than the later.
    let next = reading(14, 450.0);
    let above = odd(
        &meter,
        Some(&before),
        Some(&next),
        &reading(7, 473.1),
        m3(20.0),
    )
    .unwrap();
    let Unlikely::AboveNextReading {
        meant: Some(meant), ..
    } = above
    else {
        panic!("{above:?}")
    };
    assert!((412.6..=450.0).contains(&meant), "{meant}");
    // After a later change of the meter it may.
    let changed = Reading {
        follows: Follows::NewMeter {
            old_register: Some(480.0),
            began_with: 0.0,
        },
        ..reading(14, 3.0)
    };
    assert_eq!(
        odd(
            &meter,
            Some(&before),
            Some(&changed),
            &reading(7, 473.1),
            m3(20.0)
        ),
        None
    );
    assert_eq!(
        odd(&meter, None, None, &reading(0, 99_999.0), m3(0.0)),
        None,
        "the first of all"
    );
}

#[test]
fn what_is_expected_is_what_ran_or_the_middle_of_what_was_used() {
    let meter = meter();
    let read = [
        reading(0, 0.0),
        reading(10, 20.0),
        reading(20, 30.0),
        reading(30, 90.0),
    ];
    // 2, 1 and 6 m³ a day.
    let after = |count: usize, run| {
        (expected(&meter, &read[..count], day(40), m3(run)).m3() * 1e6).round() / 1e6
    };
    assert_eq!(after(4, 5.0), 20.0);
    assert_eq!(after(4, 50.0), 50.0);
    assert_eq!(after(3, 5.0), 5.0, "two stretches are too few");
    let house = Meter {
        house: true,
        ..meter.clone()
    };
    assert!((expected(&house, &read[..1], day(10), m3(5.0)).m3() - 15.0).abs() < 1e-9);
}

#[test]
fn the_nights_on_which_the_clock_is_set() {
    let zone = TimeZone::get("America/New_York").unwrap();
    let at = |d: jiff::civil::Date, h, m| on_the_clock(&zone, d.at(h, m, 0, 0));
    let instant = |text: &str| text.parse::<Timestamp>().unwrap();
    assert_eq!(
        at(date(2026, 6, 18), 7, 30),
        OnTheClock::Once(instant("2026-06-18T11:30:00Z"))
    );
    // Set back from 2:00 to 1:00.
    assert_eq!(
        at(date(2026, 11, 1), 1, 30),
        OnTheClock::Twice(
            instant("2026-11-01T05:30:00Z"),
            instant("2026-11-01T06:30:00Z")
        )
    );
    // Set forward from 2:00 to 3:00.
    assert_eq!(
        at(date(2026, 3, 8), 2, 30),
        OnTheClock::Never(date(2026, 3, 8).at(3, 30, 0, 0))
    );
}

proptest! {
    #[test]
    fn a_counter_that_turns_loses_nothing(digits in 3..=8u8, start in 0.0..1.0f64, uses in prop::collection::vec(0.0..0.9f64, 1..20)) {
        let meter = Meter { digits, ..meter() };
        let mut at = reading(0, (start * meter.turns_at()).floor());
        let (mut true_count, mut counted) = (at.register, 0.0);
        for (i, share) in (1..).zip(uses) {
            let used_now = (share * meter.turns_at()).floor();
            true_count += used_now;
            let register = true_count % meter.turns_at();
            let follows = if register < at.register { Follows::RolledOver } else { Follows::On };
            let next = Reading { follows, ..reading(i, register) };
            counted += used(&meter, &at, &next).unwrap().m3();
            at = next;
        }
        prop_assert!((counted - (true_count - (start * meter.turns_at()).floor())).abs() < 1e-3);
    }

    /// A digit that slipped is asked about whenever the use that it makes cannot be; what is offered instead is at least as likely as the truth. A slip
    /// back to the last figure can be where no more was to be expected than two counts of the meter.
    #[test]
    fn a_slipped_digit_is_not_taken_silently(before in 0..90_000u32, use_m3 in 1..60u32, at in 0..5usize, digit in 0..10u32) {
        let meter = Meter { decimals: 0, ..meter() };
        let truth = before + use_m3;
        let mut text: Vec<char> = format!("{truth:05}").chars().collect();
        text[at] = char::from_digit(digit, 10).unwrap();
        let typed: f64 = text.into_iter().collect::<String>().parse().unwrap();
        let start = reading(0, f64::from(before));
        let expects = m3(f64::from(use_m3));
        let found = odd(&meter, Some(&start), None, &reading(7, typed), expects);
        let used_l = (typed - f64::from(before)) * 1000.0;
        let most = 3.0 * expects.l() + 1000.0 + 2000.0;
        let stands_still = used_l == 0.0 && use_m3 > 2;
        prop_assert_eq!(found.is_some(), !(0.0..=most).contains(&used_l) || stands_still);
        if let Some(Unlikely::MuchUsed { meant, .. } | Unlikely::LowerReading { meant, .. }) = found {
            let meant = meant.unwrap();
            prop_assert!((meant - f64::from(truth)).abs() <= 1e-9, "{} {}", meant, truth);
        }
    }
}
