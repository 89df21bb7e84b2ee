//! A site's clock: real, or simulated for the demo. Owned by the server; it only steps forward.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// The instant of a site.
#[must_use]
pub fn now(simulated: Option<Timestamp>) -> Timestamp {
    simulated.unwrap_or_else(Timestamp::now)
}

/// The civil day of an instant in a site's time zone; UTC where the zone's name is unknown (it was checked when it was stored).
#[must_use]
pub fn local_date(at: Timestamp, time_zone: &str) -> Date {
    let zone = TimeZone::get(time_zone).unwrap_or(TimeZone::UTC);
    at.to_zoned(zone).date()
}
