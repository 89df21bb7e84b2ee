//! Forecasts as issued: which of them a morning knows.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::replay::{Foresight, replay};
use lawn::weather::file::read_issued;
use lawn::weather::issued::Issued;
use lawn::weather::{self, DailyWeather};
use standins::climate::Climate;
use standins::weather::{Place, Weather};

use crate::fixture::{dry, series, site, zone};

const FILE: &str = "issued,date,tmin_c,tmax_c,rain_mm,rain_probability_pct
2026-06-10,2026-06-10,15,30,4,20
2026-06-10,2026-06-14,15,34,9,70
2026-06-12,2026-06-12,16,31,5,30
2026-06-12,2026-06-13,16,32,6,40
";

fn on(morning: Date) -> Vec<DailyWeather> {
    let document = site(vec![zone("a")]);
    let file = read_issued(FILE);
    assert_eq!(file.errors, []);
    let place = weather::place(&document.site);
    let issued = Issued::of_file(&file);
    let mut observed = dry(&document, 30);
    observed.retain(|d| d.date < morning);
    issued.on(morning, &place, &observed).unwrap()
}

#[test]
fn a_morning_knows_the_newest_issue_of_at_most_three_days_before() {
    // 12 June: its own issue; 13 June: of the day before, from that day on; 15 June: nothing of it is left; 16 June: too old.
    let dates = |morning: Date| on(morning).iter().map(|d| d.date.day()).collect::<Vec<_>>();
    assert_eq!(dates(date(2026, 6, 12)), [12, 13]);
    assert_eq!(dates(date(2026, 6, 13)), [13]);
    assert_eq!(dates(date(2026, 6, 15)), [] as [i8; 0]);
    assert_eq!(dates(date(2026, 6, 16)), [] as [i8; 0]);
    assert_eq!(dates(date(2026, 6, 9)), [] as [i8; 0]);
    // The issue of the 10th has a gap, which is filled.
    let early = on(date(2026, 6, 11));
    let rain: Vec<f64> = early.iter().map(|d| d.rain.mm()).collect();
    assert_eq!(rain, [0.0, 0.0, 0.0, 9.0]);
    assert!(early[0].method.is_none() && early[3].method.is_some());
}

#[test]
fn a_pair_given_twice_and_a_missing_column_are_named() {
    let twice = read_issued(&format!("{FILE}2026-06-12,2026-06-13,16,32,6,40\n"));
    assert_eq!(
        twice.repeated()[0].to_string(),
        "line 6, column date: 2026-06-13, issued 2026-06-12, stands already on line 5"
    );
    let without = read_issued("date,tmin_c,tmax_c\n2026-06-12,10,20\n");
    assert_eq!(
        without.errors[0].to_string(),
        "line 1, column issued: no such column in the header"
    );
    let bad = read_issued("issued,date,tmin_c\nsoon,2026-06-12,10\n");
    assert_eq!(
        bad.errors[0].to_string(),
        "line 2, column issued: \"soon\" is not a date, YYYY-MM-DD"
    );
}

/// Forecasts that are the weather itself, with rain certain, are worth nearly what hindsight is; none are worth less.
#[test]
fn better_forecasts_take_less_water() {
    let document = site(vec![zone("a"), zone("b")]);
    let place = Place {
        latitude_deg: 36.4,
        elevation_m: 310.0,
    };
    let made_up = Weather::new(11, Climate::HumidSubtropical, place);
    let told = |d: standins::weather::Day| weather::WeatherDay {
        date: d.date,
        tmin_c: Some(d.tmin_c),
        tmax_c: Some(d.tmax_c),
        solar_mj_m2: Some(d.solar_mj_m2),
        wind_m_s: Some(d.wind_m_s),
        rain_mm: Some(d.rain_mm),
        rain_probability_pct: d.rain_probability_pct,
        ..weather::WeatherDay::default()
    };
    let (from, to) = (date(2023, 1, 1), date(2025, 12, 31));
    let days: Vec<_> = made_up
        .days(date(2022, 1, 1), to)
        .into_iter()
        .map(told)
        .collect();
    let record = series(&document, &days);
    let mut issued = Issued::default();
    let mut day = from;
    while day <= to {
        for ahead in made_up.forecast(day) {
            issued.add(day, told(ahead));
        }
        day = day.saturating_add(1.day());
    }
    let net = |foresight| -> f64 {
        let rows = replay(&document, &record, from, to, foresight).unwrap();
        rows.iter().map(|r| r.balance.irrigation.net.mm()).sum()
    };
    let (none, known, perfect) = (
        net(Foresight::None),
        net(Foresight::Issued(&issued)),
        net(Foresight::Perfect),
    );
    assert!(perfect < known && known < none, "{perfect} {known} {none}");
}
