//! Daily weather: what was measured, its reference ET, and the stated policy for gaps.

mod cell;
pub mod conflict;
pub mod file;
pub mod foreign;
pub mod foreign_guess;
pub mod frost;
pub mod ghcn;
pub mod issued;
pub mod normals;
pub mod outlook;
pub mod past_years;
pub mod rough;
pub mod stretch;
pub mod titles;
pub mod told;
pub mod verification;

use std::collections::BTreeMap;

use jiff::ToSpan;
use jiff::civil::Date;
use science::reference_et::{self, Choice, Method, Place, Station};
use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

use crate::quantity::Depth;
use crate::site::Site;
use crate::site::normals::Normals;

/// One day as it was measured or forecast; `None` is "not known", never 0.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
pub struct WeatherDay {
    /// The civil day.
    pub date: Date,
    /// Least air temperature, °C.
    pub tmin_c: Option<f64>,
    /// Greatest air temperature, °C.
    pub tmax_c: Option<f64>,
    /// Least relative humidity, %.
    pub rh_min_pct: Option<f64>,
    /// Greatest relative humidity, %.
    pub rh_max_pct: Option<f64>,
    /// Dew point, °C.
    pub dewpoint_c: Option<f64>,
    /// Actual vapour pressure, kPa.
    pub vapour_pressure_kpa: Option<f64>,
    /// Solar radiation, MJ/m².
    pub solar_mj_m2: Option<f64>,
    /// Bright sunshine, h.
    pub sunshine_h: Option<f64>,
    /// Mean wind at the anemometer's height, m/s.
    pub wind_m_s: Option<f64>,
    /// Rain, mm; in a forecast the mean amount given rain.
    pub rain_mm: Option<f64>,
    /// Probability of rain, %; forecasts only.
    pub rain_probability_pct: Option<f64>,
}

impl WeatherDay {
    /// Reference ET of the day at a place; `None` without both temperatures.
    ///
    /// # Errors
    /// As [`Station::reference_et`].
    pub fn reference_et(
        &self,
        station: &Station,
        choice: Choice,
    ) -> Result<Option<reference_et::ReferenceEt>, reference_et::Error> {
        let (Some(tmin_c), Some(tmax_c)) = (self.tmin_c, self.tmax_c) else {
            return Ok(None);
        };
        let day = reference_et::Day {
            tmin_c,
            tmax_c,
            rh_min_pct: self.rh_min_pct,
            rh_max_pct: self.rh_max_pct,
            dewpoint_c: self.dewpoint_c,
            vapour_pressure_kpa: self.vapour_pressure_kpa,
            solar_mj_m2: self.solar_mj_m2,
            sunshine_h: self.sunshine_h,
            wind_m_s: self.wind_m_s,
        };
        let day_of_year = u16::try_from(self.date.day_of_year()).unwrap_or(1);
        station.reference_et(day_of_year, &day, choice).map(Some)
    }
}

/// The place of a site for reference ET.
#[must_use]
pub fn place(site: &Site) -> Place {
    Place {
        latitude_deg: site.latitude,
        elevation_m: site.elevation_m,
        wind_height_m: site.wind_height_m,
    }
}

/// A day ready for the balance.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct DailyWeather {
    /// The civil day.
    pub date: Date,
    /// Reference ET.
    pub et0: Depth,
    /// How the reference ET was got; `None` where the day was filled.
    pub method: Option<Method>,
    /// Rain; where it is not known 0, or what the place's normals expect.
    pub rain: Depth,
    /// Whether the rain is what the normals expect: nobody told of it.
    pub rain_expected: bool,
    /// Least air temperature, °C, where known.
    pub tmin_c: Option<f64>,
    /// Greatest air temperature, °C, where known.
    pub tmax_c: Option<f64>,
    /// Least relative humidity, %, where known.
    pub rh_min_pct: Option<f64>,
    /// Mean wind, m/s at 2 m, where known.
    pub wind_m_s: Option<f64>,
    /// Mean air temperature of the last ten days, °C, for the growth state; `None` before any is known.
    pub smoothed_c: Option<f64>,
    /// Probability of rain, %; forecasts only.
    pub rain_probability_pct: Option<f64>,
}

impl DailyWeather {
    /// A day of which nothing is known: a mean reference ET, no rain, the growth state of the days before.
    #[must_use]
    pub fn filled(date: Date, et0: Depth, smoothed_c: Option<f64>) -> Self {
        Self {
            date,
            et0,
            method: None,
            rain: Depth::ZERO,
            rain_expected: false,
            tmin_c: None,
            tmax_c: None,
            rh_min_pct: None,
            wind_m_s: None,
            smoothed_c,
            rain_probability_pct: None,
        }
    }
}

/// What to do about days without weather between the first and the last.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Gaps<'a> {
    /// Refuse the record.
    Refuse,
    /// ET0 = mean of the seven days before (of the first day known, at the start), no rain; marked.
    Fill,
    /// ET0 = mean of the seven days before, in which the normals' day stands for each that is not known; the rain that they expect; marked.
    Normals(&'a Normals),
}

impl<'a> Gaps<'a> {
    /// How a site's gaps are filled: by its normals, where it has any.
    #[must_use]
    pub fn filled(site: &'a Site) -> Self {
        site.normals.as_ref().map_or(Self::Fill, Self::Normals)
    }

    /// ET0 of a day that is not known.
    fn et0(self, station: &Station, before: &[DailyWeather], date: Date) -> Depth {
        match self {
            Self::Refuse | Self::Fill => mean_et0(before),
            Self::Normals(normals) => normals.et0_beside(station, before, date),
        }
    }

    /// Its mean temperature, °C.
    fn mean_c(self, date: Date) -> Option<f64> {
        match self {
            Self::Refuse | Self::Fill => None,
            Self::Normals(normals) => normals.mean_c(date),
        }
    }

    /// The rain to be expected of a day of which nobody told.
    fn rain(self, date: Date) -> Option<Depth> {
        match self {
            Self::Refuse | Self::Fill => None,
            Self::Normals(normals) => Some(normals.counted_rain(date)),
        }
    }

    /// A day after others of which nothing is known.
    #[must_use]
    pub fn day(self, place: &Place, before: &[DailyWeather], date: Date) -> DailyWeather {
        let smoothed_c = smoothed(before, self.mean_c(date));
        let et0 = self.et0(&Station::new(place), before, date);
        let rain = self.rain(date);
        DailyWeather {
            rain: rain.unwrap_or_default(),
            rain_expected: rain.is_some(),
            ..DailyWeather::filled(date, et0, smoothed_c)
        }
    }
}

/// Why a record cannot be used.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum Error {
    /// No day at all.
    #[error("holds no day with both temperatures")]
    Empty,
    /// A day is missing or lacks a temperature.
    #[error(
        "{date}: no reference ET: the day or a temperature is missing; give --fill to have it filled"
    )]
    Gap {
        /// The first such day.
        date: Date,
    },
    /// A day's figures contradict each other.
    #[error("{date}: {error}")]
    Day {
        /// The day.
        date: Date,
        /// What is wrong.
        error: reference_et::Error,
    },
}

/// Days that a plan covers.
pub const HORIZON: usize = 7;
/// Days over which temperature is smoothed for the growth state.
const SMOOTHED_DAYS: usize = 10;
/// Days before a series that it goes on from.
pub const BEFORE_DAYS: usize = SMOOTHED_DAYS;
/// Days whose mean ET0 stands in for a day that is not known.
pub const MEAN_DAYS: usize = 7;

/// A contiguous series of days from the first to the last given, in date order; of days given twice the later counts.
///
/// # Errors
/// [`Error`].
pub fn series(
    place: &Place,
    days: &[WeatherDay],
    gaps: Gaps<'_>,
) -> Result<Vec<DailyWeather>, Error> {
    continued(place, &[], days, gaps)
}

/// A series that goes on from earlier days: running means start from the last of them. `before` holds all of them, or at least the last
/// ten; they are not given back.
///
/// # Errors
/// [`Error`].
pub fn continued(
    place: &Place,
    before: &[DailyWeather],
    days: &[WeatherDay],
    gaps: Gaps<'_>,
) -> Result<Vec<DailyWeather>, Error> {
    let before = &before[before.len().saturating_sub(BEFORE_DAYS)..];
    let station = Station::new(place);
    let by_date: BTreeMap<Date, &WeatherDay> = days.iter().map(|d| (d.date, d)).collect();
    let (Some((&first, _)), Some((&last, _))) =
        (by_date.first_key_value(), by_date.last_key_value())
    else {
        return Err(Error::Empty);
    };
    let mut series: Vec<DailyWeather> = Vec::with_capacity(before.len() + by_date.len());
    series.extend(before);
    let mut leading_gap = 0;
    // Days between are gaps like others.
    let mut date = before
        .last()
        .map_or(first, |d| d.date.saturating_add(1.day()));
    if date > last {
        return Ok(Vec::new());
    }
    loop {
        let day = by_date.get(&date).copied();
        let et = day
            .map(|d| d.reference_et(&station, Choice::Auto))
            .transpose()
            .map_err(|error| Error::Day { date, error })?
            .flatten();
        if et.is_none() {
            if gaps == Gaps::Refuse {
                return Err(Error::Gap { date });
            }
            if gaps == Gaps::Fill && series.len() == leading_gap {
                leading_gap += 1;
            }
        }
        let known_mean = day.and_then(|d| Some(f64::midpoint(d.tmin_c?, d.tmax_c?)));
        let smoothed_c = smoothed(&series, known_mean.or_else(|| gaps.mean_c(date)));
        let rain = day.and_then(|d| d.rain_mm).map(Depth::from_mm);
        let expected = rain.map_or_else(|| gaps.rain(date), |_| None);
        series.push(DailyWeather {
            date,
            et0: et.map_or_else(
                || gaps.et0(&station, &series, date),
                |et| Depth::from_mm(et.et0_mm),
            ),
            method: et.map(|et| et.method),
            rain: rain.or(expected).unwrap_or_default(),
            rain_expected: expected.is_some(),
            tmin_c: day.and_then(|d| d.tmin_c),
            tmax_c: day.and_then(|d| d.tmax_c),
            rh_min_pct: day.and_then(|d| d.rh_min_pct),
            wind_m_s: day
                .and_then(|d| d.wind_m_s)
                .map(|u| station.wind_at_2m_m_s(u)),
            smoothed_c,
            rain_probability_pct: day.and_then(|d| d.rain_probability_pct),
        });
        if date >= last {
            break;
        }
        date = date.saturating_add(1.day());
    }
    if before.is_empty() && leading_gap > 0 {
        if leading_gap == series.len() {
            return Err(Error::Empty);
        }
        let first_known = series[leading_gap].et0;
        for day in &mut series[..leading_gap] {
            day.et0 = first_known;
        }
    }
    series.drain(..before.len());
    Ok(series)
}

/// Mean ET0 of the last seven days of a series; 0 of an empty one.
#[must_use]
pub fn mean_et0(series: &[DailyWeather]) -> Depth {
    let last = &series[series.len().saturating_sub(MEAN_DAYS)..];
    if last.is_empty() {
        return Depth::ZERO;
    }
    #[allow(clippy::cast_precision_loss)] // at most seven
    let n = last.len() as f64;
    last.iter().map(|d| d.et0).sum::<Depth>() / n
}

/// Running mean of temperature: the mean of the last ten, kept as an exponential mean so that one figure a day is enough.
fn smoothed(series: &[DailyWeather], mean_c: Option<f64>) -> Option<f64> {
    let before = series.last().and_then(|d| d.smoothed_c);
    match (before, mean_c) {
        (Some(before), Some(now)) => {
            #[allow(clippy::cast_precision_loss)] // at most ten
            let weight = 1.0 / (series.len() + 1).min(SMOOTHED_DAYS) as f64;
            Some(before + (now - before) * weight)
        }
        (before, now) => before.or(now),
    }
}

/// Where the reference ET of a day ahead comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EtFrom {
    /// A forecast.
    Forecast,
    /// The mean of the last seven days observed.
    RecentMean,
    /// The place's normals: of the last seven days fewer than four are known.
    Normals,
}

/// A day that a plan looks ahead over: from a forecast where it reaches and is known, else the mean of the last seven observed, in which the
/// place's normals stand for what is not known. Forecast rain is carried along to be shown; it never enters a balance here.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AheadDay {
    /// The day's figures; `rain` is always 0.
    pub weather: DailyWeather,
    /// Where its ET0 comes from.
    pub from: EtFrom,
    /// Forecast rain, mean amount given rain.
    pub forecast_rain: Option<Depth>,
}

impl AheadDay {
    /// Probability of the forecast's rain, 0 to 1; a forecast that names rain and no probability means it.
    #[must_use]
    pub fn forecast_probability(&self) -> f64 {
        match (self.forecast_rain, self.weather.rain_probability_pct) {
            (Some(_), Some(pct)) => pct / 100.0,
            (Some(rain), None) if rain > Depth::ZERO => 1.0,
            _ => 0.0,
        }
    }

    /// The rain to be expected: the amount with its probability.
    #[must_use]
    pub fn expected_rain(&self) -> Depth {
        self.forecast_rain.unwrap_or_default() * self.forecast_probability()
    }
}

/// Fewest of the last seven days by which their mean, and not the normals, is what ET0 ahead comes from.
const LEAST_KNOWN: usize = 4;

/// The days from `today` on, see [`AheadDay`].
#[must_use]
pub fn ahead<const DAYS: usize>(
    site: &Site,
    observed: &[DailyWeather],
    forecast: &[DailyWeather],
    today: Date,
) -> [AheadDay; DAYS] {
    let station = Station::new(&place(site));
    let gaps = Gaps::filled(site);
    let mean = mean_et0(observed);
    let last_c = observed.last().and_then(|d| d.smoothed_c);
    let by_normals =
        site.normals.is_some() && normals::known_of_last(observed).count() < LEAST_KNOWN;
    let mut date = today;
    std::array::from_fn(|_| {
        let day = forecast
            .binary_search_by_key(&date, |d| d.date)
            .ok()
            .map(|i| forecast[i])
            .filter(|d| d.method.is_some());
        let ahead = match (day, gaps) {
            (Some(day), _) => AheadDay {
                weather: DailyWeather {
                    rain: Depth::ZERO,
                    ..day
                },
                from: EtFrom::Forecast,
                // A forecast that names no rain leaves it to the normals.
                forecast_rain: (!day.rain_expected).then_some(day.rain),
            },
            (None, Gaps::Normals(normals)) => {
                let et0 = normals.et0_beside(&station, observed, date);
                let smoothed_c = last_c.or_else(|| normals.mean_c(date));
                AheadDay {
                    weather: DailyWeather::filled(date, et0, smoothed_c),
                    from: match by_normals {
                        true => EtFrom::Normals,
                        false => EtFrom::RecentMean,
                    },
                    forecast_rain: None,
                }
            }
            (None, _) => AheadDay {
                weather: DailyWeather::filled(date, mean, last_c),
                from: EtFrom::RecentMean,
                forecast_rain: None,
            },
        };
        date = date.saturating_add(1.day());
        ahead
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    const PLACE: Place = Place {
        latitude_deg: 36.4,
        elevation_m: 310.0,
        wind_height_m: 2.0,
    };

    fn site() -> Site {
        serde_json::from_value(serde_json::json!({
            "name": "Meadow", "time_zone": "UTC", "latitude": PLACE.latitude_deg, "longitude": 0, "elevation_m": PLACE.elevation_m,
        }))
        .unwrap()
    }

    fn day(d: i8, temperatures: Option<(f64, f64)>) -> WeatherDay {
        WeatherDay {
            date: date(2026, 6, d),
            tmin_c: temperatures.map(|t| t.0),
            tmax_c: temperatures.map(|t| t.1),
            rain_mm: Some(1.0),
            ..WeatherDay::default()
        }
    }

    #[test]
    fn a_gap_is_refused_or_filled_and_marked() {
        let days = [day(1, Some((15.0, 29.0))), day(3, Some((16.0, 30.0)))];
        assert_eq!(
            series(&PLACE, &days, Gaps::Refuse),
            Err(Error::Gap {
                date: date(2026, 6, 2)
            })
        );
        let filled = series(&PLACE, &days, Gaps::Fill).unwrap();
        assert_eq!(filled.len(), 3);
        assert_eq!(filled[1].et0, filled[0].et0);
        assert_eq!(filled[1].method, None);
        assert_eq!(filled[1].rain, Depth::ZERO);
    }

    #[test]
    fn a_cool_day_in_the_forecast_does_not_make_warm_season_grass_dormant() {
        let mild: Vec<WeatherDay> = (1..=30).map(|d| day(d, Some((14.0, 26.0)))).collect();
        let observed = series(&PLACE, &mild, Gaps::Refuse).unwrap();
        let mut cool = day(1, Some((9.0, 18.0)));
        cool.date = date(2026, 7, 1);
        let ahead = continued(&PLACE, &observed, std::slice::from_ref(&cool), Gaps::Fill).unwrap();
        // A tenth of the way from 20 to 13.5 °C; that day alone would be cold-dormant.
        let smoothed = ahead[0].smoothed_c.unwrap();
        assert!((smoothed - 19.35).abs() < 1e-9, "{smoothed}");
        let warm = science::turf::Season::Warm;
        assert!(science::turf::growth_factor(warm, smoothed) > 0.99);
        assert!(science::turf::growth_factor(warm, 13.5) < 0.99);
        // As if it had been observed, from the last ten days alone too.
        let all: Vec<WeatherDay> = mild.iter().chain([&cool]).cloned().collect();
        assert_eq!(series(&PLACE, &all, Gaps::Refuse).unwrap()[30], ahead[0]);
        let tail = continued(&PLACE, &observed[20..], &[cool], Gaps::Fill).unwrap();
        assert_eq!(tail, ahead);
    }

    #[test]
    fn a_gap_at_the_start_takes_the_first_day_known() {
        let days = [day(1, None), day(2, Some((15.0, 29.0)))];
        let filled = series(&PLACE, &days, Gaps::Fill).unwrap();
        assert_eq!(filled[0].et0, filled[1].et0);
        assert!(filled[0].et0.mm() > 0.0);
        assert_eq!(series(&PLACE, &days[..1], Gaps::Fill), Err(Error::Empty));
    }

    #[test]
    fn forecast_rain_is_shown_and_never_counted() {
        let observed = series(&PLACE, &[day(1, Some((15.0, 29.0)))], Gaps::Refuse).unwrap();
        let forecast = series(&PLACE, &[day(2, Some((15.0, 35.0)))], Gaps::Fill).unwrap();
        let days: [AheadDay; 2] = ahead(&site(), &observed, &forecast, date(2026, 6, 2));
        assert_eq!(days[0].weather.rain, Depth::ZERO);
        assert_eq!(days[0].forecast_rain, Some(Depth::from_mm(1.0)));
        assert_eq!(days[0].from, EtFrom::Forecast);
        assert_eq!(days[1].from, EtFrom::RecentMean);
        assert_eq!(days[1].weather.et0, observed[0].et0);
    }
}
