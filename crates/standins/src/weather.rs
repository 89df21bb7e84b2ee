//! Observed days: wet and dry spells, storms, heat waves, with humidity, wind and radiation that go with them.
//!
//! A day is a pure function of seed, climate, place and date. Wetness is a two-state chain (Richardson 1981) whose draws belong to
//! the days: going back until a draw decides whatever came before gives the state without a first day. Temperature follows a moving
//! mean of daily draws; a slow one stands for lasting highs, which bring dry spells and, in summer, heat.

use jiff::ToSpan;
use jiff::civil::Date;
use science::humidity::saturation_kpa;
use science::radiation::{Latitude, clear_sky_mj_m2};
use serde::Serialize;

use crate::climate::{Climate, Figures};
use crate::noise::{Use, normal, probit, share};

/// A made-up place.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Place {
    /// Latitude, degrees, south negative; the seasons follow it.
    pub latitude_deg: f64,
    /// Elevation, m.
    pub elevation_m: f64,
}

/// A made-up day; in a forecast rain is the mean amount given rain.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Day {
    /// The civil day.
    pub date: Date,
    /// Least air temperature, °C.
    pub tmin_c: f64,
    /// Greatest air temperature, °C.
    pub tmax_c: f64,
    /// Least relative humidity, %.
    pub rh_min_pct: f64,
    /// Greatest relative humidity, %.
    pub rh_max_pct: f64,
    /// Solar radiation, MJ/m².
    pub solar_mj_m2: f64,
    /// Mean wind at 2 m, m/s.
    pub wind_m_s: f64,
    /// Rain, mm.
    pub rain_mm: f64,
    /// Probability of rain, %; forecasts only.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub rain_probability_pct: Option<f64>,
}

/// A wet day brings at least this, mm.
const LEAST_RAIN_MM: f64 = 0.3;
/// Exponent of rain amounts: above 1, a few storms bring much of the water.
pub(crate) const STORMINESS: f64 = 1.2;
/// How strongly a lasting high keeps rain away, on the scale of the draws.
const DRYING: f64 = 0.55;
/// Memory of the fast and the slow course from day to day, and the days after which it is cut off.
const FAST: (f64, i32) = (0.62, 18);
const SLOW: (f64, i32) = (0.92, 48);

/// The weather of a place.
#[derive(Debug, Clone, Copy)]
pub struct Weather {
    pub(crate) seed: u64,
    pub(crate) figures: &'static Figures,
    place: Place,
}

impl Weather {
    /// Of a seed, a climate and a place.
    #[must_use]
    pub fn new(seed: u64, climate: Climate, place: Place) -> Self {
        Self {
            seed,
            figures: climate.figures(),
            place,
        }
    }

    /// A day as it was.
    #[must_use]
    pub fn day(&self, date: Date) -> Day {
        let day = number(date);
        self.day_of(day, date, self.is_wet(day))
    }

    /// The days from one date to another, both included.
    #[must_use]
    pub fn days(&self, from: Date, to: Date) -> Vec<Day> {
        let mut days = Vec::new();
        let mut date = from;
        let mut wet = self.is_wet(number(from) - 1);
        while date <= to {
            let day = number(date);
            wet = self.turns(day, wet);
            days.push(self.day_of(day, date, wet));
            let Ok(next) = date.checked_add(1.day()) else {
                break;
            };
            date = next;
        }
        days
    }

    fn day_of(&self, day: i32, date: Date, wet: bool) -> Day {
        let f = self.figures;
        let warmth = self.warmth(day);
        let draw = |what| normal(self.seed, day, what, 0);
        let clear = self.clear(warmth, wet, share(self.seed, day, Use::Cloud, 0));

        let slow = self.course(day, Use::Slow, SLOW);
        let fast = self.course(day, Use::Fast, FAST);
        let blocking = f.blocking.at(warmth);
        let departure = f.spread_c.at(warmth)
            * (blocking * slow + (1.0 - blocking * blocking).max(0.0).sqrt() * fast);
        let cooling = if wet {
            -1.4 * (1.0 + warmth) / 2.0
        } else {
            0.5
        };
        let mean_c = f.mean_c.at(warmth) + departure + cooling;
        let range_c = f.range_c.at(warmth)
            * (0.38 + 0.62 * clear / f.clear.at(warmth)).min(1.15)
            * (1.0 + 0.14 * draw(Use::Range)).clamp(0.55, 1.5);
        let (tmin_c, tmax_c) = (mean_c - range_c / 2.0, mean_c + range_c / 2.0);

        let dryness = if wet { 0.1 } else { f.dryness_c.at(warmth) };
        let dew_c = tmin_c - (dryness * (1.0 + 0.8 * draw(Use::Damp))).max(0.0);
        let vapour = saturation_kpa(dew_c);
        let wind = f.wind_m_s.at(warmth) * (0.36 * draw(Use::Wind) - 0.065).exp();
        Day {
            date,
            tmin_c: tenth(tmin_c),
            tmax_c: tenth(tmax_c),
            rh_min_pct: tenth((100.0 * vapour / saturation_kpa(tmax_c)).clamp(4.0, 100.0)),
            rh_max_pct: tenth((100.0 * vapour / saturation_kpa(tmin_c)).clamp(8.0, 100.0)),
            solar_mj_m2: tenth(clear * self.clear_sky(date)),
            wind_m_s: tenth(wind.clamp(0.2, 12.0)),
            rain_mm: if wet {
                tenth(self.amount(warmth, share(self.seed, day, Use::Amount, 0)))
            } else {
                0.0
            },
            rain_probability_pct: None,
        }
    }

    /// Radiation under a clear sky, MJ/m².
    pub(crate) fn clear_sky(&self, date: Date) -> f64 {
        let day_of_year = u16::try_from(date.day_of_year()).unwrap_or(1);
        let ra =
            Latitude::from_degrees(self.place.latitude_deg).extraterrestrial_mj_m2(day_of_year);
        clear_sky_mj_m2(ra, self.place.elevation_m)
    }

    /// Share of clear-sky radiation, by the draw of the day's cloud.
    pub(crate) fn clear(&self, warmth: f64, wet: bool, u: f64) -> f64 {
        let dry = self.figures.clear.at(warmth);
        if wet {
            0.22 + 0.36 * u
        } else {
            dry + (1.0 - dry) * (2.0 * u - 1.0)
        }
    }

    /// Warmth of the season, −1 at midwinter to 1 at midsummer; the temperature lags the sun by about 25 days.
    pub(crate) fn warmth(&self, day: i32) -> f64 {
        // Day 0 is 1 January 1970; 16 July is the 197th day of a year.
        let turn = (f64::from(day) - 196.0) / 365.2425 * std::f64::consts::TAU;
        if self.place.latitude_deg < 0.0 {
            -turn.cos()
        } else {
            turn.cos()
        }
    }

    /// The draw below which a day is wet, by the state of the day before.
    pub(crate) fn threshold(&self, day: i32, after_wet: bool) -> f64 {
        let warmth = self.warmth(day);
        let p = if after_wet {
            self.figures.wet_after_wet.at(warmth)
        } else {
            self.figures.wet_after_dry.at(warmth)
        };
        // Widened, so that the high's comings and goings leave the share of wet days as it is.
        probit(p) * (1.0 + DRYING * DRYING).sqrt() - DRYING * self.course(day, Use::Slow, SLOW)
    }

    fn turns(&self, day: i32, after_wet: bool) -> bool {
        normal(self.seed, day, Use::Wet, 0) < self.threshold(day, after_wet)
    }

    /// Whether a day is wet, from the last day before it on which the draw alone decides.
    pub(crate) fn is_wet(&self, day: i32) -> bool {
        let mut decided = day;
        let mut wet = loop {
            let draw = normal(self.seed, decided, Use::Wet, 0);
            if draw < self.threshold(decided, false) {
                break true;
            }
            if draw >= self.threshold(decided, true) {
                break false;
            }
            decided -= 1;
        };
        while decided < day {
            decided += 1;
            wet = self.turns(decided, wet);
        }
        wet
    }

    /// Rain of a wet day whose draw lies at `u`, mm.
    pub(crate) fn amount(&self, warmth: f64, u: f64) -> f64 {
        self.mean_amount(warmth) * relative_amount(u) + LEAST_RAIN_MM
    }

    pub(crate) fn mean_amount(&self, warmth: f64) -> f64 {
        self.figures.rain_mm.at(warmth) - LEAST_RAIN_MM
    }

    /// A moving mean of daily draws, spread 1.
    fn course(&self, day: i32, what: Use, (memory, length): (f64, i32)) -> f64 {
        let mut sum = 0.0;
        let mut squares = 0.0;
        let mut weight = 1.0;
        for back in 0..length {
            sum += weight * normal(self.seed, day - back, what, 0);
            squares += weight * weight;
            weight *= memory;
        }
        sum / squares.sqrt()
    }
}

/// Rain at a draw, share of the mean.
pub(crate) fn relative_amount(u: f64) -> f64 {
    (-u.ln()).powf(STORMINESS) / statrs::function::gamma::gamma(1.0 + STORMINESS)
}

/// Least rain of a wet day, mm.
pub(crate) const fn least_rain_mm() -> f64 {
    LEAST_RAIN_MM
}

/// Days since 1 January 1970.
pub(crate) fn number(date: Date) -> i32 {
    Date::constant(1970, 1, 1)
        .until(date)
        .map_or(0, |span| span.get_days())
}

/// One decimal, as stations report.
pub(crate) fn tenth(x: f64) -> f64 {
    (x * 10.0).round() / 10.0
}
