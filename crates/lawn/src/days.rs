//! Which days a record may name. A day far off would make every replay walk there; one before the first would never be looked at.

use jiff::ToSpan;
use jiff::civil::Date;

use crate::invalid::Invalid;

/// The first day that any record may name.
pub const FIRST: Date = Date::constant(1900, 1, 1);
/// The last day that any record may name.
pub const LAST: Date = Date::constant(2199, 12, 31);
/// How far ahead of a site's day a weather file may reach, days.
const WEATHER_AHEAD: i64 = 10;

/// The last day of which a site may have weather.
#[must_use]
pub fn last_of_weather(today: Date) -> Date {
    today.saturating_add(WEATHER_AHEAD.days()).min(LAST)
}

/// The last day for which a site may plan something, such as the last day of a zone.
#[must_use]
pub fn last_to_plan(today: Date) -> Date {
    today.saturating_add(1.year()).min(LAST)
}

/// Checks that a day lies between the first of all and a last one.
///
/// # Errors
/// The field, with the nearest day that is allowed.
pub fn check(field: &str, day: Date, last: Date) -> Result<(), Invalid> {
    if day < FIRST {
        Err(Invalid::new(
            field,
            format!("{day} is too early: {FIRST} at the earliest"),
        ))
    } else if day > last {
        Err(Invalid::new(
            field,
            format!("{day} is too far ahead: {last} at the latest"),
        ))
    } else {
        Ok(())
    }
}

/// The same day of another year; of 29 February the 28th.
#[must_use]
pub fn in_year(day: Date, year: i16) -> Option<Date> {
    day.with().year(year).build().ok().or_else(|| {
        let day = day.with().day(28).year(year);
        day.build().ok()
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn both_ends_are_allowed_and_no_day_beyond() {
        let today = date(2026, 6, 18);
        assert_eq!(last_of_weather(today), date(2026, 6, 28));
        assert_eq!(last_to_plan(date(2028, 2, 29)), date(2029, 2, 28));
        assert_eq!(last_to_plan(Date::MAX), LAST);
        for (day, holds) in [
            (FIRST, true),
            (date(1899, 12, 31), false),
            (date(1, 1, 1), false),
            (date(2026, 6, 28), true),
            (date(2026, 6, 29), false),
            (date(9999, 12, 31), false),
        ] {
            assert_eq!(
                check("date", day, last_of_weather(today)).is_ok(),
                holds,
                "{day}"
            );
        }
    }
}
