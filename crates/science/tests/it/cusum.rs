//! Run lengths of the CUSUM against the published table (Montgomery, *Introduction to Statistical Quality Control*, k = ½, from memory) and by simulation.

use science::cusum::{Cusum, Shift, run_length};
use statrs::distribution::{ContinuousCDF, Normal};

/// Shift in standard deviations, mean run length at h = 4 and h = 5.
const TABLE: [(f64, f64, f64); 6] = [
    (0.0, 168.0, 465.0),
    (0.25, 74.2, 139.0),
    (0.5, 26.6, 38.0),
    (1.0, 8.38, 10.4),
    (2.0, 3.34, 4.01),
    (3.0, 2.19, 2.57),
];

#[test]
fn the_formula_is_within_a_tenth_of_the_published_table() {
    for (shift, four, five) in TABLE {
        for (h, published) in [(4.0, four), (5.0, five)] {
            let ratio = run_length(0.5, h, shift) / published;
            assert!((0.9..1.1).contains(&ratio), "shift {shift}, h {h}: {ratio}");
        }
    }
}

/// Mean run length over some hundred simulated series.
fn simulated(limit: f64, shift: f64, series: u32) -> f64 {
    let normal = Normal::standard();
    // SplitMix64 (Steele, Lea and Flood 2014).
    let mut state = 7_u64;
    let mut draw = || {
        state = state.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = state;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        let share = ((z ^ (z >> 31)) >> 12) as f64 + 0.5;
        normal.inverse_cdf(share / (1_u64 << 52) as f64)
    };
    let mut figures = 0_u32;
    for _ in 0..series {
        let mut cusum = Cusum::new(0.5, limit);
        loop {
            figures += 1;
            if cusum.add(draw() + shift).is_some() {
                break;
            }
        }
    }
    f64::from(figures) / f64::from(series)
}

#[test]
fn the_chart_runs_as_long_as_the_table_says() {
    for (shift, four, five) in TABLE {
        for (h, published) in [(4.0, four), (5.0, five)] {
            // A run length scatters as much as its mean: 4000 series give it to a twentieth, three standard errors.
            let ratio = simulated(h, shift, 4000) / published;
            assert!(
                (0.94..1.06).contains(&ratio),
                "shift {shift}, h {h}: {ratio}"
            );
        }
    }
}

#[test]
fn a_shift_is_told_with_its_side_and_when_it_began() {
    let mut cusum = Cusum::new(0.5, 5.0);
    for z in [0.3, -0.4, 0.2, -0.1] {
        assert_eq!(cusum.add(z), None);
    }
    assert_eq!(cusum.add(3.0), None);
    assert_eq!(cusum.add(4.0), Some(Shift::Up));
    assert_eq!(cusum.rising_for(Shift::Up), 2);
    assert_eq!(cusum.rising_for(Shift::Down), 0);
    cusum.reset();
    assert_eq!(cusum.add(-6.0), Some(Shift::Down));
}
