//! Generated climates against published normals and against an open daily series.

use jiff::civil::{Date, date};
use standins::climate::Climate;
use standins::weather::{Day, Place, Weather};

const YEARS: i16 = 30;

fn place(latitude_deg: f64) -> Place {
    Place {
        latitude_deg,
        elevation_m: 50.0,
    }
}

fn thirty_years(climate: Climate, latitude: f64) -> Vec<Day> {
    Weather::new(7, climate, place(latitude)).days(date(1991, 1, 1), date(1990 + YEARS, 12, 31))
}

fn mean(values: impl Iterator<Item = f64>) -> f64 {
    let (sum, n) = values.fold((0.0, 0.0), |(s, n), x| (s + x, n + 1.0));
    sum / n
}

fn month_mean_c(days: &[Day], month: i8) -> f64 {
    mean(
        days.iter()
            .filter(|d| d.date.month() == month)
            .map(|d| f64::midpoint(d.tmin_c, d.tmax_c)),
    )
}

fn yearly_rain_mm(days: &[Day]) -> f64 {
    days.iter().map(|d| d.rain_mm).sum::<f64>() / f64::from(YEARS)
}

/// NOAA U.S. Climate Normals 1991–2020 (and, for the southern Mediterranean, the Bureau of Meteorology's long-term means), from memory,
/// rounded: rain of the year in mm, mean temperature of January and July. Tolerances: a fifth of the rain, 2 °C. Stations of such a
/// climate, not the place of a site: Greensboro, Seattle, Perth, Tallahassee, Minneapolis.
#[test]
fn each_climate_has_the_rain_and_the_temperatures_of_its_like() {
    for (climate, latitude, rain, january, july) in [
        (Climate::Transition, 36.0, 1150.0, 4.5, 26.0),
        (Climate::HumidCool, 47.5, 1000.0, 5.5, 19.0),
        (Climate::MediterraneanDry, -32.0, 730.0, 24.5, 13.0),
        (Climate::HumidSubtropical, 30.4, 1500.0, 11.5, 27.8),
        (Climate::Continental, 44.9, 800.0, -8.5, 23.5),
    ] {
        let days = thirty_years(climate, latitude);
        let got = yearly_rain_mm(&days);
        assert!(
            (got / rain - 1.0).abs() < 0.2,
            "{climate:?}: {got:.0} mm a year"
        );
        for (month, normal) in [(1, january), (7, july)] {
            let got = month_mean_c(&days, month);
            assert!(
                (got - normal).abs() < 2.0,
                "{climate:?}, month {month}: {got:.1} °C"
            );
        }
    }
}

struct Figures {
    wet_share: f64,
    wet_spell: f64,
    dry_spell: f64,
    per_wet_day: f64,
    spread_c: f64,
}

/// Of days with date, rain and mean temperature. A wet day has 1 mm or more.
fn figures(days: &[(Date, f64, f64)]) -> Figures {
    let wet = |d: &(Date, f64, f64)| d.1 >= 1.0;
    let count = |n: usize| f64::from(u32::try_from(n).unwrap());
    let wet_days = count(days.iter().filter(|d| wet(d)).count());
    let begins = |state: bool| {
        count(
            days.windows(2)
                .filter(|w| wet(&w[0]) != state && wet(&w[1]) == state)
                .count(),
        )
    };
    let monthly = |month: i8| {
        let of = |f: fn(f64) -> f64, about: f64| {
            mean(
                days.iter()
                    .filter(|d| d.0.month() == month)
                    .map(|d| f(d.2 - about)),
            )
        };
        of(|x| x * x, of(|x| x, 0.0)).sqrt()
    };
    Figures {
        wet_share: wet_days / count(days.len()),
        wet_spell: wet_days / begins(true),
        dry_spell: (count(days.len()) - wet_days) / begins(false),
        per_wet_day: days.iter().filter(|d| wet(d)).map(|d| d.1).sum::<f64>() / wet_days,
        spread_c: mean((1..=12).map(monthly)),
    }
}

/// Daily Seattle weather 2012–2015 (tests/data/README.md) against thirty generated years of the maritime climate. Four years of record
/// vary: tolerances are a fifth, a quarter for the mean spells.
#[test]
fn the_maritime_climate_has_the_spells_and_spreads_of_an_open_series() {
    let mut reader =
        csv::Reader::from_reader(include_str!("../data/seattle-weather.csv").as_bytes());
    let measured: Vec<(Date, f64, f64)> = reader
        .records()
        .map(|r| {
            let r = r.unwrap();
            let number = |i: usize| r[i].parse::<f64>().unwrap();
            (
                r[0].parse().unwrap(),
                number(1),
                f64::midpoint(number(2), number(3)),
            )
        })
        .collect();
    assert_eq!(measured.len(), 1461);
    let generated: Vec<(Date, f64, f64)> = thirty_years(Climate::HumidCool, 47.5)
        .into_iter()
        .map(|d| (d.date, d.rain_mm, f64::midpoint(d.tmin_c, d.tmax_c)))
        .collect();
    let (m, g) = (figures(&measured), figures(&generated));
    for (what, measured, generated, tolerance) in [
        ("share of wet days", m.wet_share, g.wet_share, 0.2),
        ("mean wet spell", m.wet_spell, g.wet_spell, 0.25),
        ("mean dry spell", m.dry_spell, g.dry_spell, 0.25),
        ("rain of a wet day", m.per_wet_day, g.per_wet_day, 0.2),
        (
            "spread of temperature within a month",
            m.spread_c,
            g.spread_c,
            0.2,
        ),
    ] {
        assert!(
            (generated / measured - 1.0).abs() < tolerance,
            "{what}: measured {measured:.2}, generated {generated:.2}"
        );
    }
}

#[test]
fn a_day_is_the_same_whichever_stretch_it_is_asked_in_and_holds_as_weather() {
    for climate in Climate::ALL {
        let weather = Weather::new(21, climate, place(-34.0));
        let stretch = weather.days(date(2025, 12, 20), date(2026, 3, 1));
        for day in &stretch {
            assert_eq!(*day, weather.day(day.date));
            assert!(day.tmin_c < day.tmax_c && day.rh_min_pct <= day.rh_max_pct);
            let clear = 41.0;
            assert!(day.solar_mj_m2 > 0.0 && day.solar_mj_m2 < clear);
        }
        assert_ne!(
            stretch,
            Weather::new(22, climate, place(-34.0)).days(date(2025, 12, 20), date(2026, 3, 1))
        );
    }
}

#[test]
fn south_of_the_equator_january_is_summer() {
    let days = thirty_years(Climate::Transition, -34.0);
    assert!(month_mean_c(&days, 1) > month_mean_c(&days, 7) + 15.0);
}

#[test]
fn there_are_heat_waves_and_dry_spells() {
    let days = thirty_years(Climate::Transition, 36.4);
    let longest = |is: &dyn Fn(&Day) -> bool| {
        days.iter()
            .fold((0, 0), |(run, most), d| {
                let run = if is(d) { run + 1 } else { 0 };
                (run, most.max(run))
            })
            .1
    };
    let hot = longest(&|d| d.tmax_c >= 35.0);
    let dry = longest(&|d| d.rain_mm < 1.0);
    assert!((4..30).contains(&hot), "{hot} days of 35 °C running");
    assert!((18..60).contains(&dry), "{dry} days without rain");
    let storm = days.iter().map(|d| d.rain_mm).fold(0.0, f64::max);
    assert!(
        (60.0..220.0).contains(&storm),
        "{storm} mm on the wettest day of thirty years"
    );
}
