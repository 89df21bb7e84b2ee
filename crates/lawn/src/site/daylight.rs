//! The hours of a day on the site's clock: when it begins, when the sun is up, and how its reference ET falls over them.

use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use science::sun::{SunTimes, share_of_day, sun_times};

use crate::quantity::RunTime;
use crate::site::calendar::{instant_s, unix_day};
use crate::site::{Invalid, Site};

/// Hours of a day.
pub const HOURS: usize = 24;
/// Between which hours the sun counts as up where it does not rise or set.
const POLAR_DAY_H: [i64; 2] = [6, 18];

/// Where the sun is seen from, and by which clock.
#[derive(Debug, Clone, PartialEq)]
pub struct Daylight {
    latitude: f64,
    longitude: f64,
    time_zone: TimeZone,
}

/// The hours of one day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DayHours {
    /// When the civil day begins, seconds since 1970-01-01 UTC.
    pub midnight_s: i64,
    /// Share of the day's reference ET in each hour from then on; they add up to 1.
    pub shares: [f64; HOURS],
}

impl Daylight {
    /// Of a site.
    ///
    /// # Errors
    /// A time zone that the time-zone database does not know.
    pub fn of(site: &Site) -> Result<Self, Invalid> {
        Ok(Self {
            latitude: site.latitude,
            longitude: site.longitude,
            time_zone: site.zone()?,
        })
    }

    /// At a latitude, by a clock on which the sun is highest about noon.
    #[must_use]
    pub const fn by_the_sun(latitude: f64) -> Self {
        Self {
            latitude,
            longitude: 0.0,
            time_zone: TimeZone::UTC,
        }
    }

    /// The hours of a civil day.
    #[must_use]
    pub fn hours(&self, date: Date) -> DayHours {
        let midnight_s = instant_s(&self.time_zone, date, Time::midnight()).unwrap_or(0);
        let day = unix_day(date);
        let sun = match sun_times(day, self.latitude, self.longitude) {
            SunTimes::Rises {
                sunrise_s,
                sunset_s,
            } => Some((sunrise_s, sunset_s)),
            SunTimes::StaysUp | SunTimes::StaysDown => None,
        };
        let since_utc_midnight_s = RunTime::from_whole_s(midnight_s - day * 86_400).s();
        let (rise_s, set_s) = match sun {
            Some((rise, set)) => (rise - since_utc_midnight_s, set - since_utc_midnight_s),
            None => {
                let [from, to] = POLAR_DAY_H.map(|h| RunTime::from_whole_s(h * 3600).s());
                (from, to)
            }
        };
        let mut from_s = 0.0;
        let shares = std::array::from_fn(|_| {
            let to_s = from_s + 3600.0;
            let share = share_of_day(rise_s, set_s, from_s, to_s);
            from_s = to_s;
            share
        });
        DayHours { midnight_s, shares }
    }
}

impl DayHours {
    /// The hour that an instant lies in, from 0 to 23; earlier and later ones count as the first and the last.
    #[must_use]
    pub fn hour_of(&self, instant_s: i64) -> usize {
        let hour = (instant_s - self.midnight_s).div_euclid(3600);
        usize::try_from(hour).unwrap_or(0).min(HOURS - 1)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn a_day_of_summer_has_its_use_about_the_suns_noon() {
        let place = Daylight {
            latitude: 36.4,
            longitude: -85.5,
            time_zone: TimeZone::fixed(jiff::tz::offset(-5)),
        };
        let day = place.hours(date(2026, 6, 18));
        assert!((day.shares.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        // The sun is highest at 12:43 by summer time; it is dark until half past five.
        let most = day.shares.iter().fold(0.0, |a: f64, b| a.max(*b));
        assert_eq!(day.shares[12], most);
        assert_eq!(day.shares[4], 0.0);
        assert!(day.shares[7] < 0.05 && day.shares[21] == 0.0);
        assert_eq!(day.hour_of(day.midnight_s + 13 * 3600 + 59), 13);
        assert_eq!(day.hour_of(day.midnight_s - 60), 0);
    }

    #[test]
    fn where_the_sun_does_not_set_the_day_is_taken_from_six_to_six() {
        let day = Daylight::by_the_sun(70.0).hours(date(2026, 6, 21));
        assert!((day.shares.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        assert_eq!(day.shares[5], 0.0);
        assert!(day.shares[6] > 0.0);
    }
}
