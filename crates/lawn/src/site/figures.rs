//! Checks of figures against the table of ranges.

use jiff::civil::Date;

use crate::days;
use crate::invalid::Invalid;
use crate::ranges::Range;
use crate::sourced::{Source, Sourced};
use crate::text::check_name;

pub(super) fn number(path: &str, range: Range, value: f64) -> Result<(), Invalid> {
    Invalid::unless_within(format!("{path}{}", range.name), range, value)
}

/// Checks the first and the last day of what is there for a time, such as a zone.
pub(super) fn first_and_last(
    path: &str,
    what: &str,
    from: Option<Date>,
    to: Option<Date>,
) -> Result<(), Invalid> {
    for (field, day) in [("active_from", from), ("active_to", to)] {
        if let Some(day) = day {
            days::check(&format!("{path}{field}"), day, days::LAST)?;
        }
    }
    match (from, to) {
        (Some(from), Some(to)) if to < from => Err(Invalid::new(
            format!("{path}active_to"),
            format!("{to} is before the {what}'s first day, {from}"),
        )),
        _ => Ok(()),
    }
}

pub(super) fn sourced<T>(
    path: &str,
    range: Range,
    value: Option<&Sourced<T>>,
    figure: impl Fn(&T) -> f64,
) -> Result<(), Invalid> {
    let Some(sourced) = value else { return Ok(()) };
    let field = format!("{path}{}", range.name);
    match &sourced.source {
        Source::Measured { test, date } => {
            check_name(&format!("{field}.source.test"), test)?;
            days::check(&format!("{field}.source.date"), *date, days::LAST)?;
        }
        Source::Entered { date } => {
            days::check(&format!("{field}.source.date"), *date, days::LAST)?;
        }
        Source::Handbook { table } => check_name(&format!("{field}.source.table"), table)?,
        Source::Assumed => {}
    }
    let [low, value, high] = [&sourced.low, &sourced.value, &sourced.high].map(figure);
    for x in [value, low, high] {
        number(path, range, x)?;
    }
    if low > value || value > high {
        return Err(Invalid::new(
            format!("{path}{}", range.name),
            format!("the value {value} must lie between its low {low} and high {high}"),
        ));
    }
    Ok(())
}
