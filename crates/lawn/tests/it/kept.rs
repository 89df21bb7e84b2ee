//! Numbers that stay while the code changes its shape: replays of the example site over an open daily series, and one week's plan.
//! A change that is meant to alter them records them anew (`RECORD_KEPT=1 cargo test -p lawn kept`) and says so in its commit and in
//! CHANGELOG. Data: crates/lawn/tests/data/README.md.

use std::fmt::Write;
use std::path::PathBuf;

use jiff::civil::{Date, date};
use lawn::engine::replay::{Foresight, replay};
use lawn::site::{Regime, SiteDocument};
use lawn::view::plan::{Known, plan_week};
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use serde_json::{Value, json};

const SERIES: &str = include_str!("../../../standins/tests/data/seattle-weather.csv");
/// The example site.
pub const SITE: &str = include_str!("../../../../docs/formats/site.example.json");
const TOLERANCE: f64 = 1e-6;

/// The open daily series.
pub fn days() -> Vec<WeatherDay> {
    let mut reader = csv::Reader::from_reader(SERIES.as_bytes());
    reader
        .records()
        .map(|row| {
            let row = row.unwrap();
            let number = |i: usize| Some(row[i].parse::<f64>().unwrap());
            WeatherDay {
                date: row[0].parse().unwrap(),
                rain_mm: number(1),
                tmax_c: number(2),
                tmin_c: number(3),
                wind_m_s: number(4),
                ..WeatherDay::default()
            }
        })
        .collect()
}

fn series(document: &SiteDocument, days: &[WeatherDay]) -> Vec<DailyWeather> {
    weather::series(&weather::place(&document.site), days, Gaps::Refuse).unwrap()
}

fn recorded(name: &str, now: &str) -> String {
    let path: PathBuf = [env!("CARGO_MANIFEST_DIR"), "tests", "data", "kept", name]
        .iter()
        .collect();
    if std::env::var_os("RECORD_KEPT").is_some() {
        std::fs::write(&path, now).unwrap();
    }
    std::fs::read_to_string(&path).unwrap()
}

/// A line a day: of each zone its depletion and what it was given, mm.
fn table(document: &SiteDocument, foresight: Foresight) -> String {
    let record = series(document, &days());
    let (from, to) = (record[0].date, record[record.len() - 1].date);
    let rows = replay(document, &record, from, to, foresight).unwrap();
    let mut text = String::new();
    let mut last: Option<Date> = None;
    for row in &rows {
        if last != Some(row.date) {
            if last.is_some() {
                text.push('\n');
            }
            write!(text, "{}", row.date).unwrap();
            last = Some(row.date);
        }
        let number = |mm: f64| {
            let text = format!("{mm:.7}");
            text.trim_end_matches('0').trim_end_matches('.').to_owned()
        };
        let (depletion, net) = (row.balance.end.mm(), row.balance.irrigation.net.mm());
        write!(text, ",{},{}", number(depletion), number(net)).unwrap();
    }
    text.push('\n');
    text
}

/// The example site with its rooted zones; new grass, which has tests of its own, is off.
fn rooted() -> SiteDocument {
    let mut document = lawn::site::document::read(SITE).unwrap();
    let new_grass = document
        .zones
        .iter_mut()
        .filter(|z| z.regime.is_new_grass());
    for zone in new_grass {
        zone.regime = Regime::Off;
    }
    document
}

#[test]
fn replays_of_the_example_site_stay_as_they_were() {
    let mut document = rooted();
    for zone in &mut document.zones {
        zone.active_from = None;
    }
    for (name, foresight) in [
        ("simulate-none.csv", Foresight::None),
        ("simulate-perfect.csv", Foresight::Perfect),
    ] {
        let now = table(&document, foresight);
        let kept = recorded(name, &now);
        assert_eq!(kept.lines().count(), 1461, "{name}");
        assert_eq!(kept.lines().count(), now.lines().count());
        for (kept, now) in kept.lines().zip(now.lines()) {
            let mut cells = kept.split(',').zip(now.split(','));
            let (day, today) = cells.next().unwrap();
            assert_eq!(day, today);
            assert_eq!(kept.split(',').count(), now.split(',').count());
            for (i, (kept, now)) in cells.enumerate() {
                let gap = kept.parse::<f64>().unwrap() - now.parse::<f64>().unwrap();
                assert!(
                    gap.abs() < TOLERANCE,
                    "{name} {day}, zone {}: {kept} was kept, now {now}",
                    i / 2
                );
            }
        }
    }
}

#[test]
fn a_weeks_plan_stays_as_it_was() {
    let document = rooted();
    let all = days();
    let today = date(2014, 7, 11);
    let at = all.iter().position(|d| d.date == today).unwrap();
    let record = series(&document, &all[..at]);
    // Likely rain from the fourth day on, by the file's own amounts.
    let forecast: Vec<WeatherDay> = all[at..at + 7]
        .iter()
        .enumerate()
        .map(|(i, day)| WeatherDay {
            rain_mm: Some(if i > 2 { 6.0 } else { 0.0 }),
            rain_probability_pct: Some(if i > 2 { 55.0 } else { 0.0 }),
            ..day.clone()
        })
        .collect();
    let place = weather::place(&document.site);
    let forecast = weather::continued(&place, &record, &forecast, Gaps::Refuse).unwrap();
    let plan = plan_week(&Known {
        forecast: &forecast,
        ..Known::of_record(&document, &record, today)
    })
    .unwrap();
    let plan = serde_json::to_value(&plan).unwrap();
    let zones: Vec<Value> = plan["zones"]
        .as_array()
        .unwrap()
        .iter()
        .map(|zone| {
            let cells = zone["cells"].as_array().unwrap().iter().map(|cell| {
                json!({ "state": cell["state"], "run": cell["run"], "depletion_mm": cell["depletion_mm"] })
            });
            json!({ "name": zone["name"], "totals": zone["totals"], "cells": cells.collect::<Vec<_>>() })
        })
        .collect();
    let now = json!({ "days": plan["days"], "totals": plan["totals"], "next": plan["next"], "zones": zones });
    let states = now.to_string();
    assert!(states.contains("\"water\""));
    let text = serde_json::to_string_pretty(&now).unwrap() + "\n";
    let kept: Value = serde_json::from_str(&recorded("week-plan.json", &text)).unwrap();
    same("", &kept, &now);
}

/// Every key that was kept, with its value; numbers to the tolerance.
fn same(path: &str, kept: &Value, now: &Value) {
    match (kept, now) {
        (Value::Object(kept), Value::Object(now)) => {
            for (key, value) in kept {
                same(&format!("{path}.{key}"), value, &now[key]);
            }
        }
        (Value::Array(kept), Value::Array(now)) => {
            assert_eq!(kept.len(), now.len(), "{path}");
            for (i, (kept, now)) in kept.iter().zip(now).enumerate() {
                same(&format!("{path}[{i}]"), kept, now);
            }
        }
        (Value::Number(kept), Value::Number(now)) => {
            let gap = kept.as_f64().unwrap() - now.as_f64().unwrap();
            assert!(gap.abs() < TOLERANCE, "{path}: {kept} was kept, now {now}");
        }
        _ => assert_eq!(kept, now, "{path}"),
    }
}
