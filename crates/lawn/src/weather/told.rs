//! Days of weather as a person types them or a station sends them: complete days, each once, none before its end.

use std::collections::BTreeSet;

use jiff::ToSpan;
use jiff::civil::Date;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::days;
use crate::invalid::Invalid;
use crate::ranges::{self, Range};
use crate::weather::WeatherDay;

/// Most days that are told at once.
pub const MOST_DAYS: usize = 400;

/// A day as it is told; what is absent is not known.
#[derive(Debug, Clone, PartialEq, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ToldDay {
    /// The civil day.
    pub date: Date,
    /// Least air temperature, °C.
    #[serde(default)]
    pub tmin_c: Option<f64>,
    /// Greatest air temperature, °C.
    #[serde(default)]
    pub tmax_c: Option<f64>,
    /// Least relative humidity, %.
    #[serde(default)]
    pub rh_min_pct: Option<f64>,
    /// Greatest relative humidity, %.
    #[serde(default)]
    pub rh_max_pct: Option<f64>,
    /// Dew point, °C.
    #[serde(default)]
    pub dewpoint_c: Option<f64>,
    /// Actual vapour pressure, kPa.
    #[serde(default)]
    pub vapour_pressure_kpa: Option<f64>,
    /// Solar radiation, MJ/m².
    #[serde(default)]
    pub solar_mj_m2: Option<f64>,
    /// Bright sunshine, h.
    #[serde(default)]
    pub sunshine_h: Option<f64>,
    /// Mean wind at the anemometer's height, m/s.
    #[serde(default)]
    pub wind_m_s: Option<f64>,
    /// Rain, mm.
    #[serde(default)]
    pub rain_mm: Option<f64>,
}

impl ToldDay {
    fn figures(&self) -> [(Range, Option<f64>); 10] {
        [
            (ranges::TMIN, self.tmin_c),
            (ranges::TMAX, self.tmax_c),
            (ranges::RH_MIN, self.rh_min_pct),
            (ranges::RH_MAX, self.rh_max_pct),
            (ranges::DEWPOINT, self.dewpoint_c),
            (ranges::VAPOUR_PRESSURE, self.vapour_pressure_kpa),
            (ranges::SOLAR, self.solar_mj_m2),
            (ranges::SUNSHINE, self.sunshine_h),
            (ranges::WIND, self.wind_m_s),
            (ranges::RAIN, self.rain_mm),
        ]
    }

    /// The day, where its figures hold.
    fn day(&self, path: &str) -> Result<WeatherDay, Invalid> {
        let figures = self.figures();
        if figures.iter().all(|(_, figure)| figure.is_none()) {
            return Err(Invalid::new(path, format!("{}: no figure", self.date)));
        }
        for (range, figure) in figures {
            if let Some(figure) = figure {
                Invalid::unless_within(format!("{path}.{}", range.name), range, figure)?;
            }
        }
        for (low, high, field, what) in [
            (self.tmin_c, self.tmax_c, "tmax_c", "high"),
            (
                self.rh_min_pct,
                self.rh_max_pct,
                "rh_max_pct",
                "greatest humidity",
            ),
        ] {
            if let (Some(low), Some(high)) = (low, high)
                && high < low
            {
                return Err(Invalid::new(
                    format!("{path}.{field}"),
                    format!("the {what} lies below the least of the day"),
                ));
            }
        }
        Ok(WeatherDay {
            date: self.date,
            tmin_c: self.tmin_c,
            tmax_c: self.tmax_c,
            rh_min_pct: self.rh_min_pct,
            rh_max_pct: self.rh_max_pct,
            dewpoint_c: self.dewpoint_c,
            vapour_pressure_kpa: self.vapour_pressure_kpa,
            solar_mj_m2: self.solar_mj_m2,
            sunshine_h: self.sunshine_h,
            wind_m_s: self.wind_m_s,
            rain_mm: self.rain_mm,
            rain_probability_pct: None,
        })
    }
}

/// The days that are told on a day of the site, in the order of dates.
///
/// # Errors
/// The first field that does not hold, such as `days[3].tmin_c`; a day that is not over; a day told twice.
pub fn days(told: &[ToldDay], today: Date) -> Result<Vec<WeatherDay>, Invalid> {
    let yesterday = today.saturating_sub(1.day());
    let mut seen = BTreeSet::new();
    let mut days = Vec::with_capacity(told.len());
    for (i, day) in told.iter().enumerate() {
        let path = format!("days[{i}]");
        is_over(&format!("{path}.date"), day.date, yesterday)?;
        if !seen.insert(day.date) {
            let message = format!("{} stands twice", day.date);
            return Err(Invalid::new(format!("{path}.date"), message));
        }
        days.push(day.day(&path)?);
    }
    days.sort_by_key(|day| day.date);
    Ok(days)
}

/// Whether a day is over: none is told of before its end.
///
/// # Errors
/// The field.
pub fn is_over(field: &str, date: Date, yesterday: Date) -> Result<(), Invalid> {
    days::check(field, date, days::LAST)?;
    if date > yesterday {
        let message = format!("{date} is not over: {yesterday} is the last day that can be told");
        return Err(Invalid::new(field, message));
    }
    Ok(())
}
