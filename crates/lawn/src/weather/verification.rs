//! How past forecasts turned out: probabilities against rain that fell, temperatures against those measured.

use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::weather::WeatherDay;

/// Rain from this depth on counts as rain that fell, mm: what a gauge can tell from dew.
pub const FELL_MM: f64 = 0.2;
/// Bins of probability.
const BINS: usize = 5;

/// A day as it was forecast, so many days ahead.
#[derive(Debug, Clone, PartialEq)]
pub struct Forecast {
    /// Days from issue to the day.
    pub lead: u8,
    /// What was said; rain is the mean amount given rain.
    pub day: WeatherDay,
}

/// Days given a probability within a bin, and how many of them turned wet.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
pub struct Reliability {
    /// Least probability of the bin, %.
    pub from_pct: f64,
    /// Greatest, %.
    pub to_pct: f64,
    /// Days.
    pub days: u32,
    /// Of which rain fell.
    pub wet: u32,
    /// Mean probability said, %; 0 without days.
    pub said_pct: f64,
}

/// Forecasts of one lead.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
pub struct LeadScore {
    /// Days from issue to the day.
    pub lead: u8,
    /// Days compared for rain.
    pub rain_days: u32,
    /// Brier score of the probabilities, 0 is perfect; 0 without days.
    pub brier: f64,
    /// That of always saying the share of wet days, for comparison.
    pub brier_of_share: f64,
    /// Days compared for temperature.
    pub temperature_days: u32,
    /// Mean absolute error of the greatest temperature, °C; 0 without days.
    pub tmax_error_c: f64,
}

/// How forecasts turned out.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Verification {
    /// By probability, over all leads.
    pub reliability: Vec<Reliability>,
    /// By lead.
    pub leads: Vec<LeadScore>,
}

fn count(n: u32) -> f64 {
    f64::from(n.max(1))
}

/// Compares forecasts with the days as observed, which must be in date order; days not observed are left out.
#[must_use]
pub fn verify(forecasts: &[Forecast], observed: &[WeatherDay]) -> Verification {
    let found = |date: Date| {
        observed
            .binary_search_by_key(&date, |d| d.date)
            .ok()
            .map(|i| &observed[i])
    };
    let width = 100.0 / 5.0;
    let mut reliability: Vec<Reliability> = (0..5u8)
        .map(|bin| Reliability {
            from_pct: width * f64::from(bin),
            to_pct: width * f64::from(bin + 1),
            ..Reliability::default()
        })
        .collect();
    let mut leads: Vec<LeadScore> = Vec::new();
    let mut wet_by_lead: Vec<u32> = Vec::new();
    for forecast in forecasts {
        let Some(truth) = found(forecast.day.date) else {
            continue;
        };
        let at = usize::from(forecast.lead);
        while leads.len() <= at {
            leads.push(LeadScore {
                lead: u8::try_from(leads.len()).unwrap_or(u8::MAX),
                ..LeadScore::default()
            });
            wet_by_lead.push(0);
        }
        let score = &mut leads[at];
        if let (Some(p), Some(rain)) = (forecast.day.rain_probability_pct, truth.rain_mm) {
            let wet = rain >= FELL_MM;
            let happened = f64::from(u8::from(wet));
            score.rain_days += 1;
            score.brier += (p / 100.0 - happened).powi(2);
            wet_by_lead[at] += u32::from(wet);
            if let Some(bin) = reliability
                .iter_mut()
                .take(BINS)
                .find(|b| p < b.to_pct || b.to_pct >= 100.0)
            {
                bin.days += 1;
                bin.wet += u32::from(wet);
                bin.said_pct += p;
            }
        }
        if let (Some(said), Some(was)) = (forecast.day.tmax_c, truth.tmax_c) {
            score.temperature_days += 1;
            score.tmax_error_c += (said - was).abs();
        }
    }
    for bin in &mut reliability {
        bin.said_pct /= count(bin.days);
    }
    for (score, wet) in leads.iter_mut().zip(wet_by_lead) {
        score.brier /= count(score.rain_days);
        let share = f64::from(wet) / count(score.rain_days);
        score.brier_of_share = share * (1.0 - share);
        score.tmax_error_c /= count(score.temperature_days);
    }
    Verification { reliability, leads }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn day(d: i8, rain_mm: f64, p: Option<f64>) -> WeatherDay {
        WeatherDay {
            date: date(2026, 6, d),
            tmax_c: Some(30.0),
            rain_mm: Some(rain_mm),
            rain_probability_pct: p,
            ..WeatherDay::default()
        }
    }

    #[test]
    fn of_ten_days_at_sixty_percent_six_were_wet() {
        let observed: Vec<WeatherDay> = (1..=10)
            .map(|d| day(d, if d <= 6 { 4.0 } else { 0.0 }, None))
            .collect();
        let forecasts: Vec<Forecast> = (1..=12)
            .map(|d| Forecast {
                lead: 1,
                day: WeatherDay {
                    tmax_c: Some(32.0),
                    ..day(d, 5.0, Some(60.0))
                },
            })
            .collect();
        let v = verify(&forecasts, &observed);
        let bin = v.reliability[3];
        assert_eq!((bin.from_pct, bin.days, bin.wet), (60.0, 10, 6));
        assert!((bin.said_pct - 60.0).abs() < 1e-12);
        // Brier (1950) of a forecast that says the share itself is p (1 − p).
        assert!((v.leads[1].brier - 0.24).abs() < 1e-12);
        assert!((v.leads[1].brier_of_share - 0.24).abs() < 1e-12);
        assert!((v.leads[1].tmax_error_c - 2.0).abs() < 1e-12);
        assert_eq!(v.leads[0].rain_days, 0);
    }

    #[test]
    fn a_certain_and_right_forecast_scores_nothing() {
        let observed = [day(1, 8.0, None)];
        let forecasts = [Forecast {
            lead: 0,
            day: day(1, 8.0, Some(100.0)),
        }];
        let v = verify(&forecasts, &observed);
        assert_eq!(v.leads[0].brier, 0.0);
        assert_eq!(v.reliability[4].wet, 1);
    }
}
