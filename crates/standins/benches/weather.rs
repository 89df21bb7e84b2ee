//! A year of a site's weather, and one forecast.

use criterion::{Criterion, criterion_group, criterion_main};
use jiff::civil::date;
use standins::climate::Climate;
use standins::weather::{Place, Weather};
use std::hint::black_box;

fn benches(c: &mut Criterion) {
    let place = Place {
        latitude_deg: 36.4,
        elevation_m: 310.0,
    };
    let weather = Weather::new(21, Climate::Transition, place);
    c.bench_function("weather_one_year", |b| {
        b.iter(|| {
            weather
                .days(black_box(date(2025, 1, 1)), date(2025, 12, 31))
                .len()
        });
    });
    c.bench_function("weather_one_forecast", |b| {
        b.iter(|| weather.forecast(black_box(date(2025, 6, 18))).len());
    });
}

criterion_group!(all, benches);
criterion_main!(all);
