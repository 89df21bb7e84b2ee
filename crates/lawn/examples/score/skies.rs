//! The weather that the sites are scored over: five simulated climates with their forecasts as issued, and an open daily series.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::site::SiteDocument;
use lawn::weather::issued::Issued;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use standins::climate::Climate;
use standins::weather::{Day, Place, Weather};

/// Daily weather of Seattle, 2012 to 2015 (see the README beside it).
const OPEN: &str = include_str!("../../../standins/tests/data/seattle-weather.csv");

/// A sky over a site.
pub struct Sky {
    pub name: String,
    pub record: Vec<DailyWeather>,
    /// None for an open series: nobody kept its forecasts.
    pub issued: Option<Issued>,
    pub from: Date,
    pub to: Date,
}

pub const CLIMATES: [(&str, Climate); 5] = [
    ("transition", Climate::Transition),
    ("humid cool", Climate::HumidCool),
    ("mediterranean dry", Climate::MediterraneanDry),
    ("humid subtropical", Climate::HumidSubtropical),
    ("continental", Climate::Continental),
];

/// A climate over so many years to the end of 2025, after one more from which climatology is known.
pub fn simulated(
    name: &str,
    climate: Climate,
    seed: u64,
    years: i16,
    document: &SiteDocument,
) -> Result<Sky, String> {
    let place = Place {
        latitude_deg: document.site.latitude,
        elevation_m: document.site.elevation_m,
    };
    let weather = Weather::new(seed, climate, place);
    let from = date(2026 - years, 1, 1);
    let to = date(2025, 12, 31);
    // Past the last day there is weather to come.
    let days = weather.days(from.saturating_sub(1.year()), to.saturating_add(25.days()));
    let days: Vec<WeatherDay> = days.iter().map(told).collect();
    let mut issued = Issued::default();
    let mut on = from;
    while on <= to {
        for day in weather.forecast(on) {
            issued.add(on, told(&day));
        }
        on = on.saturating_add(1.day());
    }
    Ok(Sky {
        name: name.to_owned(),
        record: series(document, &days)?,
        issued: Some(issued),
        from,
        to,
    })
}

/// The open series, its first year as what is known before.
pub fn open(document: &SiteDocument) -> Result<Sky, String> {
    let mut days = Vec::new();
    for line in OPEN.lines().skip(1) {
        let cells: Vec<&str> = line.split(',').collect();
        let number = |i: usize| cells.get(i).and_then(|c| c.parse().ok());
        let date = cells
            .first()
            .and_then(|c| Date::strptime("%Y-%m-%d", c).ok());
        days.push(WeatherDay {
            date: date.ok_or("the open series has a line without a date")?,
            rain_mm: number(1),
            tmax_c: number(2),
            tmin_c: number(3),
            wind_m_s: number(4),
            ..WeatherDay::default()
        });
    }
    Ok(Sky {
        name: "Seattle".to_owned(),
        record: series(document, &days)?,
        issued: None,
        from: date(2013, 1, 1),
        to: date(2015, 12, 1),
    })
}

fn series(document: &SiteDocument, days: &[WeatherDay]) -> Result<Vec<DailyWeather>, String> {
    weather::series(&weather::place(&document.site), days, Gaps::Refuse).map_err(|e| e.to_string())
}

fn told(day: &Day) -> WeatherDay {
    WeatherDay {
        date: day.date,
        tmin_c: Some(day.tmin_c),
        tmax_c: Some(day.tmax_c),
        rh_min_pct: Some(day.rh_min_pct),
        rh_max_pct: Some(day.rh_max_pct),
        solar_mj_m2: Some(day.solar_mj_m2),
        wind_m_s: Some(day.wind_m_s),
        rain_mm: Some(day.rain_mm),
        rain_probability_pct: day.rain_probability_pct,
        ..WeatherDay::default()
    }
}
