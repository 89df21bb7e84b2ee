//! What may be used, worked by hand; what is to come against the replay of the same weather. No published source: caps are each office's own.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::replay::{Foresight, replay};
use lawn::quantity::{Area, Rate};
use lawn::record::allowed::{Standing, against_caps, needed};
use lawn::record::waterings::{Entry, Ran};
use lawn::site::cap::{self, Cap, Per, Says};
use lawn::site::{SiteDocument, Zone};
use lawn::wanted::always;
use lawn::weather::DailyWeather;

use crate::fixture::{exactly, plain, ran, site, zone};

const TODAY: Date = Date::constant(2026, 6, 18);

/// 100 L a minute.
fn lawn() -> SiteDocument {
    site(vec![Zone {
        area_m2: Area::from_m2(500.0),
        rate_mm_h: Some(exactly(Rate::from_mm_h(12.0))),
        ..zone("front")
    }])
}

fn cap(says: Says) -> Cap {
    Cap {
        name: "Town".to_owned(),
        from: date(2026, 1, 1),
        to: None,
        says,
    }
}

fn run(day: Date, minutes: i64) -> Entry {
    ran("front", day, minutes)
}

/// Years of weather from the first of January on, each with its own ET0.
fn record(years: &[(i16, f64)]) -> Vec<DailyWeather> {
    let of = |(year, et0): &(i16, f64)| {
        let first = date(*year, 1, 1);
        let et0 = *et0;
        let days = first
            .series(1.day())
            .take_while(move |d| d.year() == first.year());
        days.map(move |d| plain(d, et0, 0.0)).collect::<Vec<_>>()
    };
    years.iter().flat_map(of).collect()
}

fn against(document: &SiteDocument, entries: &[Entry], record: &[DailyWeather]) -> Vec<Standing> {
    let first = entries.iter().map(|entry| entry.date).min();
    let ran = Ran::new(document, entries);
    against_caps(&always, document, TODAY, &ran, first, record).unwrap()
}

#[test]
fn a_month_a_year_and_a_cut_against_a_base_year() {
    let mut document = lawn();
    document.caps = vec![
        cap(Says::Volume {
            cap_m3: 20.0,
            per: Per::Month,
        }),
        cap(Says::Volume {
            cap_m3: 300.0,
            per: Per::Year,
        }),
        cap(Says::Cut {
            cut_pct: 25.0,
            base_year: 2025,
        }),
        Cap {
            to: Some(date(2026, 5, 31)),
            ..cap(Says::Volume {
                cap_m3: 1.0,
                per: Per::Month,
            })
        },
    ];
    // 10 m³ in May, 6 and 3 in June; in June of the base year 24, in its May 5.
    let entries = [
        run(date(2025, 5, 30), 50),
        run(date(2025, 6, 1), 120),
        run(date(2025, 6, 30), 120),
        run(date(2026, 5, 20), 100),
        run(date(2026, 6, 3), 60),
        run(date(2026, 6, 18), 30),
    ];
    let found = against(&document, &entries, &[]);
    let told: Vec<_> = (found.iter())
        .map(|s| {
            (
                s.from,
                s.to,
                s.allowed_l.map(|v| v.m3().round()),
                s.used_l.m3().round(),
            )
        })
        .collect();
    assert_eq!(
        told,
        [
            (date(2026, 6, 1), date(2026, 6, 30), Some(20.0), 9.0),
            (date(2026, 1, 1), date(2026, 12, 31), Some(300.0), 19.0),
            (date(2026, 6, 1), date(2026, 6, 30), Some(18.0), 9.0),
        ]
    );
    assert!(
        found.iter().all(|s| s.outlook.is_none()),
        "no past year is known"
    );
    // The record begins within the base month: nobody knows what that took.
    let late = against(&document, &entries[2..], &[]);
    assert_eq!(late[2].allowed_l, None);
    let days: Vec<Date> = needed(&document.caps, TODAY)
        .iter()
        .map(|d| *d.start())
        .collect();
    assert_eq!(
        days,
        [
            date(2026, 6, 1),
            date(2026, 1, 1),
            date(2026, 6, 1),
            date(2025, 6, 1)
        ]
    );
}

#[test]
fn what_is_to_come_is_that_of_each_past_year() {
    let mut document = lawn();
    document.caps = vec![cap(Says::Volume {
        cap_m3: 30.0,
        per: Per::Month,
    })];
    let years = record(&[(2023, 3.0), (2024, 7.0), (2025, 5.0)]);
    let entries = [run(date(2026, 6, 3), 60)];
    let outlook = against(&document, &entries, &years)[0].outlook.unwrap();
    assert_eq!(outlook.years, 3);
    assert!(
        outlook.low_l < outlook.middle_l && outlook.middle_l < outlook.high_l,
        "{outlook:?}"
    );
    // The driest year by itself: the same replay on this year's days.
    let days = date(2026, 5, 4)
        .series(1.day())
        .take_while(|d| *d <= date(2026, 6, 30));
    let dry: Vec<DailyWeather> = days.map(|d| plain(d, 7.0, 0.0)).collect();
    let rows = replay(
        &document,
        &dry,
        date(2026, 5, 4),
        date(2026, 6, 30),
        Foresight::Refills,
    )
    .unwrap();
    let gross: f64 = rows
        .iter()
        .filter(|r| r.date > TODAY)
        .map(|r| r.balance.irrigation.gross.mm())
        .sum();
    assert!(
        (outlook.high_l.l() - 6000.0 - gross * 500.0).abs() < 1e-6,
        "{outlook:?} {gross}"
    );
    // A year of which days are missing is left out.
    let cut = &years[..years.len() - 200];
    assert_eq!(
        against(&document, &entries, cut)[0].outlook.unwrap().years,
        2
    );
}

#[test]
fn what_no_cap_can_be_is_refused_by_its_field() {
    let field = |cap: Cap| cap::validate(&[cap]).unwrap_err().field;
    let good = cap(Says::Volume {
        cap_m3: 20.0,
        per: Per::Month,
    });
    assert_eq!(cap::validate(std::slice::from_ref(&good)), Ok(()));
    assert_eq!(
        field(Cap {
            name: " ".to_owned(),
            ..good
        }),
        "caps[0].name"
    );
    assert_eq!(
        field(Cap {
            to: Some(date(2025, 12, 31)),
            ..good
        }),
        "caps[0].to"
    );
    assert_eq!(
        field(cap(Says::Volume {
            cap_m3: 0.0,
            per: Per::Year
        })),
        "caps[0].says.cap_m3"
    );
    assert_eq!(
        field(cap(Says::Cut {
            cut_pct: 101.0,
            base_year: 2025
        })),
        "caps[0].says.cut_pct"
    );
    assert_eq!(
        field(cap(Says::Cut {
            cut_pct: 20.0,
            base_year: 2026
        })),
        "caps[0].says.base_year"
    );
    let many = vec![
        cap(Says::Volume {
            cap_m3: 20.0,
            per: Per::Month
        });
        21
    ];
    assert_eq!(cap::validate(&many).unwrap_err().field, "caps");
}
