//! Reference ET of a year of complete days; `compare_refet.py` runs the same beside `refet` in one go.

use criterion::{Criterion, Throughput, criterion_group, criterion_main};
use science::reference_et::{Choice, Day, Place, Station};
use std::hint::black_box;

fn a_year(c: &mut Criterion) {
    let station = Station::new(&Place {
        latitude_deg: 36.4,
        elevation_m: 310.0,
        wind_height_m: 2.0,
    });
    let days: Vec<(u16, Day)> = (1..=365u16)
        .map(|day_of_year| {
            let warmth = f64::from(day_of_year % 30) / 3.0;
            (
                day_of_year,
                Day {
                    tmin_c: 8.0 + warmth,
                    tmax_c: 21.0 + warmth,
                    rh_min_pct: Some(45.0),
                    rh_max_pct: Some(92.0),
                    solar_mj_m2: Some(8.0 + warmth),
                    wind_m_s: Some(2.1),
                    ..Day::default()
                },
            )
        })
        .collect();
    let mut group = c.benchmark_group("reference_et");
    group.throughput(Throughput::Elements(365));
    group.bench_function("year_of_penman_monteith", |b| {
        b.iter(|| {
            days.iter()
                .map(|(j, day)| {
                    station
                        .reference_et(*j, black_box(day), Choice::Auto)
                        .map_or(0.0, |et| et.et0_mm)
                })
                .sum::<f64>()
        });
    });
    group.finish();
}

criterion_group!(benches, a_year);
criterion_main!(benches);
