//! A year's replay of eight zones, and one week's plan with its reasons.

use criterion::{Criterion, criterion_group, criterion_main};
use jiff::ToSpan;
use jiff::civil::date;
use lawn::plan::{Known, plan_week};
use lawn::replay::{Foresight, replay};
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use std::hint::black_box;

const SITE: &str = include_str!("../../../docs/formats/site.example.json");

/// 400 days, a wet one in six.
fn record(site: &lawn::site::SiteDocument) -> Vec<DailyWeather> {
    let days: Vec<WeatherDay> = (0..400i32)
        .filter_map(|i| {
            let summer = (f64::from(i) / 365.0 * std::f64::consts::TAU).sin();
            Some(WeatherDay {
                date: date(2025, 4, 1).checked_add(i.days()).ok()?,
                tmin_c: Some(9.0 + 8.0 * summer),
                tmax_c: Some(22.0 + 9.0 * summer),
                rain_mm: Some(if i % 6 == 0 {
                    f64::from(i % 17) * 1.5
                } else {
                    0.0
                }),
                ..WeatherDay::default()
            })
        })
        .collect();
    weather::series(&weather::place(&site.site), &days, Gaps::Refuse).unwrap_or_default()
}

fn benches(c: &mut Criterion) {
    let Ok(mut site) = lawn::document::read(SITE) else {
        panic!("the example reads")
    };
    for zone in &mut site.zones {
        zone.active_from = None;
        zone.regime = lawn::site::Regime::Established;
    }
    let record = record(&site);
    let (from, to) = (record[20].date, record[384].date);
    for (name, foresight) in [("none", Foresight::None), ("perfect", Foresight::Perfect)] {
        c.bench_function(&format!("replay_year_eight_zones_{name}"), |b| {
            b.iter(|| {
                replay(black_box(&site), &record, from, to, foresight).map(|rows| rows.len())
            });
        });
    }
    c.bench_function("plan_week_eight_zones", |b| {
        b.iter(|| {
            plan_week(&Known {
                document: black_box(&site),
                observed: &record[..120],
                forecast: &[],
                runs: &[],
                today: record[120].date,
                now: None,
            })
            .map(|plan| plan.zones.len())
        });
    });
}

criterion_group!(all, benches);
criterion_main!(all);
