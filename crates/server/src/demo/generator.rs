//! Made-up daily weather of a transition climate, the same at every start. Only the demo uses it; a weather service comes later.

use jiff::ToSpan;
use jiff::civil::Date;
use lawn::weather::WeatherDay;

/// SplitMix64 (Steele, Lea and Flood 2014): small, and the same everywhere.
struct Random(u64);

impl Random {
    fn next(&mut self) -> u64 {
        self.0 = self.0.wrapping_add(0x9E37_79B9_7F4A_7C15);
        let mut z = self.0;
        z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
        z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
        z ^ (z >> 31)
    }

    /// 0 to 1.
    #[allow(clippy::cast_precision_loss)] // 53 bits fit
    fn share(&mut self) -> f64 {
        (self.next() >> 11) as f64 / (1u64 << 53) as f64
    }

    /// About normal, mean 0, spread 1: the sum of twelve.
    fn normal(&mut self) -> f64 {
        (0..12).map(|_| self.share()).sum::<f64>() - 6.0
    }
}

/// One decimal, as stations report.
fn tenth(x: f64) -> Option<f64> {
    Some((x * 10.0).round() / 10.0)
}

/// Warmth of the season, −1 in mid-January to 1 in mid-July.
fn season(date: Date) -> f64 {
    let turn = (f64::from(date.day_of_year()) - 197.0) / 365.0 * std::f64::consts::TAU;
    turn.cos()
}

struct Weather {
    random: Random,
    wet: bool,
    /// Departure from the season's temperature, °C; it lingers.
    departure: f64,
}

impl Weather {
    fn day(&mut self, date: Date) -> WeatherDay {
        let r = &mut self.random;
        // Dry spells of early summer, storms between.
        let early_summer = (152..=182).contains(&date.day_of_year());
        let begins = if early_summer { 0.12 } else { 0.22 };
        self.wet = r.share() < if self.wet { 0.46 } else { begins };
        self.departure = 0.72 * self.departure + 1.9 * r.normal();
        let cloud = if self.wet {
            0.35 + 0.25 * r.share()
        } else {
            0.72 + 0.26 * r.share()
        };
        let mean = 13.8 + 11.2 * season(date) + self.departure - if self.wet { 1.5 } else { 0.0 };
        let spread = 3.5 + 12.5 * cloud * (0.8 + 0.3 * r.share());
        let (tmin, tmax) = (mean - spread / 2.0, mean + spread / 2.0);
        let rain = if self.wet {
            0.5 - 9.5 * r.share().max(1e-6).ln()
        } else {
            0.0
        };
        let clear_sky = 20.0 + 10.5 * season(date);
        WeatherDay {
            date,
            tmin_c: tenth(tmin),
            tmax_c: tenth(tmax),
            rh_min_pct: tenth(
                (if self.wet { 62.0 } else { 40.0 } + 7.0 * r.normal()).clamp(15.0, 90.0),
            ),
            rh_max_pct: tenth(
                (if self.wet { 95.0 } else { 88.0 } + 3.0 * r.normal()).clamp(70.0, 100.0),
            ),
            solar_mj_m2: tenth(clear_sky * cloud),
            wind_m_s: tenth((1.9 + 0.7 * r.normal()).clamp(0.3, 6.0)),
            rain_mm: tenth(rain),
            ..WeatherDay::default()
        }
    }
}

fn generate(from: Date, count: usize, seed: u64) -> Vec<WeatherDay> {
    let mut weather = Weather {
        random: Random(seed),
        wet: false,
        departure: 0.0,
    };
    let mut date = from;
    (0..count)
        .map(|_| {
            let day = weather.day(date);
            date = date.saturating_add(1.day());
            day
        })
        .collect()
}

/// Observed days from one date to the day before another.
pub(super) fn days(from: Date, until: Date) -> Vec<WeatherDay> {
    let count = from.until(until).map_or(0, |span| span.get_days());
    generate(from, usize::try_from(count).unwrap_or(0), 21)
}

/// A forecast from a date on, with rain probabilities.
pub(super) fn forecast(from: Date, count: usize) -> Vec<WeatherDay> {
    let mut days = generate(from, count, 77);
    for (lead, day) in days.iter_mut().enumerate() {
        let rains = day.rain_mm.is_some_and(|mm| mm > 0.0);
        let fade = 5.0 * f64::from(u8::try_from(lead).unwrap_or(u8::MAX));
        day.rain_probability_pct = Some(if rains { 85.0 - fade } else { 5.0 + fade });
        if !rains {
            day.rain_mm = Some(4.0);
        }
    }
    days
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_day_holds_and_repeats() {
        let from = Date::constant(2025, 3, 1);
        let days = days(from, Date::constant(2026, 6, 18));
        assert_eq!(days.len(), 474);
        assert_eq!(days, super::days(from, Date::constant(2026, 6, 18)));
        let text = lawn::weather_csv::write(&days);
        assert_eq!(lawn::weather_csv::read(&text).errors, []);
        let rain: f64 = days.iter().filter_map(|d| d.rain_mm).sum();
        // A transition climate has about 1000 to 1300 mm a year.
        let a_year = rain / 474.0 * 365.0;
        assert!((900.0..1500.0).contains(&a_year), "{a_year} mm a year");
    }
}
