//! Catch cans: worked figures, ratings, and the properties that any audit has.

use proptest::prelude::*;
use science::catch_can::{
    Can, Rating, audit, christiansen_pct, depth_mm, low_quarter_uniformity, rating,
};

/// Of cans wherever they stood.
fn scheduling_coefficient(cans: &[Can]) -> Option<f64> {
    science::catch_can::scheduling_coefficient(cans, &|_, _| true)
}

/// A row of a grid of cans, 2 m apart.
fn grid(depths: &[f64], across: usize) -> Vec<Can> {
    depths
        .iter()
        .enumerate()
        .map(|(i, &depth_mm)| Can {
            depth_mm,
            place_m: Some((
                2.0 * f64::from(u32::try_from(i % across).unwrap()),
                2.0 * f64::from(u32::try_from(i / across).unwrap()),
            )),
        })
        .collect()
}

/// Worked by hand with the textbook definitions (Irrigation Association's low quarter, Christiansen 1942): sixteen cans, mean 40 mL.
/// Throat 100 cm², 15 min: 4 mm, 16 mm/h.
#[test]
fn sixteen_cans_worked_by_hand() {
    let ml = [
        42.0, 38.0, 51.0, 47.0, 29.0, 33.0, 60.0, 55.0, 36.0, 41.0, 44.0, 40.0, 30.0, 28.0, 34.0,
        32.0,
    ];
    let cans: Vec<Can> = ml
        .iter()
        .map(|ml| Can {
            depth_mm: depth_mm(*ml, 100.0),
            place_m: None,
        })
        .collect();
    let found = audit(&cans, 15.0).unwrap();
    assert_eq!(found.n, 16);
    assert!((found.mean_mm - 4.0).abs() < 1e-12);
    assert!((found.precipitation_rate_mm_h - 16.0).abs() < 1e-12);
    // The four driest: 28 + 29 + 30 + 32 = 119, mean 29.75; 29.75 / 40.
    assert!((found.du_lq.unwrap() - 0.743_75).abs() < 1e-12);
    // Σ|x − 40| = 120; 100 (1 − 120 / 640).
    assert!((found.cu_pct.unwrap() - 81.25).abs() < 1e-12);
    assert!((found.run_time_multiplier.unwrap() - 1.0 / (0.4 + 0.6 * 0.743_75)).abs() < 1e-12);
    assert_eq!(
        scheduling_coefficient(&cans),
        None,
        "no can says where it stood"
    );
}

/// A. M. Michael, Irrigation: Theory and Practice, the worked example of Christiansen's coefficient (from memory: the readings, and an
/// answer of about 90 %): 21 cans between four sprinklers 24 m apart, mm in one hour.
#[test]
fn a_textbook_s_worked_audit_comes_out() {
    let rows: [&[f64]; 5] = [
        &[8.9, 7.6, 6.6],
        &[8.1, 7.6, 9.9, 10.2, 8.3],
        &[8.9, 9.1, 9.1, 9.4, 8.9],
        &[9.4, 7.9, 9.1, 8.6, 9.1],
        &[7.9, 6.6, 6.8],
    ];
    let cans: Vec<Can> = rows
        .concat()
        .into_iter()
        .map(|depth_mm| Can {
            depth_mm,
            place_m: None,
        })
        .collect();
    let found = audit(&cans, 60.0).unwrap();
    assert_eq!(found.n, 21);
    assert!((found.mean_mm - 178.0 / 21.0).abs() < 1e-9);
    assert!((found.precipitation_rate_mm_h - 8.476).abs() < 0.001);
    assert!((found.cu_pct.unwrap() - 90.0).abs() < 0.5, "{found:?}");
    // By hand, 21/4 = 5.25 cans: 6.6 + 6.6 + 6.8 + 7.6 + 7.6 + 0.25 · 7.9 = 37.175; over 5.25 · 8.476.
    assert!((found.du_lq.unwrap() - 37.175 / 5.25 / (178.0 / 21.0)).abs() < 1e-9);
}

#[test]
fn a_can_that_is_partly_in_the_quarter_counts_by_that_part() {
    // Six cans: one and a half. (2 + 0.5 · 4) / 1.5 = 8/3; mean 7.
    let du = low_quarter_uniformity(&[12.0, 2.0, 4.0, 6.0, 8.0, 10.0]).unwrap();
    assert!((du - 8.0 / 3.0 / 7.0).abs() < 1e-12);
    assert_eq!(low_quarter_uniformity(&[1.0, 2.0, 3.0]), None);
    assert_eq!(low_quarter_uniformity(&[0.0; 8]), None);
    assert_eq!(christiansen_pct(&[0.0, 0.0]), None);
    // One can of four has all the water: Σ|x − m| = 1.5 · 4 m.
    assert!((christiansen_pct(&[8.0, 0.0, 0.0, 0.0]).unwrap() + 50.0).abs() < 1e-12);
}

#[test]
fn the_scheduling_coefficient_finds_the_dry_corner() {
    let mut depths = vec![10.0; 25];
    assert!((scheduling_coefficient(&grid(&depths, 5)).unwrap() - 1.0).abs() < 1e-9);
    depths[0] = 4.0;
    let corner = scheduling_coefficient(&grid(&depths, 5)).unwrap();
    // Analytic, between the cans bilinear: a square of 1.83 m at the corner of 10 − 6 (1 − x/2)(1 − y/2) has the mean
    // 10 − 6 · (1 − 1.83 / 4)² = 8.23; 9.76 over it is 1.186.
    assert!((corner / 1.186 - 1.0).abs() < 0.03, "{corner}");
    for d in &mut depths[..10] {
        *d = 0.0;
    }
    let dry = scheduling_coefficient(&grid(&depths, 5)).unwrap();
    assert!(dry > 10.0 || dry.is_infinite(), "{dry}");
    let line: Vec<Can> = grid(&depths[..5], 5);
    assert_eq!(scheduling_coefficient(&line), None, "a line spans no area");
}

#[test]
fn ratings_begin_where_the_table_says() {
    for (rotates, du, right) in [
        (false, 0.75, Rating::Excellent),
        (false, 0.65, Rating::VeryGood),
        (false, 0.55, Rating::Good),
        (false, 0.50, Rating::Fair),
        (false, 0.40, Rating::Poor),
        (false, 0.39, Rating::Failing),
        (true, 0.80, Rating::Excellent),
        (true, 0.70, Rating::VeryGood),
        (true, 0.65, Rating::Good),
        (true, 0.60, Rating::Fair),
        (true, 0.50, Rating::Poor),
        (true, 0.49, Rating::Failing),
    ] {
        assert_eq!(rating(rotates, du), right, "{rotates} {du}");
    }
}

proptest! {
    #[test]
    fn scaling_all_cans_scales_the_rate_and_leaves_evenness(depths in prop::collection::vec(0.1..60.0f64, 9..40), by in 0.1..10.0f64) {
        let before = audit(&grid(&depths, 3), 12.0).unwrap();
        let scaled: Vec<f64> = depths.iter().map(|d| d * by).collect();
        let after = audit(&grid(&scaled, 3), 12.0).unwrap();
        prop_assert!((after.precipitation_rate_mm_h / before.precipitation_rate_mm_h / by - 1.0).abs() < 1e-9);
        prop_assert!((after.du_lq.unwrap() - before.du_lq.unwrap()).abs() < 1e-9);
        prop_assert!((after.cu_pct.unwrap() - before.cu_pct.unwrap()).abs() < 1e-7);
        let (a, b) = (scheduling_coefficient(&grid(&scaled, 3)).unwrap(), scheduling_coefficient(&grid(&depths, 3)).unwrap());
        prop_assert!((a / b - 1.0).abs() < 1e-6);
    }

    #[test]
    fn lowering_the_driest_can_never_raises_the_low_quarter(mut depths in prop::collection::vec(0.1..60.0f64, 4..40), share in 0.0..1.0f64) {
        let before = low_quarter_uniformity(&depths).unwrap();
        let driest = (0..depths.len()).min_by(|a, b| depths[*a].total_cmp(&depths[*b])).unwrap();
        depths[driest] *= share;
        prop_assert!(low_quarter_uniformity(&depths).unwrap() <= before + 1e-12);
    }

    #[test]
    fn the_low_quarter_is_between_0_and_1(depths in prop::collection::vec(0.0..60.0f64, 4..40)) {
        if let Some(du) = low_quarter_uniformity(&depths) {
            prop_assert!((0.0..=1.0 + 1e-12).contains(&du));
        }
    }
}

/// Keller and Bliesner (1990), from memory: where catches are spread normally, CU = 100 − 0.63 (100 − DU). The low quarter and the mean
/// deviation are computed by their own ways, so that an error in one of them would part them.
#[test]
fn evenness_by_the_low_quarter_and_by_christiansen_agree_on_a_normal_catch() {
    // Deciles of a normal catch by sums of twelve uniform steps: a fixed set, no chance.
    let mut state = 12_345u32;
    let mut uniform = || {
        state = state.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(state >> 8) / f64::from(1u32 << 24)
    };
    for spread in [0.05, 0.12, 0.2] {
        let depths: Vec<f64> = (0..20_000)
            .map(|_| 10.0 * (1.0 + spread * ((0..12).map(|_| uniform()).sum::<f64>() - 6.0)))
            .collect();
        let du = 100.0 * low_quarter_uniformity(&depths).unwrap();
        let cu = christiansen_pct(&depths).unwrap();
        assert!(
            (cu - (100.0 - 0.63 * (100.0 - du))).abs() < 0.4,
            "{spread}: CU {cu}, DU {du}"
        );
    }
}

/// The Irrigation Association's table of run-time multipliers (Landscape Irrigation Scheduling and Water Management, 2005; from memory).
#[test]
fn run_time_multipliers_are_the_table_s() {
    for (du, right) in [
        (0.85, 1.10),
        (0.80, 1.14),
        (0.70, 1.22),
        (0.60, 1.32),
        (0.50, 1.43),
        (0.40, 1.56),
    ] {
        let found = science::sprinkler::run_time_multiplier(du);
        assert!((found - right).abs() < 0.005, "{du}: {found}");
    }
}

/// One can in the corner is dry. Where the zone ends before that corner, what the surface says there is nobody's lawn.
#[test]
fn places_outside_of_the_outline_do_not_count() {
    let mut depths = vec![10.0; 25];
    depths[24] = 0.0;
    let cans = grid(&depths, 5);
    let within = |inside: &dyn Fn(f64, f64) -> bool| {
        science::catch_can::scheduling_coefficient(&cans, inside).unwrap()
    };
    let mean = 9.6 / 10.0;
    let whole = within(&|_, _| true);
    assert!(whole > 1.2 * mean, "{whole}");
    let short = within(&|x, y| !(x > 5.8 && y > 5.8));
    // All places that count get 10 mm; the mean of the cans is 9.6.
    assert!((short / mean - 1.0).abs() < 0.02, "{short}");
    let nowhere = science::catch_can::scheduling_coefficient(&cans, &|_, _| false);
    assert_eq!(nowhere, None);
}
