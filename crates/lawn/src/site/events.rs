//! The events of a site's day: when it is planned, and when its windows open and close.

use crate::site::SiteDocument;
use crate::site::calendar::{self, CalendarDay};
use jiff::Timestamp;
use jiff::civil::Time;
use jiff::tz::TimeZone;

/// The local time at which a site's day is planned, unless its first window opens earlier.
const DAY_BEGINS: Time = Time::constant(3, 0, 0, 0);

/// The first event after an instant: 03:00, or the opening or the end of a window. `None` only at the end of time.
#[must_use]
pub fn next_event(document: &SiteDocument, after: Timestamp) -> Option<Timestamp> {
    let zone = document.site.zone().ok()?;
    let today = after.to_zoned(zone.clone()).date();
    let days = calendar::days(document, &zone, today, 3);
    let begins = days.iter().filter_map(|day| day_begins(day, &zone));
    let windows = days
        .iter()
        .flat_map(|day| &day.windows)
        .flat_map(|w| [w.start_s, w.end_s])
        .filter_map(|s| Timestamp::from_second(s).ok());
    begins.chain(windows).filter(|at| *at > after).min()
}

/// When a site's day is planned: at 03:00, or when its first window opens, if that is earlier.
#[must_use]
pub fn day_begins(day: &CalendarDay, zone: &TimeZone) -> Option<Timestamp> {
    // Where the clock skips 03:00, the instant after the gap.
    let three = day
        .date
        .to_datetime(DAY_BEGINS)
        .to_zoned(zone.clone())
        .ok()?;
    let opens = day.windows.iter().map(|w| w.start_s).min();
    let opens = opens.and_then(|s| Timestamp::from_second(s).ok());
    Some(opens.map_or(three.timestamp(), |at| at.min(three.timestamp())))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn document(hours: &str) -> SiteDocument {
        crate::site::document::read(&format!(
            r#"{{ "format": "fresh-meadow-site", "version": 2,
                 "site": {{ "name": "Clover Green", "time_zone": "America/New_York", "latitude": 36.4, "longitude": -80.5,
                           "elevation_m": 310 }},
                 "windows": [{hours}] }}"#
        ))
        .unwrap()
    }

    const DAILY: &str = r#"{ "days": ["monday","tuesday","wednesday","thursday","friday","saturday","sunday"], "from": "04:00", "to": "07:00" }"#;

    fn after(document: &SiteDocument, instant: &str) -> String {
        let next = next_event(document, instant.parse().unwrap()).unwrap();
        next.to_zoned(TimeZone::get("America/New_York").unwrap())
            .datetime()
            .to_string()
    }

    #[test]
    fn three_and_the_opening_and_end_of_each_window_in_turn() {
        let d = document(DAILY);
        assert_eq!(
            after(&d, "2026-06-18T02:59:59-04:00"),
            "2026-06-18T03:00:00"
        );
        assert_eq!(
            after(&d, "2026-06-18T03:00:00-04:00"),
            "2026-06-18T04:00:00"
        );
        assert_eq!(
            after(&d, "2026-06-18T04:00:00-04:00"),
            "2026-06-18T07:00:00"
        );
        assert_eq!(
            after(&d, "2026-06-18T07:30:00-04:00"),
            "2026-06-19T03:00:00"
        );
    }

    #[test]
    fn a_window_before_three_begins_the_day() {
        let d = document(&DAILY.replace("04:00", "02:00"));
        assert_eq!(
            after(&d, "2026-06-17T12:00:00-04:00"),
            "2026-06-18T02:00:00"
        );
        assert_eq!(
            after(&d, "2026-06-18T02:00:00-04:00"),
            "2026-06-18T07:00:00"
        );
    }

    #[test]
    fn without_windows_every_three_and_over_a_clock_change() {
        let d = document("");
        assert_eq!(
            after(&d, "2026-03-07T12:00:00-05:00"),
            "2026-03-08T03:00:00"
        );
        assert_eq!(after(&d, "2026-03-08T07:00:00Z"), "2026-03-09T03:00:00");
        assert_eq!(after(&d, "2026-11-01T06:30:00Z"), "2026-11-01T03:00:00");
    }
}
