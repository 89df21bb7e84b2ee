//! The book of a made-up fortnight, worked by hand: litres, money, visits, depths, what a meter says.

use jiff::civil::{Date, date};
use jiff::{SignedDuration, Timestamp, ToSpan};
use lawn::engine::correction::Doubt;
use lawn::engine::root_zone::{Below, DayBalance};
use lawn::quantity::{Area, Depth, Rate};
use lawn::record::book::{Book, Sources, book};
use lawn::record::past::PastDay;
use lawn::record::readings::{Follows, Reading};
use lawn::record::watered::{Passes, Watered};
use lawn::record::waterings::{Entry, counted_from};
use lawn::site::meter::{Meter, MeterUnit};
use lawn::site::tariff::{Tariff, Tier};
use lawn::site::{SiteDocument, Zone};
use lawn::weather::DailyWeather;
use science::sprinkler::Kind;

use crate::fixture::{exactly, model, plain, site, zone};

/// 500 m² at 12 mm/h: 100 L a minute. 200 m² by hose.
fn two() -> SiteDocument {
    let mut document = site(vec![
        Zone {
            rate_mm_h: Some(exactly(Rate::from_mm_h(12.0))),
            ..zone("front")
        },
        Zone {
            sprinkler: Kind::Portable,
            area_m2: Area::from_m2(200.0),
            setting_m2: Some(Area::from_m2(100.0)),
            rate_mm_h: Some(exactly(Rate::from_mm_h(6.0))),
            ..zone("walk")
        },
    ]);
    document.tariffs = vec![Tariff {
        fixed_per_month: 8.0,
        tiers: vec![
            Tier {
                up_to_m3: Some(3.0),
                price_per_m3: 1.0,
            },
            Tier {
                up_to_m3: None,
                price_per_m3: 4.0,
            },
        ],
        ..Tariff::flat(date(2026, 1, 1), 0.0)
    }];
    document
}

fn entry(zone: &str, day: Date, minutes: i64, planned: Option<i64>) -> Entry {
    let started_at = day
        .at(8, 0, 0, 0)
        .in_tz("America/New_York")
        .unwrap()
        .timestamp();
    Entry {
        zone: zone.to_owned(),
        date: day,
        ran: Passes {
            passes: u32::from(minutes > 0),
            run_s: minutes * 60,
        },
        watered: Watered::all(),
        assumed: true,
        started_at,
        planned: planned.map(|minutes| Passes {
            passes: 1,
            run_s: minutes * 60,
        }),
        by_hand: false,
    }
}

fn ledger(document: &SiteDocument, from: Date, to: Date) -> Vec<Vec<PastDay>> {
    let days = |zone: &Zone| {
        let model = model(zone);
        from.series(1.day())
            .take_while(|d| *d <= to)
            .map(|date| PastDay {
                date,
                regime: zone.regime,
                taw: model.taw,
                balance: DayBalance {
                    etc: Depth::from_mm(4.0),
                    eta: Depth::from_mm(3.0),
                    effective_rain: Depth::from_mm(1.0),
                    ..DayBalance::default()
                },
                below: Below::default(),
                doubt: Doubt::of_book(&model),
                seedling: None,
            })
            .collect()
    };
    document.zones.iter().map(days).collect()
}

fn weather(from: Date, to: Date) -> Vec<DailyWeather> {
    let days = from.series(1.day()).take_while(|d| *d <= to);
    days.map(|d| plain(d, 5.0, 1.5)).collect()
}

struct Fortnight {
    entries: Vec<Entry>,
    meters: Vec<(Meter, Vec<Reading>)>,
}

const FROM: Date = Date::constant(2026, 6, 8);
const TO: Date = Date::constant(2026, 6, 21);

fn of(fortnight: &Fortnight) -> Book {
    let document = two();
    assert_eq!(counted_from(FROM), date(2026, 6, 1));
    book(&Sources {
        document: &document,
        from: FROM,
        to: TO,
        entries: &fortnight.entries,
        ledger: &ledger(&document, FROM, TO),
        weather: &weather(FROM, TO),
        meters: &fortnight.meters,
    })
}

fn rounded(x: f64) -> f64 {
    (x * 1e6).round() / 1e6
}

#[test]
fn litres_money_visits_and_depths() {
    let mut by_hose = entry("walk", date(2026, 6, 12), 20, None);
    by_hose.by_hand = true;
    by_hose.assumed = false;
    by_hose.watered = Watered::Hose {
        flow_l_min: 15.0,
        reached_m2: Area::from_m2(40.0),
    };
    let mut somehow = by_hose.clone();
    somehow.started_at += SignedDuration::from_hours(1);
    somehow.watered = Watered::Unmeasured;
    let portable = entry("walk", date(2026, 6, 17), 60, Some(60));
    let book = of(&Fortnight {
        entries: vec![
            // Before the span: 2 m³ of the month's first tier.
            entry("front", date(2026, 6, 2), 20, Some(20)),
            entry("front", date(2026, 6, 9), 20, Some(30)),
            by_hose,
            somehow,
            // Denied.
            entry("front", date(2026, 6, 14), 0, Some(30)),
            entry("front", date(2026, 6, 15), 30, Some(30)),
            portable,
        ],
        meters: Vec::new(),
    });
    let [front, walk] = &book.zones[..] else {
        panic!()
    };
    assert_eq!(rounded(front.sums.run_l.l()), 5000.0);
    assert_eq!(rounded(front.sums.planned_l.l()), 9000.0);
    assert_eq!((front.watered_days, front.visits), (2, 0));
    // A hose of 15 L/min for 20 min; 6 mm on 200 m² in two settings of an hour.
    assert_eq!(rounded(walk.sums.run_l.l()), 1500.0);
    assert_eq!(rounded(walk.sums.planned_l.l()), 1200.0);
    assert_eq!(rounded(walk.sums.assumed_l.l()), 1200.0);
    assert_eq!((walk.watered_days, walk.visits, walk.unmeasured), (2, 3, 1));
    assert_eq!(walk.by_hand_s, (20 + 20 + 2 * 60) * 60);
    // The 9th: from 2 to 4 m³, one at 1 and one at 4; all else at 4.
    let front_cost = 1.0 + 4.0 + 3.0 * 4.0;
    assert_eq!(rounded(front.sums.cost.unwrap()), front_cost);
    assert_eq!(rounded(walk.sums.cost.unwrap()), 1.5 * 4.0);
    assert_eq!(rounded(book.total.cost.unwrap()), front_cost + 6.0);
    assert_eq!(book.next_m3, Some(4.0));
    // No month begins in the span.
    assert_eq!(book.fees, Some(0.0));
    // Two weeks and one month; what they hold is all there is.
    assert_eq!(
        book.weeks
            .iter()
            .map(|w| (w.from, w.to))
            .collect::<Vec<_>>(),
        [(FROM, date(2026, 6, 14)), (date(2026, 6, 15), TO)]
    );
    assert_eq!(rounded(book.weeks[0].sums.run_l.l()), 2300.0);
    assert_eq!(rounded(book.weeks[1].sums.run_l.l()), 4200.0);
    assert_eq!(rounded(book.months[0].sums.run_l.l()), 6500.0);
    assert_eq!(rounded(book.total.run_l.l()), 6500.0);
    assert_eq!(
        (
            rounded(book.weeks[0].et0_mm.mm()),
            rounded(book.weeks[0].rain_mm.mm())
        ),
        (35.0, 10.5)
    );
    // 0.55 of 5 mm a day over 700 m².
    assert_eq!(
        rounded(book.weeks[0].mawa_l.l()),
        rounded(0.55 * 35.0 * 700.0)
    );
    assert_eq!(rounded(book.budgets.mawa.l()), rounded(0.55 * 70.0 * 700.0));
    assert_eq!(book.budgets.peak_month, None, "no whole month");
    for sums in [&book.total, &front.sums] {
        assert_eq!(rounded(sums.etc_mm.mm()), 56.0);
        assert_eq!(rounded(sums.effective_rain_mm.mm()), 14.0);
    }
}

#[test]
fn a_meter_beside_what_ran_on_its_zones() {
    let meter = Meter {
        id: "m".to_owned(),
        name: "Commons".to_owned(),
        unit: MeterUnit::L,
        digits: 7,
        decimals: 0,
        multiplier: 1.0,
        pulse_l: None,
        feeds: vec!["front".to_owned()],
        house: false,
        active_from: None,
        active_to: None,
    };
    // Read in the middle of the second run of half an hour.
    let second = entry("front", date(2026, 6, 16), 30, None);
    let middle: Timestamp = second.started_at + SignedDuration::from_mins(15);
    let reading = |at, register| Reading {
        at,
        register,
        follows: Follows::On,
    };
    let first = entry("front", date(2026, 6, 9), 20, None);
    let readings = vec![
        reading(first.started_at, 100.0),
        reading(middle, 3700.0),
        reading(middle + SignedDuration::from_hours(24), 5200.0),
    ];
    let other = entry("walk", date(2026, 6, 16), 60, None);
    let book = of(&Fortnight {
        entries: vec![first, second, other],
        meters: vec![(meter, readings)],
    });
    let between: Vec<(f64, f64)> = (book.metered.iter())
        .map(|m| (rounded(m.metered_l.unwrap().l()), rounded(m.run_l.l())))
        .collect();
    // 2000 L and half of 3000 against 3600: 100 L that nothing explains; then 1500 of 1500.
    assert_eq!(between, [(3600.0, 3500.0), (1500.0, 1500.0)]);
}
