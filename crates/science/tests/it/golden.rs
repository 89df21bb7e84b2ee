//! Reference ET against `refet` and `pyet`, see tests/data/README.md.

use jiff::civil::Date;
use science::reference_et::{Choice, Day, Method, Place, reference_et};

const GOLDEN: &str = include_str!("../data/reference_et.csv");

#[test]
fn penman_monteith_agrees_with_two_libraries() {
    let rows: Vec<&str> = GOLDEN.lines().skip(1).collect();
    assert!(
        rows.len() >= 3000,
        "golden data is short: {} rows",
        rows.len()
    );
    let mut worst: f64 = 0.0;
    for row in rows {
        let cells: Vec<&str> = row.split(',').collect();
        let number = |i: usize| -> f64 { cells[i].parse().unwrap() };
        let date: Date = cells[2].parse().unwrap();
        let place = Place {
            latitude_deg: number(0),
            elevation_m: number(1),
            wind_height_m: number(9),
        };
        let day = Day {
            tmin_c: number(3),
            tmax_c: number(4),
            rh_min_pct: Some(number(5)),
            rh_max_pct: Some(number(6)),
            solar_mj_m2: Some(number(7)),
            wind_m_s: Some(number(8)),
            ..Day::default()
        };
        let day_of_year = u16::try_from(date.day_of_year()).unwrap();
        let et = reference_et(&place, day_of_year, &day, Choice::Auto).unwrap();
        assert_eq!(et.method, Method::PenmanMonteith);
        for library in [number(10), number(11)] {
            let allowed = (0.005 * library).max(0.02);
            let off = (et.et0_mm - library).abs();
            assert!(off <= allowed, "{row}: got {}, off by {off}", et.et0_mm);
            worst = worst.max(off / allowed);
        }
    }
    assert!(
        worst > 0.0,
        "agreement to the last digit would mean that the data is our own"
    );
}
