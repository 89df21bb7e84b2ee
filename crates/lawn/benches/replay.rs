//! What is worth measuring on forty zones, a year's replay of eight, one week's plan with its reasons, one comparison of rain and dose, one can test.

use criterion::{Criterion, criterion_group, criterion_main};
use jiff::ToSpan;
use jiff::civil::{Time, date};
use jiff::tz::TimeZone;
use lawn::engine::dose;
use lawn::engine::rain_and_dose::{Choice, compare};
use lawn::engine::replay::{Foresight, replay};
use lawn::engine::slot::{At, HORIZON, RainAhead, Slot, Standing, openings, zone_days};
use lawn::engine::trial::Course;
use lawn::engine::worth_measuring::{TRIED_DAYS, tests_worth_doing, worth_measuring};
use lawn::engine::zone_model::ZoneModel;
use lawn::measure::cans::{CanTest, Container, Fate, TestCan};
use lawn::measure::outline::Point;
use lawn::measure::result::{Tested, of_cans};
use lawn::new_grass::method::Method;
use lawn::new_grass::weeks::{InHours, weeks};
use lawn::quantity::Volume;
use lawn::site::{DateRule, Regime, Weekday, Window, Zone, calendar};
use lawn::stress::decide::decide;
use lawn::view::plan::{Known, Past, plan_week};
use lawn::view::scarcity::scarcity;
use lawn::wanted::always;
use lawn::weather::outlook::{Climatology, Outlook};
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use science::sprinkler::Kind;
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

/// Thirty-one years, a wet day in six until June, one in twenty after it.
fn past_summers(site: &lawn::site::SiteDocument) -> Vec<DailyWeather> {
    let days: Vec<WeatherDay> = (0..31 * 365i32)
        .filter_map(|i| {
            let day_of_year = i % 365;
            let summer = (f64::from(day_of_year - 91) / 365.0 * std::f64::consts::TAU).sin();
            let every = if (180..260).contains(&day_of_year) {
                20
            } else {
                6
            };
            Some(WeatherDay {
                date: date(1995, 1, 1).checked_add(i.days()).ok()?,
                tmin_c: Some(9.0 + 8.0 * summer),
                tmax_c: Some(22.0 + 9.0 * summer),
                rain_mm: Some(if i % every == 0 {
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
    let Ok(mut site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    for zone in &mut site.zones {
        zone.active_from = None;
        zone.regime = lawn::site::Regime::Established;
    }
    let record = record(&site);
    let (from, to) = (record[20].date, record[384].date);
    for (name, foresight) in [
        ("none", Foresight::None),
        ("perfect", Foresight::Perfect),
        ("refills", Foresight::Refills),
    ] {
        c.bench_function(&format!("replay_year_eight_zones_{name}"), |b| {
            b.iter(|| {
                replay(black_box(&site), &record, from, to, foresight).map(|rows| rows.len())
            });
        });
    }
    let summers = past_summers(&site);
    let used = std::collections::BTreeMap::new();
    let mut group = c.benchmark_group("decide");
    group.sample_size(10);
    group.bench_function("thirty_summers_eight_zones", |b| {
        b.iter(|| {
            decide(
                &always,
                black_box(&site),
                &summers,
                begin_date(),
                &used,
                |_, _| (),
            )
            .map(|found| found.summers.len())
        });
    });
    group.finish();
    c.bench_function("plan_week_eight_zones", |b| {
        b.iter(|| {
            plan_week(&Known::of_record(
                black_box(&site),
                &record[..120],
                record[120].date,
            ))
            .map(|plan| plan.zones.len())
        });
    });
}

/// Forty zones of sprays on slow ground, some three passes each, every night six and a half hours.
/// A day of forty seedbeds, their slots among them, from all of its dry record's morning on.
fn seedbeds(c: &mut Criterion) {
    let Ok(mut site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    let record = record(&site);
    let Some(bed) = site.zones.iter().find(|z| z.regime == Regime::Seedbed) else {
        panic!("the example has new grass")
    };
    let beds = (0..40).map(|i| {
        let (id, name) = (format!("bed-{i}"), format!("Bed {i}"));
        Zone {
            id,
            name,
            active_from: None,
            new_grass_by_hand: i % 2 == 0,
            ..bed.clone()
        }
    });
    site.zones = beds.collect();
    site.windows = vec![Window {
        days: Weekday::ALL.to_vec(),
        dates: DateRule::Any,
        from: Time::constant(3, 0, 0, 0),
        to: Time::constant(20, 0, 0, 0),
    }];
    let day = record[80].date;
    c.bench_function("seedbed_day_forty_zones", |b| {
        b.iter(|| replay(black_box(&site), &record, day, day, Foresight::None).map(|r| r.len()));
    });
}

/// Thirty past years of fifty-two start weeks, on rain alone and watered.
fn sowing(c: &mut Criterion) {
    let Ok(site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    let place = site.zones.iter().position(|z| z.regime == Regime::Seedbed);
    let Some(place) = place else {
        panic!("the example has new grass")
    };
    let past = past_summers(&site);
    let (sown, today) = ((site.zones[place].grass, Method::Seed), begin_date());
    c.bench_function("sowing_weeks_thirty_years", |b| {
        b.iter(|| {
            weeks(
                &always,
                black_box(&site),
                place,
                sown,
                InHours::Day,
                &past,
                today,
            )
            .map(|w| w.weeks.len())
        });
    });
}

fn forty_zones(c: &mut Criterion) {
    let Ok(mut site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    let Some(lawn) = site.zones.iter().find(|z| z.sprinkler == Kind::FixedSpray) else {
        panic!("the example has sprays")
    };
    let lawn = Zone {
        active_from: None,
        soil: science::soil::Texture::ClayLoam,
        ..lawn.clone()
    };
    site.zones = (0..40)
        .map(|n| Zone {
            id: format!("lawn-{n}"),
            ..lawn.clone()
        })
        .collect();
    for window in &mut site.windows {
        window.days = lawn::site::Weekday::ALL.to_vec();
        window.from = jiff::civil::time(0, 0, 0, 0);
        window.to = jiff::civil::time(6, 30, 0, 0);
    }
    let record = record(&site);
    c.bench_function("plan_week_forty_zones", |b| {
        b.iter(|| {
            plan_week(&Known::of_record(
                black_box(&site),
                &record[..120],
                record[120].date,
            ))
            .map(|plan| plan.zones.len())
        });
    });
    let dry = Known::of_record(&site, &record[..120], record[120].date);
    let past = Past::of_record(&dry);
    c.bench_function("scarcity_and_its_curve_forty_zones", |b| {
        b.iter(|| {
            scarcity(&dry, black_box(&past), Some(Volume::from_l(50_000.0))).map(|s| s.curve.len())
        });
    });
    let (from, to) = (record[20].date, record[384].date);
    let mut group = c.benchmark_group("forty_zones");
    group.sample_size(10);
    group.bench_function("replay_year_none", |b| {
        b.iter(|| replay(black_box(&site), &record, from, to, Foresight::None).map(|r| r.len()));
    });
    group.finish();
}

fn comparison(c: &mut Criterion) {
    let Ok(site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    let record = record(&site);
    let zone = &site.zones[0];
    let model = ZoneModel::new(zone, &site.controller, site.site.latitude);
    let beyond = weather::ahead(&site.site, &record[..120], &[], record[120].date);
    let outlook = Outlook::new(&beyond, &Climatology::of(&record[..120]), None);
    let days = zone_days(&model, &std::array::from_fn(|day| beyond[day].weather));
    let capacity = dose::capacity(&model, 4 * 3600);
    let slots: Vec<Slot> = (0..HORIZON)
        .map(|day| Slot {
            opening: day,
            opens_s: 0,
            day,
            after_noon: false,
            window_s: 4 * 3600,
            capacity,
            left: capacity,
            standing: Standing::Open,
        })
        .collect();
    let depletion = days[0].raw;
    let choice = Choice {
        least: depletion / 3.0,
        most: depletion,
        may_hold: true,
    };
    c.bench_function("rain_comparison_one_zone_day", |b| {
        let at = At {
            model: &model,
            depletion,
            days: &days,
            slots: &slots,
            here: 0,
            rain: RainAhead::default(),
            lately: lawn::engine::lately::Lately::default(),
        };
        b.iter(|| compare(black_box(&at), choice, &outlook).best);
    });
}

/// A test of 200 cans: figures, patterns and the contours that are drawn.
fn can_test(c: &mut Criterion) {
    let mut cans = Vec::new();
    for i in 0..200u16 {
        let (x, y) = (f64::from(i % 20) * 2.0, f64::from(i / 20) * 2.0);
        cans.push(TestCan {
            number: i + 1,
            place: Point { x_m: x, y_m: y },
            fate: Fate::Read,
            reading: Some(30.0 + (x * 0.7).sin() * 12.0 + y * 0.5),
        });
    }
    let corner = |x_m, y_m| Point { x_m, y_m };
    let test = CanTest {
        corners: vec![
            corner(-1.0, -1.0),
            corner(39.0, -1.0),
            corner(39.0, 19.0),
            corner(-1.0, 19.0),
        ],
        heads: vec![corner(0.0, 0.0), corner(38.0, 0.0), corner(19.0, 18.0)],
        idle_heads: Vec::new(),
        container: Container::Volume {
            throat_cm2: 95.0,
            holds_ml: 300.0,
        },
        minutes: 15.0,
        wind_m_s: Some(1.0),
        pressure_kpa: None,
        cans,
    };
    c.bench_function("can_test_of_200_cans", |b| {
        b.iter(|| {
            let tested = Tested {
                kind: Kind::Rotor,
                date: date(2026, 6, 18),
                week: None,
            };
            of_cans(black_box(&test), &tested).map(|r| r.read)
        });
    });
}

/// What is worth measuring next on forty zones, each planned alone: five sites' worth of the example's eight.
fn worth(c: &mut Criterion) {
    let Ok(site) = lawn::site::document::read(SITE) else {
        panic!("the example reads")
    };
    let zones: Vec<Zone> = (0..5).flat_map(|_| site.zones.clone()).collect();
    let record = record(&site);
    let days = TRIED_DAYS + HORIZON;
    let begin = 100;
    let course_days: Vec<DailyWeather> = record[begin..begin + days].to_vec();
    let zone = site.site.zone().unwrap_or(TimeZone::UTC);
    let calendar = calendar::days(&site, &zone, course_days[0].date, days);
    let openings = openings(&calendar, None);
    c.bench_function("worth_measuring_next_forty_zones", |b| {
        b.iter(|| {
            let worth = zones.iter().map(|zone| {
                let course = Course {
                    days: &course_days,
                    openings: &openings,
                    by_hand: zone.by_hand(),
                    begins: 0.3,
                };
                let worth = worth_measuring(
                    black_box(zone),
                    &site.controller,
                    36.4,
                    &course,
                    begin_date(),
                );
                tests_worth_doing(&worth).len()
            });
            worth.sum::<usize>()
        });
    });
}

const fn begin_date() -> jiff::civil::Date {
    date(2026, 6, 18)
}

criterion_group!(
    all,
    benches,
    forty_zones,
    seedbeds,
    sowing,
    worth,
    comparison,
    can_test
);
criterion_main!(all);
