//! What a repair, evenness or another school would save, worked by hand. The formulas are arithmetic; that repair reaches "very good" is common practice, no source.

use jiff::Timestamp;
use jiff::civil::date;
use lawn::quantity::{Area, Depth, Volume};
use lawn::record::book::{Book, Sources, book};
use lawn::record::flow_findings::Standing;
use lawn::record::flow_watch::Named;
use lawn::record::waterings::Entry;
use lawn::site::{School, SiteDocument, Zone};
use lawn::view::savings::{What, savings};
use lawn::view::schools::{SchoolComparison, UnderSchool, ZoneSchools};
use science::sprinkler::Kind;

use crate::fixture::{exactly, ran, site, zone};

/// 600 m² of rotors at 10 mm/h, 100 L a minute, with an evenness of 0.50; and a zone that nobody tested.
fn two() -> SiteDocument {
    let rotors = |name: &str| Zone {
        sprinkler: Kind::Rotor,
        area_m2: Area::from_m2(600.0),
        rate_mm_h: Some(exactly(lawn::quantity::Rate::from_mm_h(10.0))),
        ..zone(name)
    };
    let mut document = site(vec![
        Zone {
            evenness_du_lq: Some(exactly(0.50)),
            ..rotors("front")
        },
        rotors("back"),
    ]);
    document.site.price_per_m3 = Some(2.0);
    document
}

/// A hundred hours of each zone in a year: 600 m³.
fn year(document: &SiteDocument) -> Book {
    let first = date(2026, 6, 1);
    let run = |zone: &str, day: i8| ran(zone, date(2026, 6, day), 600);
    let entries: Vec<Entry> = (1..=10)
        .flat_map(|day| [run("front", day), run("back", day)])
        .collect();
    book(&Sources {
        document,
        from: first,
        to: date(2026, 6, 30),
        entries: &entries,
        ledger: &[],
        weather: &[],
        meters: &[],
    })
}

fn standing(named: Named) -> Standing {
    Standing {
        named,
        since: Timestamp::UNIX_EPOCH,
        litres_a_week: Volume::from_l(1.0),
    }
}

#[test]
fn each_is_worked_out_by_hand_and_the_most_comes_first() {
    let document = two();
    let found = savings(
        &document,
        &year(&document),
        &[
            standing(Named::Leak {
                litres_an_hour: 50.0,
            }),
            standing(Named::MoreThanNormal {
                zone: 1,
                normal_l_min: 100.0,
                now_l_min: 125.0,
            }),
            standing(Named::ByHand { minutes: 20 }),
        ],
        None,
    );
    let told: Vec<(Option<&str>, f64, Option<f64>)> = (found.iter())
        .map(|s| (s.zone.as_deref(), s.litres_a_year.m3(), s.money_a_year))
        .collect();
    // 50 · 8760 L; a quarter of 600 m³; with M = 1 / (0.4 + 0.6 · DU), 0.70 / 0.82 of the water of 0.50 would do.
    let even = 600.0 * (1.0 - (0.4 + 0.6 * 0.5) / (0.4 + 0.6 * 0.7));
    for (got, (zone, m3)) in
        told.iter()
            .zip([(None, 438.0), (Some("back"), 150.0), (Some("front"), even)])
    {
        assert_eq!(got.0, zone);
        assert!((got.1 - m3).abs() < 1e-6, "{told:?}");
        assert!((got.2.unwrap() - 2.0 * m3).abs() < 1e-6, "{told:?}");
    }
    assert_eq!(
        told.len(),
        3,
        "nothing of a zone that nobody tested: {told:?}"
    );
    assert!(matches!(
        found[2].what,
        What::Evenness {
            du_lq: 0.5,
            reach: 0.7
        }
    ));
}

#[test]
fn a_school_is_compared_with_the_balance_and_one_that_costs_less_is_left_alone() {
    let document = two();
    let under = |school: School, litres: f64, dry_days: u32| UnderSchool {
        school,
        waterings: 10,
        net_mm: Depth::ZERO,
        volume_l: Volume::from_l(litres),
        adequacy_pct: 100.0,
        dry_days,
        drained_mm: Depth::ZERO,
        runoff_mm: Depth::ZERO,
    };
    let own = School::usual()
        .into_iter()
        .find(|s| s.name() == "every_other_day")
        .unwrap();
    let zone = |id: &str, own: School, litres: f64| ZoneSchools {
        zone: id.to_owned(),
        name: id.to_owned(),
        own,
        schools: vec![
            under(School::WaterBalance, 400_000.0, 2),
            under(own, litres, 1),
        ],
    };
    let compared = |litres| SchoolComparison {
        from: date(2025, 6, 1),
        to: date(2026, 5, 31),
        zones: vec![
            zone("back", own, litres),
            zone("front", School::WaterBalance, 400_000.0),
        ],
    };
    let book = year(&document);
    let of = |litres| {
        let found = savings(&document, &book, &[], Some(&compared(litres)));
        found
            .into_iter()
            .find(|s| matches!(s.what, What::School { .. }))
    };
    let found = of(520_000.0).unwrap();
    assert_eq!(
        (found.zone.as_deref(), found.of_l.l()),
        (Some("back"), 520_000.0)
    );
    assert!((found.litres_a_year.l() - 120_000.0).abs() < 1e-6);
    assert!(matches!(
        found.what,
        What::School {
            own_dry_days: 1,
            dry_days: 2,
            ..
        }
    ));
    assert_eq!(of(390_000.0), None);
}

#[test]
fn a_timer_left_at_its_peak_runs_as_in_that_month_all_season() {
    let document = two();
    let run = |month: i8, day: i8, minutes: i64| ran("back", date(2026, month, day), minutes);
    // 100 L a minute: 1 m³ in March, 30 in May, 62 in July, 15 in September.
    let all = [
        run(3, 1, 10),
        run(5, 1, 300),
        run(7, 1, 300),
        run(7, 2, 320),
        run(9, 1, 150),
    ];
    let of = |entries: &[Entry]| {
        let book = book(&Sources {
            document: &document,
            from: date(2026, 1, 1),
            to: date(2026, 12, 31),
            entries,
            ledger: &[],
            weather: &[],
            meters: &[],
        });
        book.timer_left_l.map(|v| v.m3())
    };
    // 2 m³ a day over May, July and September; March is no month of the season.
    assert!((of(&all).unwrap() - 2.0 * f64::from(31 + 31 + 30)).abs() < 1e-9);
    assert_eq!(of(&all[..4]), None, "two months say nothing");
}
