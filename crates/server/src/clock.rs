//! A site's clock: real, or simulated for the demo. Owned by the server; it only steps forward.

use std::sync::OnceLock;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp, Zoned};

/// How far this process's real clock runs ahead; not at all but in tests of days to come.
static AHEAD: OnceLock<SignedDuration> = OnceLock::new();

/// Lets this process's real clock run ahead, from its start on; sessions and limits keep the machine's.
pub fn run_ahead(by: SignedDuration) {
    // Said once, by the command line.
    let _ = AHEAD.set(by);
}

/// The real clock.
#[must_use]
pub fn real() -> Timestamp {
    let ahead = AHEAD.get().copied().unwrap_or_default();
    Timestamp::now()
        .checked_add(ahead)
        .unwrap_or(Timestamp::MAX)
}

/// The instant of a site.
#[must_use]
pub fn now(simulated: Option<Timestamp>) -> Timestamp {
    simulated.unwrap_or_else(real)
}

/// An instant in a site's time zone; UTC where the zone's name is unknown (it was checked when it was stored).
#[must_use]
pub fn local(at: Timestamp, time_zone: &str) -> Zoned {
    at.to_zoned(TimeZone::get(time_zone).unwrap_or(TimeZone::UTC))
}

/// The civil day of an instant in a site's time zone.
#[must_use]
pub fn local_date(at: Timestamp, time_zone: &str) -> Date {
    local(at, time_zone).date()
}
