//! Forecasts: probabilities mean what they say, errors grow with lead, nothing is issued twice differently.

use jiff::ToSpan;
use jiff::civil::date;
use standins::climate::Climate;
use standins::forecast::DAYS;
use standins::weather::{Place, Weather};

fn weather(climate: Climate) -> Weather {
    let place = Place {
        latitude_deg: 36.4,
        elevation_m: 310.0,
    };
    Weather::new(21, climate, place)
}

/// The reliability table: of the days given 55 to 65 %, 57 to 63 % turn wet, and so in every tenth, at every lead.
#[test]
fn of_the_days_given_sixty_percent_about_sixty_percent_turn_wet() {
    let mut table = [[(0u32, 0u32, 0.0f64); 11]; DAYS];
    for climate in Climate::ALL {
        let weather = weather(climate);
        let mut issued = date(2005, 1, 1);
        for _ in 0..365 * 5 {
            for (lead, day) in weather.forecast(issued).into_iter().enumerate() {
                let p = day.rain_probability_pct.unwrap();
                let tenth = (p / 10.0).round();
                let bin = (0..=10u8)
                    .find(|b| (f64::from(*b) - tenth).abs() < 0.5)
                    .unwrap();
                let cell = &mut table[lead][usize::from(bin)];
                cell.0 += 1;
                cell.1 += u32::from(weather.day(day.date).rain_mm > 0.0);
                cell.2 += p;
            }
            issued = issued.checked_add(1.day()).unwrap();
        }
    }
    for (lead, bins) in table.iter().enumerate() {
        for (bin, &(n, wet, sum)) in bins.iter().enumerate() {
            if n < 300 {
                continue;
            }
            let said = sum / f64::from(n) / 100.0;
            let got = f64::from(wet) / f64::from(n);
            // Four standard errors, and the rounding of the probability.
            let slack = 4.0 * (said * (1.0 - said) / f64::from(n)).sqrt() + 0.006;
            assert!(
                (got - said).abs() < slack,
                "lead {lead}, {bin}0 %: said {said:.3}, {got:.3} of {n}"
            );
        }
    }
}

#[test]
fn errors_grow_with_lead() {
    let weather = weather(Climate::Transition);
    let mut brier = [0.0; DAYS];
    let mut celsius = [0.0; DAYS];
    let (mut humid, mut wind) = ([0.0; DAYS], [0.0; DAYS]);
    let mut issued = date(2010, 1, 1);
    for _ in 0..1500 {
        for (lead, day) in weather.forecast(issued).into_iter().enumerate() {
            let truth = weather.day(day.date);
            let wet = if truth.rain_mm > 0.0 { 1.0 } else { 0.0 };
            brier[lead] += (day.rain_probability_pct.unwrap() / 100.0 - wet).powi(2);
            celsius[lead] += (day.tmax_c - truth.tmax_c).abs();
            humid[lead] += (day.rh_min_pct - truth.rh_min_pct).abs();
            wind[lead] += (day.wind_m_s / truth.wind_m_s).ln().abs();
        }
        issued = issued.checked_add(1.day()).unwrap();
    }
    for lead in 1..DAYS {
        assert!(brier[lead] > brier[lead - 1], "{brier:?}");
        assert!(celsius[lead] > celsius[lead - 1], "{celsius:?}");
        assert!(humid[lead] > humid[lead - 1], "{humid:?}");
        assert!(wind[lead] > wind[lead - 1], "{wind:?}");
    }
}

#[test]
fn a_forecast_is_the_same_however_often_it_is_asked_and_reads_as_weather() {
    let weather = weather(Climate::Continental);
    let issued = date(2026, 6, 18);
    let days = weather.forecast(issued);
    assert_eq!(days, weather.forecast(issued));
    assert_eq!(days.len(), DAYS);
    assert_eq!(days[0].date, issued);
    assert!(
        days.iter()
            .all(|d| d.rain_mm > 0.0 && d.tmin_c < d.tmax_c && d.rh_min_pct <= d.rh_max_pct)
    );
}
