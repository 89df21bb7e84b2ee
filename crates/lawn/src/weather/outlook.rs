//! What weather may come: a forecast as a distribution, the record's own climatology after it, and a fixed set of scenarios
//! through both.
//!
//! A day's rain is wet with a probability; given rain, amounts are exponential about their mean; days are independent. ET0 has one
//! error a scenario, which grows with lead. The same inputs give the same scenarios.

use std::sync::OnceLock;

use jiff::civil::Date;
use serde::Serialize;

use crate::quantity::Depth;
use crate::site::normals::{Normals, WET_MM};
use crate::weather::{AheadDay, DailyWeather, EtFrom, HORIZON};

/// Scenarios.
pub const SCENARIOS: usize = 64;
/// Days over which candidates are compared.
pub const COMPARED_DAYS: usize = 14;
/// Days that an outlook holds: as many are compared from the last day of the horizon.
pub const OUTLOOK_DAYS: usize = HORIZON - 1 + COMPARED_DAYS;
/// Fewest days of record from which a climatology is drawn.
pub const LEAST_RECORD_DAYS: u32 = 60;

/// Fewest days of a month from which that month's climatology is drawn; with fewer, the whole record stands in.
const LEAST_MONTH_DAYS: u32 = 20;
/// Spread of a forecast's ET0, share of it: today's, and what each day of lead adds (common practice, no source).
const ET_SPREAD: (f64, f64) = (0.06, 0.025);
/// Spread of an ET0 that is a mean of recent days, or the normals' (a week of the open daily series misses these by 0.17, a day by 0.26:
/// `tests/it/normals.rs`).
const ET_SPREAD_MEAN: f64 = 0.22;

/// Seeds of the scenarios' columns. Each is a shuffle of the strata of one day, so that every day alone is covered evenly (a Latin
/// hypercube); found by search so that no two columns correlate by more than 0.09, those up to three days apart by no more than 0.04.
const COLUMNS: [u64; OUTLOOK_DAYS + 1] = [
    0, 3, 20, 45, 288, 431, 1370, 1940, 3675, 6773, 21025, 72201, 89403, 112_018, 143_859, 218_709,
    1_072_469, 3_072_550, 6_207_482, 19_042_644, 33_222_558,
];

/// The rain of a day ahead.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RainChance {
    /// Probability of rain, 0 to 1.
    pub probability: f64,
    /// Mean amount given rain.
    pub amount: Depth,
    /// Whether the amount is known, as with hindsight; else it is exponential about its mean.
    pub exact: bool,
}

impl RainChance {
    /// No rain.
    pub const NONE: Self = Self {
        probability: 0.0,
        amount: Depth::ZERO,
        exact: true,
    };

    fn expected(&self) -> Depth {
        self.amount * self.probability
    }
}

/// A day ahead.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct OutlookDay {
    /// Its weather, rain left out.
    pub weather: DailyWeather,
    /// Its rain.
    pub rain: RainChance,
    /// Spread of its ET0, share of it.
    pub et_spread: f64,
}

/// Wet days and amounts by month, of days observed.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
pub struct Climatology {
    days: [u32; 12],
    wet: [u32; 12],
    rain_mm: [f64; 12],
}

impl Climatology {
    /// A day counts as wet from this depth on, mm.
    pub const WET_MM: f64 = WET_MM;

    /// Of sums by month: its number, its days, the wet of them, and their rain, mm.
    #[must_use]
    pub fn of_months(months: impl IntoIterator<Item = (usize, u32, u32, f64)>) -> Self {
        let mut climatology = Self::default();
        for (month, days, wet, rain_mm) in months {
            if let 1..=12 = month {
                climatology.days[month - 1] = days;
                climatology.wet[month - 1] = wet;
                climatology.rain_mm[month - 1] = rain_mm;
            }
        }
        climatology
    }

    /// Sums by month, as [`Climatology::of_months`] takes them; those without a day are left out.
    pub fn months(&self) -> impl Iterator<Item = (usize, u32, u32, f64)> {
        (0..12)
            .filter(|&m| self.days[m] > 0)
            .map(|m| (m + 1, self.days[m], self.wet[m], self.rain_mm[m]))
    }

    /// Of a record.
    #[must_use]
    pub fn of(record: &[DailyWeather]) -> Self {
        Self::default().with(record)
    }

    /// The same with further days of the record.
    #[must_use]
    pub fn with(mut self, days: &[DailyWeather]) -> Self {
        for day in days {
            self.add(day);
        }
        self
    }

    /// Adds an observed day; one that was filled, without rain of a gauge, tells nothing.
    pub fn add(&mut self, day: &DailyWeather) {
        if day.rain_expected || (day.method.is_none() && day.rain <= Depth::ZERO) {
            return;
        }
        let month = usize::try_from(day.date.month()).unwrap_or(1) - 1;
        self.days[month] += 1;
        self.wet[month] += u32::from(day.rain.mm() >= WET_MM);
        self.rain_mm[month] += day.rain.mm();
    }

    /// Rain of a day of a month; `None` with less than [`LEAST_RECORD_DAYS`] days of record.
    #[must_use]
    pub fn chance(&self, date: Date) -> Option<RainChance> {
        let all: u32 = self.days.iter().sum();
        if all < LEAST_RECORD_DAYS {
            return None;
        }
        let month = usize::try_from(date.month()).unwrap_or(1) - 1;
        let (days, wet, rain_mm) = if self.days[month] >= LEAST_MONTH_DAYS {
            (self.days[month], self.wet[month], self.rain_mm[month])
        } else {
            (all, self.wet.iter().sum(), self.rain_mm.iter().sum())
        };
        if wet == 0 {
            return Some(RainChance::NONE);
        }
        Some(RainChance {
            probability: f64::from(wet) / f64::from(days),
            amount: Depth::from_mm(rain_mm / f64::from(wet)),
            exact: false,
        })
    }
}

/// The days ahead with what may come on them.
#[derive(Debug)]
pub struct Outlook {
    days: [OutlookDay; OUTLOOK_DAYS],
    scenarios: OnceLock<Box<Scenarios>>,
}

/// Rain by day and scenario, mm, and each scenario's ET0 error in spreads.
#[derive(Debug)]
pub(crate) struct Scenarios {
    pub rain_mm: [[f64; SCENARIOS]; OUTLOOK_DAYS],
    pub et_error: [f64; SCENARIOS],
}

impl Outlook {
    /// From the days ahead ([`crate::weather::ahead`], or [`Outlook::known`] for hindsight), and for what the forecast does not reach the record's
    /// climatology, beside the place's normals where they are known.
    #[must_use]
    pub fn new(
        ahead: &[AheadDay; OUTLOOK_DAYS],
        climatology: &Climatology,
        normals: Option<&Normals>,
    ) -> Self {
        let mut lead = 0.0;
        let days = ahead.map(|day| {
            let rain = match day.forecast_rain {
                Some(amount) => RainChance {
                    probability: day.forecast_probability(),
                    amount,
                    exact: false,
                },
                None => match normals {
                    Some(normals) => normals.chance_beside(climatology, day.weather.date),
                    None => climatology
                        .chance(day.weather.date)
                        .unwrap_or(RainChance::NONE),
                },
            };
            let et_spread = match day.from {
                EtFrom::Forecast => ET_SPREAD.0 + ET_SPREAD.1 * lead,
                EtFrom::RecentMean | EtFrom::Normals => ET_SPREAD_MEAN,
            };
            lead += 1.0;
            OutlookDay {
                weather: day.weather,
                rain,
                et_spread,
            }
        });
        Self::of_days(days)
    }

    /// From given days.
    #[must_use]
    pub const fn of_days(days: [OutlookDay; OUTLOOK_DAYS]) -> Self {
        Self {
            days,
            scenarios: OnceLock::new(),
        }
    }

    /// The same days as they will be: no spread, and the rain that falls on the days that a record covers.
    #[must_use]
    pub fn known(mut self, record: &[DailyWeather]) -> Self {
        for day in &mut self.days {
            if let Ok(i) = record.binary_search_by_key(&day.weather.date, |d| d.date) {
                day.et_spread = 0.0;
                day.rain = RainChance {
                    probability: if record[i].rain > Depth::ZERO {
                        1.0
                    } else {
                        0.0
                    },
                    amount: record[i].rain,
                    exact: true,
                };
            }
        }
        self.scenarios = OnceLock::new();
        self
    }

    /// The days.
    #[must_use]
    pub const fn days(&self) -> &[OutlookDay; OUTLOOK_DAYS] {
        &self.days
    }

    /// Whether any rain is in sight from a day of the horizon on.
    #[must_use]
    pub fn rain_in_sight(&self, from: usize) -> bool {
        self.days
            .iter()
            .skip(from)
            .take(COMPARED_DAYS)
            .any(|d| d.rain.expected() > Depth::ZERO)
    }

    /// Probability that at least a wet day's rain falls within some days, 0 to 1, and the rain expected of them.
    #[must_use]
    pub fn rain_within(&self, from: usize, count: usize) -> (f64, Depth) {
        let days = self.days.iter().skip(from).take(count);
        days.fold((0.0, Depth::ZERO), |(wet, sum), d| {
            let p = if d.rain.amount.mm() <= 0.0 {
                0.0
            } else if d.rain.exact {
                d.rain.probability
            } else {
                d.rain.probability * (-WET_MM / d.rain.amount.mm()).exp()
            };
            (1.0 - (1.0 - wet) * (1.0 - p), sum + d.rain.expected())
        })
    }

    pub(crate) fn scenarios(&self) -> &Scenarios {
        self.scenarios
            .get_or_init(|| Box::new(Scenarios::through(&self.days)))
    }
}

/// A number below 256, exact.
fn small(i: usize) -> f64 {
    f64::from(u8::try_from(i).unwrap_or(u8::MAX))
}

impl Scenarios {
    /// Rain of a day in a scenario.
    pub(crate) fn rain(&self, day: usize, scenario: usize) -> Depth {
        Depth::from_mm(self.rain_mm[day][scenario])
    }

    fn through(days: &[OutlookDay; OUTLOOK_DAYS]) -> Self {
        let n = small(SCENARIOS);
        let points = |column: usize| strata()[column].map(|k| (small(usize::from(k)) + 0.5) / n);
        let mut rain_mm = [[0.0; SCENARIOS]; OUTLOOK_DAYS];
        for (day, rain_mm) in rain_mm.iter_mut().enumerate() {
            let RainChance {
                probability: p,
                amount,
                exact,
            } = days[day].rain;
            if p <= 0.0 || amount <= Depth::ZERO {
                continue;
            }
            let mut sum = 0.0;
            for (mm, u) in rain_mm.iter_mut().zip(points(day + 1)) {
                if u < p {
                    *mm = if exact { 1.0 } else { -(u / p).ln() };
                    sum += *mm;
                }
            }
            // Midpoints of strata miss the mean by a little; the expectation is kept exactly.
            let scale = if sum > 0.0 {
                amount.mm() * p * n / sum
            } else {
                0.0
            };
            for mm in rain_mm.iter_mut() {
                *mm *= scale;
            }
        }
        Self {
            rain_mm,
            // Even over ±√3: spread 1, mean 0, and no tail that would turn ET0 negative.
            et_error: points(0).map(|u| (2.0 * u - 1.0) * 3f64.sqrt()),
        }
    }
}

/// The strata of each column by scenario: Fisher–Yates shuffles by SplitMix64 (Steele, Lea and Flood 2014).
fn strata() -> &'static [[u8; SCENARIOS]; OUTLOOK_DAYS + 1] {
    static STRATA: OnceLock<[[u8; SCENARIOS]; OUTLOOK_DAYS + 1]> = OnceLock::new();
    STRATA.get_or_init(|| {
        COLUMNS.map(|mut state| {
            let mut next = || {
                state = state.wrapping_add(0x9E37_79B9_7F4A_7C15);
                let mut z = state;
                z = (z ^ (z >> 30)).wrapping_mul(0xBF58_476D_1CE4_E5B9);
                z = (z ^ (z >> 27)).wrapping_mul(0x94D0_49BB_1331_11EB);
                z ^ (z >> 31)
            };
            let mut column: [u8; SCENARIOS] =
                std::array::from_fn(|i| u8::try_from(i).unwrap_or(u8::MAX));
            for i in (1..SCENARIOS).rev() {
                let below = u64::try_from(i + 1).unwrap_or(1);
                column.swap(i, usize::try_from(next() % below).unwrap_or(0));
            }
            column
        })
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::ToSpan;
    use jiff::civil::date;

    fn day(on: Date, rain_mm: f64) -> DailyWeather {
        DailyWeather {
            date: on,
            et0: Depth::from_mm(5.0),
            method: Some(science::reference_et::Method::Hargreaves),
            rain: Depth::from_mm(rain_mm),
            rain_expected: false,
            tmin_c: None,
            tmax_c: None,
            rh_min_pct: None,
            wind_m_s: None,
            smoothed_c: None,
            rain_probability_pct: None,
        }
    }

    fn days(rain: RainChance) -> [OutlookDay; OUTLOOK_DAYS] {
        [OutlookDay {
            weather: day(date(2026, 6, 1), 0.0),
            rain,
            et_spread: 0.1,
        }; OUTLOOK_DAYS]
    }

    #[test]
    fn every_column_covers_its_strata_once_and_columns_hardly_correlate() {
        let centred = strata().map(|c| c.map(|k| f64::from(k) - 31.5));
        let dot = |a: &[f64; SCENARIOS], b: &[f64; SCENARIOS]| -> f64 {
            a.iter().zip(b).map(|(x, y)| x * y).sum()
        };
        for (i, a) in centred.iter().enumerate() {
            let mut sorted = strata()[i];
            sorted.sort_unstable();
            assert!(sorted.iter().enumerate().all(|(k, &s)| usize::from(s) == k));
            for (j, b) in centred.iter().enumerate().take(i) {
                let r = dot(a, b) / dot(a, a);
                assert!(
                    r.abs() <= if i - j <= 3 { 0.04 } else { 0.09 },
                    "{i} {j}: {r}"
                );
            }
        }
    }

    #[test]
    fn scenarios_keep_probability_mean_and_spread_of_the_distribution() {
        let rain = RainChance {
            probability: 0.3,
            amount: Depth::from_mm(8.0),
            exact: false,
        };
        let s = Scenarios::through(&days(rain));
        let mut sums = [0.0; SCENARIOS];
        for by_scenario in &s.rain_mm {
            let wet = by_scenario.iter().filter(|mm| **mm > 0.0).count();
            assert_eq!(wet, 19, "0.3 of 64");
            let mean = by_scenario.iter().sum::<f64>() / 64.0;
            assert!((mean - 2.4).abs() < 1e-9);
            for (sum, mm) in sums.iter_mut().zip(by_scenario) {
                *sum += mm;
            }
        }
        // Of independent days: mean 20 · p · m, variance 20 · (2 p m² − p² m²), within a quarter for 64 points.
        let mean = sums.iter().sum::<f64>() / 64.0;
        let variance = sums.iter().map(|s| (s - mean).powi(2)).sum::<f64>() / 63.0;
        let expected = 20.0 * (2.0 * 0.3 - 0.09) * 64.0;
        assert!((mean - 48.0).abs() < 1e-9);
        assert!(
            (variance / expected - 1.0).abs() < 0.25,
            "{variance} against {expected}"
        );
        assert!(s.et_error.iter().sum::<f64>().abs() < 1e-9);
    }

    #[test]
    fn climatology_needs_a_record_and_takes_the_month_where_it_has_one() {
        let mut record = Vec::new();
        let mut on = date(2026, 4, 1);
        for i in 0..59 {
            // A dry April, a May with rain every third day.
            record.push(day(
                on,
                if on.month() == 5 && i % 3 == 0 {
                    9.0
                } else {
                    0.0
                },
            ));
            on = on.checked_add(1.day()).unwrap();
        }
        assert_eq!(Climatology::of(&record).chance(on), None);
        record.push(day(on, 0.0));
        let climatology = Climatology::of(&record);
        assert_eq!(
            climatology.chance(date(2026, 4, 20)),
            Some(RainChance::NONE)
        );
        let may = climatology.chance(date(2026, 5, 20)).unwrap();
        assert!(
            (may.probability - 10.0 / 30.0).abs() < 0.04 && (may.amount.mm() - 9.0).abs() < 1e-9
        );
        // June is not in the record: all of it stands in.
        let june = climatology.chance(date(2026, 6, 20)).unwrap();
        assert!(june.probability > 0.1 && june.probability < may.probability);
    }

    #[test]
    fn rain_within_some_days_is_the_complement_of_none() {
        let rain = RainChance {
            probability: 0.5,
            amount: Depth::from_mm(10.0),
            exact: true,
        };
        let (p, mm) = Outlook::of_days(days(rain)).rain_within(2, 2);
        assert!((p - 0.75).abs() < 1e-12 && (mm.mm() - 10.0).abs() < 1e-9);
    }
}
