//! Quick tests: rates by the trade's formulas, ranges by their crudeness, what is refused; and when a test is old.

use jiff::civil::date;
use lawn::measure::quick::{Pressures, QuickTest};
use lawn::measure::result::Tested;
use lawn::measure::sprinkler::{HeadFault, Outdated, SprinklerTest, outdated};
use lawn::sourced::Source;
use science::sprinkler::Kind;
use science::units::{L_PER_GALLON, M_PER_FOOT, M2_PER_FT2, MM_PER_INCH};

fn rate(test: &QuickTest) -> f64 {
    test.validate().unwrap();
    test.rate(date(2026, 6, 18)).value.mm_h()
}

fn off(test: &QuickTest) -> f64 {
    let rate = test.rate(date(2026, 6, 18));
    rate.high.mm_h() / rate.value.mm_h() - 1.0
}

/// Common practice, no source: at an inch an hour half an inch takes 30 minutes.
#[test]
fn half_an_inch_in_thirty_minutes_is_an_inch_an_hour() {
    let test = QuickTest::ToDepth {
        mark_mm: MM_PER_INCH / 2.0,
        minutes: vec![30.0; 3],
    };
    assert!((rate(&test) - MM_PER_INCH).abs() < 1e-9);
}

/// Irrigation Association (from memory): 96.25 · gpm / area in ft²; of a nozzle 96.25 · gpm of the full circle / (spacing · spacing).
#[test]
fn meter_and_nozzle_follow_the_trade_s_formula() {
    let meter = QuickTest::Meter {
        before_l: 1000.0,
        after_l: 1000.0 + 10.0 * 12.0 * L_PER_GALLON,
        minutes: 10.0,
        area_m2: 2000.0 * M2_PER_FT2,
    };
    assert!((rate(&meter) / MM_PER_INCH - 96.25 * 12.0 / 2000.0).abs() < 1e-4);
    let nozzle = |arc: f64, rows: Option<f64>, pressures: Option<Pressures>| QuickTest::Nozzle {
        flow_l_min: 0.92 * L_PER_GALLON,
        arc_degrees: arc,
        head_spacing_m: 15.0 * M_PER_FOOT,
        row_spacing_m: rows.map(|ft| ft * M_PER_FOOT),
        pressures,
    };
    let half = rate(&nozzle(180.0, Some(15.0), None)) / MM_PER_INCH;
    assert!((half - 96.25 * 2.0 * 0.92 / 225.0).abs() < 1e-4);
    let triangles = rate(&nozzle(180.0, None, None)) / MM_PER_INCH;
    assert!((triangles - half / 0.866).abs() < 1e-4);
    let low = Pressures {
        chart_kpa: 200.0,
        here_kpa: 100.0,
    };
    let low = rate(&nozzle(180.0, Some(15.0), Some(low))) / MM_PER_INCH;
    assert!((low / half - 0.5f64.sqrt()).abs() < 1e-9);
}

#[test]
fn the_cruder_the_wider() {
    let cans = |n: usize| QuickTest::ToDepth {
        mark_mm: 13.0,
        minutes: vec![25.0; n],
    };
    let meter = QuickTest::Meter {
        before_l: 0.0,
        after_l: 2000.0,
        minutes: 10.0,
        area_m2: 600.0,
    };
    let nozzle = QuickTest::Nozzle {
        flow_l_min: 6.0,
        arc_degrees: 180.0,
        head_spacing_m: 4.5,
        row_spacing_m: None,
        pressures: None,
    };
    assert!(off(&cans(2)) > off(&cans(3)) && off(&cans(3)) > off(&cans(6)));
    assert!(off(&nozzle) > off(&cans(2)) && off(&nozzle) > off(&meter));
    let uneven = QuickTest::ToDepth {
        mark_mm: 13.0,
        minutes: vec![15.0, 25.0, 60.0],
    };
    assert!(
        off(&uneven) > off(&cans(3)),
        "cans that differ widen it too"
    );
}

#[test]
fn impossible_figures_are_refused_at_their_field() {
    let meter = |before_l, after_l, minutes| QuickTest::Meter {
        before_l,
        after_l,
        minutes,
        area_m2: 600.0,
    };
    let marks = |minutes: &[f64]| QuickTest::ToDepth {
        mark_mm: 13.0,
        minutes: minutes.to_vec(),
    };
    let nozzle = QuickTest::Nozzle {
        flow_l_min: 6.0,
        arc_degrees: 400.0,
        head_spacing_m: 4.5,
        row_spacing_m: None,
        pressures: None,
    };
    for (test, field, words) in [
        (meter(500.0, 400.0, 10.0), "after_l", "not above"),
        (meter(500.0, 900.0, 0.0), "minutes", "below the lowest"),
        (meter(0.0, 5e6, 10.0), "after_l", "these figures cannot be"),
        (marks(&[]), "minutes", "1 to 24 cans"),
        (marks(&[20.0, 0.0]), "minutes[1]", "below the lowest"),
        (marks(&[f64::NAN]), "minutes[0]", "minutes"),
        (marks(&[0.2]), "minutes", "these figures cannot be"),
        (nozzle, "arc_degrees", "above the highest"),
    ] {
        let error = test.validate().unwrap_err();
        assert_eq!(error.field, field, "{error:?}");
        assert!(error.message.contains(words), "{}", error.message);
    }
}

#[test]
fn it_tells_the_rate_alone_and_how_it_was_found() {
    let test = SprinklerTest::Quick(QuickTest::ToDepth {
        mark_mm: 13.0,
        minutes: vec![20.0, 22.0, 24.0],
    });
    let tested = Tested {
        kind: Kind::Rotor,
        date: date(2026, 6, 18),
        week: None,
    };
    let found = test.result(&tested).unwrap();
    let figures = test.figures(tested.date).unwrap();
    assert_eq!((found.read, figures.evenness()), (3, None));
    let measured = figures.rate().unwrap();
    assert_eq!(measured, found.rate_mm_h);
    assert_eq!(
        measured.source,
        Source::Measured {
            test: "quick test, 3 cans and a watch".to_owned(),
            date: date(2026, 6, 18)
        }
    );
    let json = serde_json::to_value(&test).unwrap();
    assert_eq!(
        (&json["method"], &json["way"]),
        (&"quick".into(), &"to_depth".into())
    );
    assert_eq!(serde_json::from_value::<SprinklerTest>(json).unwrap(), test);
}

#[test]
fn a_test_is_doubted_after_a_year_and_once_a_head_has_a_fault_or_was_repaired_since() {
    let today = date(2026, 6, 18);
    assert_eq!(outdated(date(2026, 5, 2), today, &[]), None);
    assert_eq!(outdated(date(2025, 6, 18), today, &[]), None);
    assert_eq!(
        outdated(date(2025, 6, 17), today, &[]),
        Some(Outdated::OverAYear)
    );
    let noted_on = date(2026, 5, 6);
    let open = HeadFault {
        head: 4,
        noted_on,
        mended_on: None,
    };
    assert_eq!(
        outdated(date(2026, 5, 2), today, &[open]),
        Some(Outdated::HeadAtFault {
            head: 4,
            on: noted_on
        })
    );
    // Done with the fault, it measured what the zone waters until the repair.
    for tested in [noted_on, date(2026, 5, 20)] {
        assert_eq!(outdated(tested, today, &[open]), None);
    }
    let on = date(2026, 5, 9);
    let mended = HeadFault {
        mended_on: Some(on),
        ..open
    };
    for tested in [date(2026, 5, 2), date(2026, 5, 7)] {
        assert_eq!(
            outdated(tested, today, &[mended]),
            Some(Outdated::HeadMended {
                head: 4,
                noted_on,
                on
            })
        );
    }
    assert_eq!(
        outdated(on, today, &[mended]),
        None,
        "tested on the day, after the mending"
    );
}
