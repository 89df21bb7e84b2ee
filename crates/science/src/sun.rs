//! Sunrise and sunset by the solar equations of the NOAA Global Monitoring Laboratory (after Meeus, *Astronomical Algorithms*,
//! 1991): within about a minute between 72°N and 72°S. The horizon is the usual 90.833° (refraction and the sun's radius).

/// Sunrise and sunset of one day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum SunTimes {
    /// Seconds after 00:00 UTC of the civil date; may be below 0 or above 86 400 far from Greenwich.
    Rises {
        /// Sunrise, s.
        sunrise_s: f64,
        /// Sunset, s.
        sunset_s: f64,
    },
    /// The sun stays above the horizon.
    StaysUp,
    /// The sun stays below the horizon.
    StaysDown,
}

/// Share of a day's sunlight, and so of its reference ET, that falls between two instants: by the sine of the sun's height between sunrise and sunset, in closed form: the integral of
/// FAO-56 eq 28 (from memory) over its own whole. All times in the same seconds, in order.
///
/// # Example
/// Half of it falls before the sun is highest, and none at night.
/// ```
/// let share = |from_h: f64, to_h: f64| science::sun::share_of_day(6.0 * 3600.0, 20.0 * 3600.0, from_h * 3600.0, to_h * 3600.0);
/// assert!((share(0.0, 13.0) - 0.5).abs() < 1e-12);
/// assert_eq!(share(20.0, 24.0), 0.0);
/// assert!((share(12.0, 13.0) - 0.1134).abs() < 0.001);
/// ```
#[must_use]
pub fn share_of_day(sunrise_s: f64, sunset_s: f64, from_s: f64, to_s: f64) -> f64 {
    const RADIANS_A_SECOND: f64 = std::f64::consts::PI / 43_200.0;
    let noon_s = f64::midpoint(sunrise_s, sunset_s);
    let half = (sunset_s - noon_s) * RADIANS_A_SECOND;
    if half <= 0.0 {
        return 0.0;
    }
    // The sun's height goes with cos h − cos H; its integral with sin h − h cos H.
    let integral = |s: f64| {
        let h = ((s - noon_s) * RADIANS_A_SECOND).clamp(-half, half);
        h.sin() - h * half.cos()
    };
    ((integral(to_s) - integral(from_s)) / (2.0 * integral(sunset_s))).max(0.0)
}

/// Days from 2000-01-01 12:00 UTC to noon UTC of the date given as days since 1970-01-01.
fn days_since_j2000(unix_day: i64) -> f64 {
    // 2000-01-01 is day 10957 of the Unix count; noon to noon is whole.
    #[allow(clippy::cast_precision_loss)] // civil dates are far below 2^52 days
    let days = (unix_day - 10_957) as f64;
    days
}

/// The equation of time, minutes, and the sun's declination, radians, at `d` days from J2000.
fn equation_of_time_and_declination(d: f64) -> (f64, f64) {
    let t = d / 36_525.0;
    let l0 = (280.466_46 + t * (36_000.769_83 + t * 0.000_303_2)).rem_euclid(360.0);
    let m = 357.529_11 + t * (35_999.050_29 - 0.000_153_7 * t);
    let ecc = 0.016_708_634 - t * (0.000_042_037 + 0.000_000_126_7 * t);
    let mr = m.to_radians();
    let centre = mr.sin() * (1.914_602 - t * (0.004_817 + 0.000_014 * t))
        + (2.0 * mr).sin() * (0.019_993 - 0.000_101 * t)
        + (3.0 * mr).sin() * 0.000_289;
    let omega = (125.04 - 1934.136 * t).to_radians();
    let longitude = (l0 + centre - 0.005_69 - 0.004_78 * omega.sin()).to_radians();
    let obliquity = (23.0
        + (26.0 + (21.448 - t * (46.815 + t * (0.000_59 - t * 0.001_813))) / 60.0) / 60.0
        + 0.002_56 * omega.cos())
    .to_radians();
    let declination = (obliquity.sin() * longitude.sin()).asin();
    let y = (obliquity / 2.0).tan().powi(2);
    let l0r = l0.to_radians();
    let eot = 4.0
        * (y * (2.0 * l0r).sin() - 2.0 * ecc * mr.sin()
            + 4.0 * ecc * y * mr.sin() * (2.0 * l0r).cos()
            - 0.5 * y * y * (4.0 * l0r).sin()
            - 1.25 * ecc * ecc * (2.0 * mr).sin())
        .to_degrees();
    (eot, declination)
}

/// Sunrise and sunset for a civil date (days since 1970-01-01) at a latitude and longitude in degrees (south and west negative).
#[must_use]
pub fn sun_times(unix_day: i64, latitude_deg: f64, longitude_deg: f64) -> SunTimes {
    let event = |side| event_minutes(unix_day, latitude_deg, longitude_deg, side);
    match (event(-1.0), event(1.0)) {
        (Ok(rise), Ok(set)) => SunTimes::Rises {
            sunrise_s: rise * 60.0,
            sunset_s: set * 60.0,
        },
        (Err(state), _) | (_, Err(state)) => state,
    }
}

/// Minutes UTC at which the sun crosses the horizon before (−1) or after (1) noon, refined at its own moment.
fn event_minutes(
    unix_day: i64,
    latitude_deg: f64,
    longitude_deg: f64,
    side: f64,
) -> Result<f64, SunTimes> {
    let noon = days_since_j2000(unix_day);
    let (sin_phi, cos_phi) = latitude_deg.to_radians().sin_cos();
    let mut minutes = 720.0 - 4.0 * longitude_deg;
    // The second round, at the moment that the first gave, is within a second of any further one.
    for _ in 0..2 {
        let (eot, delta) = equation_of_time_and_declination(noon + (minutes - 720.0) / 1440.0);
        let (sin_delta, cos_delta) = delta.sin_cos();
        let cos_h = (90.833_f64.to_radians().cos() - sin_phi * sin_delta) / (cos_phi * cos_delta);
        if cos_h > 1.0 {
            return Err(SunTimes::StaysDown);
        }
        if cos_h < -1.0 {
            return Err(SunTimes::StaysUp);
        }
        minutes = 720.0 - 4.0 * longitude_deg - eot + side * 4.0 * cos_h.acos().to_degrees();
    }
    Ok(minutes)
}
