//! Windows by the local clock: odd and even dates at a month's end, days on which the clock changes, sunrise.

use jiff::civil::date;
use lawn::site::calendar::days;
use lawn::site::{DateRule, Weekday};

use crate::fixture::{site, window};

#[test]
fn the_31st_and_the_1st_are_both_odd() {
    let mut document = site(vec![]);
    document.windows[0].dates = DateRule::Odd;
    let zone = document.site.zone().unwrap();
    let open: Vec<bool> = days(&document, &zone, date(2026, 5, 30), 4)
        .iter()
        .map(|d| !d.windows.is_empty())
        .collect();
    assert_eq!(open, [false, true, true, false]);
}

#[test]
fn a_window_over_a_clock_change_is_as_long_as_its_hours_are() {
    let mut document = site(vec![]);
    document.windows = vec![window(&Weekday::ALL, "01:00", "04:00")];
    let zone = document.site.zone().unwrap();
    let hours = |on| days(&document, &zone, on, 1)[0].windows[0].length_s() / 3600;
    // New York: 8 March 2026 skips 02:00 to 03:00, 1 November repeats 01:00 to 02:00.
    assert_eq!(hours(date(2026, 3, 7)), 3);
    assert_eq!(hours(date(2026, 3, 8)), 2);
    assert_eq!(hours(date(2026, 11, 1)), 4);
}

#[test]
fn an_hour_that_the_clock_skips_is_no_window() {
    let mut document = site(vec![]);
    document.windows = vec![window(&Weekday::ALL, "02:00", "03:00")];
    let zone = document.site.zone().unwrap();
    assert!(
        days(&document, &zone, date(2026, 3, 8), 1)[0]
            .windows
            .is_empty()
    );
}

#[test]
fn overlapping_windows_are_one_and_weekdays_are_kept() {
    let mut document = site(vec![]);
    document.windows = vec![
        window(&[Weekday::Thursday], "05:00", "08:00"),
        window(&[Weekday::Thursday], "03:00", "06:00"),
    ];
    let zone = document.site.zone().unwrap();
    let week = days(&document, &zone, date(2026, 6, 18), 2);
    assert_eq!(week[0].windows.len(), 1);
    assert_eq!(week[0].windows[0].length_s(), 5 * 3600);
    assert!(week[1].windows.is_empty());
    // Sunrise at 36.4°N, 80.5°W on 18 June: about 06:05 local.
    let sunrise = week[0].sunrise_s.unwrap() - week[0].windows[0].start_s;
    assert!(
        (sunrise - 3 * 3600 - 300).abs() < 300,
        "{sunrise} s after 03:00"
    );
}
