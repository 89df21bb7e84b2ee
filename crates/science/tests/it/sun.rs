//! Sunrise and sunset against the crate `solar-positioning` (NREL's SPA, an independent implementation of a finer method).

use jiff::civil::date;
use science::sun::{SunTimes, sun_times};
use solar_positioning::{Horizon, Location, SolarEvents};

/// Julian date of 1970-01-01 00:00 UTC.
const JULIAN_AT_UNIX_EPOCH: f64 = 2_440_587.5;

#[test]
fn within_a_minute_of_an_independent_library() {
    let events = SolarEvents::new();
    let mut compared = 0;
    for latitude in [-65.0, -45.0, -33.0, -10.0, 0.0, 20.0, 36.4, 51.5, 65.0] {
        for longitude in [-150.0, -80.0, 0.0, 120.0] {
            for month in 1..=12i8 {
                let day = date(2026, month, 18);
                let unix_day = i64::from(day.since(date(1970, 1, 1)).unwrap().get_days());
                #[allow(clippy::cast_precision_loss)]
                let midnight = JULIAN_AT_UNIX_EPOCH + unix_day as f64;
                // Solar midnight to solar midnight: one rise and one set.
                let start = midnight - longitude / 360.0;
                let place = Location {
                    latitude,
                    longitude,
                };
                let seconds = |julian: f64| (julian - midnight) * 86_400.0;
                let rise = events
                    .next_rise_from_julian(start, start + 1.0, place, 69.0, Horizon::SunriseSunset)
                    .unwrap();
                let set = events
                    .next_set_from_julian(start, start + 1.0, place, 69.0, Horizon::SunriseSunset)
                    .unwrap();
                let at = format!("{latitude} {longitude} {day}");
                match (sun_times(unix_day, latitude, longitude), rise, set) {
                    (
                        SunTimes::Rises {
                            sunrise_s,
                            sunset_s,
                        },
                        Some(rise),
                        Some(set),
                    ) => {
                        let (off_rise, off_set) =
                            (sunrise_s - seconds(rise), sunset_s - seconds(set));
                        assert!(off_rise.abs() < 60.0, "{at}: sunrise off {off_rise} s");
                        assert!(off_set.abs() < 60.0, "{at}: sunset off {off_set} s");
                        compared += 1;
                    }
                    (SunTimes::StaysUp | SunTimes::StaysDown, None, None) => {}
                    (ours, ..) => panic!("{at}: {ours:?}, {rise:?}, {set:?}"),
                }
            }
        }
    }
    assert!(compared > 400, "only {compared} days compared");
}

#[test]
fn polar_day_and_night() {
    let june = 20_622; // 2026-06-18
    assert_eq!(sun_times(june, 75.0, 20.0), SunTimes::StaysUp);
    assert_eq!(sun_times(june, -75.0, 20.0), SunTimes::StaysDown);
}
