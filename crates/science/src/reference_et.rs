//! Reference evapotranspiration ET0 of a short grass, mm a day.
//!
//! FAO-56 Penman–Monteith (Allen and others 1998, eq. 6; the same form as the ASCE standardized short reference of 2005), with
//! the fallbacks of FAO-56 chapter 3 for what was not measured, and Hargreaves–Samani (eq. 52) where there is temperature alone.

use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

use crate::humidity::{
    actual_from_saturation_kpa, pressure_kpa, psychrometric_kpa_c, saturation_kpa, slope_kpa_c,
};
use crate::radiation::{
    Latitude, clear_sky_mj_m2, net_longwave_mj_m2, net_shortwave_mj_m2, solar_from_sunshine_mj_m2,
    solar_from_temperature_mj_m2,
};
use crate::units::MJ_M2_PER_MM;

/// Wind at 2 m where none was measured: the mean of over 2000 stations (FAO-56 ch. 3, "wind speed").
const WIND_FALLBACK_M_S: f64 = 2.0;

/// Where on earth, and how the wind was measured.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Place {
    /// Latitude, degrees, south negative, −90 to 90.
    pub latitude_deg: f64,
    /// Elevation above sea level, m.
    pub elevation_m: f64,
    /// Height of the anemometer above ground, m, above 0.1.
    pub wind_height_m: f64,
}

/// What was measured on one day. `None` is "not measured", never 0.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Day {
    /// Least air temperature, °C.
    pub tmin_c: f64,
    /// Greatest air temperature, °C.
    pub tmax_c: f64,
    /// Least relative humidity, %.
    pub rh_min_pct: Option<f64>,
    /// Greatest relative humidity, %.
    pub rh_max_pct: Option<f64>,
    /// Dew point, °C.
    pub dewpoint_c: Option<f64>,
    /// Actual vapour pressure, kPa.
    pub vapour_pressure_kpa: Option<f64>,
    /// Solar radiation, MJ/m² a day.
    pub solar_mj_m2: Option<f64>,
    /// Bright sunshine, hours.
    pub sunshine_h: Option<f64>,
    /// Mean wind speed at the anemometer's height, m/s.
    pub wind_m_s: Option<f64>,
}

/// Which method the caller wants.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Choice {
    /// Penman–Monteith where humidity or radiation was measured, else Hargreaves.
    #[default]
    Auto,
    /// Penman–Monteith always, what is missing estimated.
    PenmanMonteith,
    /// Hargreaves always.
    Hargreaves,
}

/// Which method gave the figure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Method {
    /// Penman–Monteith, everything measured.
    PenmanMonteith,
    /// Penman–Monteith with humidity, radiation or wind estimated.
    PenmanMonteithEstimated,
    /// Hargreaves–Samani, from temperature alone.
    Hargreaves,
}

impl Method {
    /// The name in files: `penman-monteith`, `penman-monteith-estimated` or `hargreaves`.
    #[must_use]
    pub const fn name(self) -> &'static str {
        match self {
            Self::PenmanMonteith => "penman-monteith",
            Self::PenmanMonteithEstimated => "penman-monteith-estimated",
            Self::Hargreaves => "hargreaves",
        }
    }
}

/// A day's reference evapotranspiration and how it was got.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ReferenceEt {
    /// ET0, mm a day, never below 0.
    pub et0_mm: f64,
    /// The method that gave it.
    pub method: Method,
}

/// Why a day has no reference ET.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum Error {
    /// The least temperature lies above the greatest.
    #[error("the day's minimum {tmin_c} °C is above its maximum {tmax_c} °C")]
    MinimumAboveMaximum {
        /// Least air temperature, °C.
        tmin_c: f64,
        /// Greatest air temperature, °C.
        tmax_c: f64,
    },
    /// A temperature or another figure is not a finite number.
    #[error("a weather figure is not a number")]
    NotFinite,
}

/// Wind speed at 2 m, m/s, from that at another height in metres (FAO-56 eq. 47). At 2 m it is returned as it is.
///
/// # Example
/// FAO-56 example 14: 3.2 m/s at 10 m is 2.4 m/s at 2 m.
/// ```
/// assert!((science::reference_et::wind_at_2m_m_s(3.2, 10.0) - 2.4).abs() < 0.05);
/// ```
#[must_use]
pub fn wind_at_2m_m_s(wind_m_s: f64, height_m: f64) -> f64 {
    if (height_m - 2.0).abs() < f64::EPSILON {
        return wind_m_s;
    }
    wind_m_s * 4.87 / (67.8 * height_m - 5.42).ln()
}

/// What Penman–Monteith needs once everything is known or estimated.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Complete {
    /// Mean of least and greatest air temperature, °C.
    pub mean_c: f64,
    /// Mean saturation vapour pressure es, kPa.
    pub es_kpa: f64,
    /// Actual vapour pressure ea, kPa.
    pub ea_kpa: f64,
    /// Net radiation Rn, MJ/m² a day.
    pub rn_mj_m2: f64,
    /// Soil heat flux G, MJ/m² a day; 0 for a single day (FAO-56 eq. 42).
    pub g_mj_m2: f64,
    /// Wind at 2 m, m/s.
    pub u2_m_s: f64,
    /// Psychrometric constant γ, kPa/°C.
    pub gamma_kpa_c: f64,
}

/// FAO-56 Penman–Monteith (eq. 6), mm a day, not below 0; the vapour pressure deficit is not below 0 either.
///
/// ET0 = (0.408 Δ (Rn − G) + γ 900/(T + 273) u2 (es − ea)) / (Δ + γ (1 + 0.34 u2))
#[must_use]
pub fn penman_monteith_mm(c: &Complete) -> f64 {
    let delta = slope_kpa_c(c.mean_c);
    let deficit = (c.es_kpa - c.ea_kpa).max(0.0);
    let energy = delta * (c.rn_mj_m2 - c.g_mj_m2) / MJ_M2_PER_MM;
    let wind = c.gamma_kpa_c * 900.0 / (c.mean_c + 273.0) * c.u2_m_s * deficit;
    ((energy + wind) / (delta + c.gamma_kpa_c * (1.0 + 0.34 * c.u2_m_s))).max(0.0)
}

/// Hargreaves–Samani (FAO-56 eq. 52), mm a day, not below 0; Ra in MJ/m² a day.
#[must_use]
pub fn hargreaves_mm(tmin_c: f64, tmax_c: f64, ra_mj_m2: f64) -> f64 {
    let mean = f64::midpoint(tmin_c, tmax_c);
    (0.0023 * (mean + 17.8) * (tmax_c - tmin_c).max(0.0).sqrt() * ra_mj_m2 / MJ_M2_PER_MM).max(0.0)
}

/// Reference ET of a day of the year (1 to 366) at a place, by the method chosen, estimating what is missing:
/// dew point ≈ least temperature (FAO-56 eq. 48), radiation from the temperature range (eq. 50), wind 2 m/s.
///
/// # Errors
/// [`Error::MinimumAboveMaximum`], [`Error::NotFinite`].
///
/// # Example
/// FAO-56 example 18 (Uccle, 50°48′N, 100 m, 6 July): 3.88 mm.
/// ```
/// use science::reference_et::{Choice, Day, Method, Place, reference_et};
/// let place = Place { latitude_deg: 50.8, elevation_m: 100.0, wind_height_m: 10.0 };
/// let day = Day {
///     tmin_c: 12.3, tmax_c: 21.5, rh_min_pct: Some(63.0), rh_max_pct: Some(84.0),
///     sunshine_h: Some(9.25), wind_m_s: Some(10.0 / 3.6), ..Day::default()
/// };
/// let et = reference_et(&place, 187, &day, Choice::Auto)?;
/// assert!((et.et0_mm - 3.88).abs() < 0.01);
/// assert_eq!(et.method, Method::PenmanMonteith);
/// # Ok::<(), science::reference_et::Error>(())
/// ```
pub fn reference_et(
    place: &Place,
    day_of_year: u16,
    day: &Day,
    choice: Choice,
) -> Result<ReferenceEt, Error> {
    Station::new(place).reference_et(day_of_year, day, choice)
}

/// A place, ready for many days: what depends on it alone is found once.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Station {
    latitude: Latitude,
    elevation_m: f64,
    gamma_kpa_c: f64,
    /// Wind at 2 m for 1 m/s at the anemometer.
    wind_factor: f64,
}

impl Station {
    /// Prepares a place.
    #[must_use]
    pub fn new(place: &Place) -> Self {
        Self {
            latitude: Latitude::from_degrees(place.latitude_deg),
            elevation_m: place.elevation_m,
            gamma_kpa_c: psychrometric_kpa_c(pressure_kpa(place.elevation_m)),
            wind_factor: wind_at_2m_m_s(1.0, place.wind_height_m),
        }
    }

    /// Wind at 2 m, m/s, from that at the station's anemometer.
    #[must_use]
    pub fn wind_at_2m_m_s(&self, wind_m_s: f64) -> f64 {
        wind_m_s * self.wind_factor
    }

    /// As [`reference_et()`].
    ///
    /// # Errors
    /// As [`reference_et()`].
    pub fn reference_et(
        &self,
        day_of_year: u16,
        day: &Day,
        choice: Choice,
    ) -> Result<ReferenceEt, Error> {
        day.check()?;
        let (es_min, es_max) = (saturation_kpa(day.tmin_c), saturation_kpa(day.tmax_c));
        let humidity = day.vapour_pressure(es_min, es_max);
        let ra = self.latitude.extraterrestrial_mj_m2(day_of_year);
        let hargreaves = match choice {
            Choice::Hargreaves => true,
            Choice::PenmanMonteith => false,
            Choice::Auto => {
                humidity.is_none() && day.solar_mj_m2.is_none() && day.sunshine_h.is_none()
            }
        };
        if hargreaves {
            return Ok(ReferenceEt {
                et0_mm: hargreaves_mm(day.tmin_c, day.tmax_c, ra),
                method: Method::Hargreaves,
            });
        }

        let rso = clear_sky_mj_m2(ra, self.elevation_m);
        let measured_rs = day.solar_mj_m2.or_else(|| {
            day.sunshine_h
                .map(|n| solar_from_sunshine_mj_m2(ra, n, self.latitude.day_length_h(day_of_year)))
        });
        let rs = measured_rs
            .unwrap_or_else(|| solar_from_temperature_mj_m2(ra, rso, day.tmin_c, day.tmax_c));
        // Dew point ≈ least temperature where humidity was not measured.
        let ea = humidity.unwrap_or(es_min);
        let u2 = day.wind_m_s.map(|u| self.wind_at_2m_m_s(u));
        let rnl = net_longwave_mj_m2(day.tmin_c, day.tmax_c, ea, rs, rso);
        let et0_mm = penman_monteith_mm(&Complete {
            mean_c: f64::midpoint(day.tmin_c, day.tmax_c),
            es_kpa: f64::midpoint(es_min, es_max),
            ea_kpa: ea,
            rn_mj_m2: net_shortwave_mj_m2(rs) - rnl,
            g_mj_m2: 0.0,
            u2_m_s: u2.unwrap_or(WIND_FALLBACK_M_S),
            gamma_kpa_c: self.gamma_kpa_c,
        });
        let all_measured = humidity.is_some() && measured_rs.is_some() && u2.is_some();
        let method = if all_measured {
            Method::PenmanMonteith
        } else {
            Method::PenmanMonteithEstimated
        };
        Ok(ReferenceEt { et0_mm, method })
    }
}

impl Day {
    fn check(&self) -> Result<(), Error> {
        let given = [
            self.rh_min_pct,
            self.rh_max_pct,
            self.dewpoint_c,
            self.vapour_pressure_kpa,
            self.solar_mj_m2,
            self.sunshine_h,
            self.wind_m_s,
        ];
        if !(self.tmin_c.is_finite() && self.tmax_c.is_finite())
            || given.iter().flatten().any(|x| !x.is_finite())
        {
            return Err(Error::NotFinite);
        }
        if self.tmin_c > self.tmax_c {
            return Err(Error::MinimumAboveMaximum {
                tmin_c: self.tmin_c,
                tmax_c: self.tmax_c,
            });
        }
        Ok(())
    }

    /// The measured vapour pressure by the best figure given: itself, the dew point (FAO-56 eq. 14), relative humidity.
    fn vapour_pressure(&self, es_min_kpa: f64, es_max_kpa: f64) -> Option<f64> {
        self.vapour_pressure_kpa
            .or_else(|| self.dewpoint_c.map(saturation_kpa))
            .or_else(|| {
                actual_from_saturation_kpa(es_min_kpa, es_max_kpa, self.rh_min_pct, self.rh_max_pct)
            })
    }
}
