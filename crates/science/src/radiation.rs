//! Radiation and day length: FAO-56 (Allen and others 1998), chapter 3, equations 21 to 50.
//!
//! Symbols: Ra extraterrestrial, Rs solar, Rso clear-sky, Rns and Rnl net short and long wave, all MJ/m² a day;
//! J day of the year; φ latitude, south negative; ωs sunset hour angle.

use std::f64::consts::PI;
use std::sync::LazyLock;

/// Solar constant, MJ/m² a minute (FAO-56 eq. 21).
const GSC: f64 = 0.0820;
/// Stefan–Boltzmann constant, MJ/K⁴/m² a day (FAO-56 eq. 39).
const SIGMA: f64 = 4.903e-9;
/// Reflection of the reference grass (FAO-56 eq. 38).
const ALBEDO: f64 = 0.23;
/// Bounds of Rs/Rso: below 0.3 a day is overcast, above 1 it is clear (ASCE-EWRI 2005, eq. 18).
const CLEARNESS: (f64, f64) = (0.3, 1.0);
/// Rs/Rso where the sun does not rise and cloud cannot be told from it: the middle of the bounds.
const CLEARNESS_IN_POLAR_NIGHT: f64 = 0.65;

/// Where the sun stands on a day of the year, the same for every place.
#[derive(Debug, Clone, Copy)]
struct SolarDay {
    /// Inverse relative distance of earth and sun (FAO-56 eq. 23).
    inverse_distance: f64,
    /// Sine and cosine of the solar declination (FAO-56 eq. 24).
    sin_declination: f64,
    cos_declination: f64,
}

impl SolarDay {
    fn compute(day_of_year: u16) -> Self {
        let turn = 2.0 * PI * f64::from(day_of_year) / 365.0;
        let (sin_declination, cos_declination) = (0.409 * (turn - 1.39).sin()).sin_cos();
        Self {
            inverse_distance: 1.0 + 0.033 * turn.cos(),
            sin_declination,
            cos_declination,
        }
    }

    /// From a table made once: records repeat the same 366 days.
    fn of(day_of_year: u16) -> Self {
        static DAYS: LazyLock<Vec<SolarDay>> =
            LazyLock::new(|| (0..=366).map(SolarDay::compute).collect());
        DAYS.get(usize::from(day_of_year))
            .copied()
            .unwrap_or_else(|| Self::compute(day_of_year))
    }
}

/// A latitude, ready for many days.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Latitude {
    sin: f64,
    cos: f64,
}

impl Latitude {
    /// From degrees, south negative.
    #[must_use]
    pub fn from_degrees(latitude_deg: f64) -> Self {
        let (sin, cos) = latitude_deg.to_radians().sin_cos();
        Self { sin, cos }
    }

    /// Cosine of the sunset hour angle, −1 where the sun stays up and 1 where it stays down (FAO-56 eq. 25, kept within ±1).
    fn cos_sunset(self, day: SolarDay) -> f64 {
        (-self.sin / self.cos * day.sin_declination / day.cos_declination).clamp(-1.0, 1.0)
    }

    /// As [`extraterrestrial_mj_m2`].
    #[must_use]
    pub fn extraterrestrial_mj_m2(self, day_of_year: u16) -> f64 {
        let day = SolarDay::of(day_of_year);
        let cos_omega = self.cos_sunset(day);
        // ω lies within 0 and π: its sine is not negative.
        let sin_omega = (1.0 - cos_omega * cos_omega).sqrt();
        let ra = 24.0 * 60.0 / PI
            * GSC
            * day.inverse_distance
            * (cos_omega.acos() * self.sin * day.sin_declination
                + self.cos * day.cos_declination * sin_omega);
        ra.max(0.0)
    }

    /// As [`day_length_h`].
    #[must_use]
    pub fn day_length_h(self, day_of_year: u16) -> f64 {
        24.0 / PI * self.cos_sunset(SolarDay::of(day_of_year)).acos()
    }
}

/// Extraterrestrial radiation Ra, MJ/m² a day (FAO-56 eq. 21), for a latitude in degrees and a day of the year (1 to 366).
///
/// # Example
/// FAO-56 example 8: 20°S on 3 September (day 246) gives 32.2.
/// ```
/// assert!((science::radiation::extraterrestrial_mj_m2(-20.0, 246) - 32.2).abs() < 0.05);
/// ```
#[must_use]
pub fn extraterrestrial_mj_m2(latitude_deg: f64, day_of_year: u16) -> f64 {
    Latitude::from_degrees(latitude_deg).extraterrestrial_mj_m2(day_of_year)
}

/// Day length N, hours, 0 in the polar night and 24 in the polar day (FAO-56 eq. 34).
///
/// # Example
/// FAO-56 example 9: the same place and day as example 8 give 11.7 hours.
/// ```
/// assert!((science::radiation::day_length_h(-20.0, 246) - 11.7).abs() < 0.05);
/// ```
#[must_use]
pub fn day_length_h(latitude_deg: f64, day_of_year: u16) -> f64 {
    Latitude::from_degrees(latitude_deg).day_length_h(day_of_year)
}

/// Solar radiation Rs, MJ/m² a day, from hours of bright sunshine by Ångström with a 0.25 and b 0.50 (FAO-56 eq. 35).
/// Hours beyond the day length count as the day length; 0 in the polar night.
#[must_use]
pub fn solar_from_sunshine_mj_m2(ra_mj_m2: f64, sunshine_h: f64, day_length_h: f64) -> f64 {
    if day_length_h <= 0.0 {
        return 0.0;
    }
    (0.25 + 0.50 * (sunshine_h / day_length_h).min(1.0)) * ra_mj_m2
}

/// Solar radiation Rs, MJ/m² a day, from the day's temperature range by Hargreaves, interior places (kRs 0.16), not above
/// the clear sky's (FAO-56 eq. 50).
#[must_use]
pub fn solar_from_temperature_mj_m2(
    ra_mj_m2: f64,
    rso_mj_m2: f64,
    tmin_c: f64,
    tmax_c: f64,
) -> f64 {
    (0.16 * (tmax_c - tmin_c).max(0.0).sqrt() * ra_mj_m2).min(rso_mj_m2)
}

/// Clear-sky radiation Rso, MJ/m² a day, at an elevation in metres (FAO-56 eq. 37).
#[must_use]
pub fn clear_sky_mj_m2(ra_mj_m2: f64, elevation_m: f64) -> f64 {
    (0.75 + 2e-5 * elevation_m) * ra_mj_m2
}

/// Net short-wave radiation Rns of the reference grass, MJ/m² a day (FAO-56 eq. 38).
#[must_use]
pub fn net_shortwave_mj_m2(rs_mj_m2: f64) -> f64 {
    (1.0 - ALBEDO) * rs_mj_m2
}

/// Net outgoing long-wave radiation Rnl, MJ/m² a day (FAO-56 eq. 39), with Rs/Rso kept within 0.3 and 1 as ASCE-EWRI 2005 does;
/// where Rso is 0 (polar night) the ratio is taken as 0.65.
#[must_use]
pub fn net_longwave_mj_m2(
    tmin_c: f64,
    tmax_c: f64,
    ea_kpa: f64,
    rs_mj_m2: f64,
    rso_mj_m2: f64,
) -> f64 {
    let clearness = if rso_mj_m2 > 0.0 {
        (rs_mj_m2 / rso_mj_m2).clamp(CLEARNESS.0, CLEARNESS.1)
    } else {
        CLEARNESS_IN_POLAR_NIGHT
    };
    let emission = SIGMA * f64::midpoint((tmax_c + 273.16).powi(4), (tmin_c + 273.16).powi(4));
    emission * (0.34 - 0.14 * ea_kpa.max(0.0).sqrt()) * (1.35 * clearness - 0.35)
}
