//! A stretch of days of a record.

use std::ops::RangeInclusive;

use jiff::civil::Date;
use thiserror::Error;

use super::DailyWeather;

/// Why a record has no such stretch.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Error {
    /// It does not cover it.
    #[error("weather covers {first} to {last}, not all of {from} to {to}")]
    NotCovered {
        /// First day of the record.
        first: Date,
        /// Last day of the record.
        last: Date,
        /// First day asked for.
        from: Date,
        /// Last day asked for.
        to: Date,
    },
    /// It holds no day at all.
    #[error("weather holds no day of {from} to {to}")]
    Empty {
        /// First day asked for.
        from: Date,
        /// Last day asked for.
        to: Date,
    },
    /// The stretch ends before it begins.
    #[error("--to {to} is before --from {from}")]
    Backwards {
        /// First day asked for.
        from: Date,
        /// Last day asked for.
        to: Date,
    },
}

/// Where the days `from` to `to` stand in a contiguous record.
///
/// # Errors
/// [`Error`].
pub fn of(record: &[DailyWeather], from: Date, to: Date) -> Result<RangeInclusive<usize>, Error> {
    if to < from {
        return Err(Error::Backwards { from, to });
    }
    let (Some(first), Some(last)) = (record.first(), record.last()) else {
        return Err(Error::Empty { from, to });
    };
    let at = |date: Date| record.binary_search_by_key(&date, |d| d.date);
    match (at(from), at(to)) {
        (Ok(begin), Ok(end)) => Ok(begin..=end),
        _ => Err(Error::NotCovered {
            first: first.date,
            last: last.date,
            from,
            to,
        }),
    }
}
