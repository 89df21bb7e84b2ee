//! Planned, run and metered by day and zone, worked by hand; runs over midnight, hoses, minutes that were not heard.

use jiff::civil::{Date, date};
use jiff::{SignedDuration, Timestamp};
use lawn::quantity::{Area, Rate};
use lawn::record::book::Sources;
use lawn::record::flow_watch::Named;
use lawn::record::reconcile::{Day, reconcile};
use lawn::record::watching::{Counted, Opened, watched};
use lawn::record::watered::{Passes, Watered};
use lawn::record::waterings::Entry;
use lawn::site::meter::{Meter, MeterUnit};
use lawn::site::tariff::Tariff;
use lawn::site::{SiteDocument, Zone};

use crate::fixture::{exactly, site, zone};

const FIRST: Date = Date::constant(2026, 6, 8);
const DAYS: usize = 4;

fn at(minute: i64) -> Timestamp {
    let midnight = FIRST.in_tz("America/New_York").unwrap().timestamp();
    midnight + SignedDuration::from_mins(minute)
}

/// Two zones of 100 L a minute each.
fn two() -> SiteDocument {
    let of = |name: &str| Zone {
        area_m2: Area::from_m2(500.0),
        rate_mm_h: Some(exactly(Rate::from_mm_h(12.0))),
        ..zone(name)
    };
    let mut document = site(vec![of("front"), of("back")]);
    document.tariffs = vec![Tariff::flat(date(2026, 1, 1), 2.0)];
    document
}

fn meter(feeds: &[&str]) -> Meter {
    Meter {
        id: "m".to_owned(),
        name: "Lawn".to_owned(),
        unit: MeterUnit::M3,
        digits: 5,
        decimals: 0,
        multiplier: 1.0,
        pulse_l: Some(10.0),
        feeds: feeds.iter().map(|&zone| zone.to_owned()).collect(),
        house: false,
        active_from: None,
        active_to: None,
    }
}

/// What ran, and what the meter counted of it in pulses of 10 L a minute.
struct Record {
    opened: Vec<Opened>,
    entries: Vec<Entry>,
    counts: Vec<Option<u16>>,
}

impl Record {
    fn new() -> Self {
        Self {
            opened: Vec::new(),
            entries: Vec::new(),
            counts: vec![Some(0); DAYS * 1440],
        }
    }

    /// A run of a zone of passes from minute to minute, of the day on which it began.
    fn runs(&mut self, zone: &str, passes: &[(i64, i64)], watered: Watered) {
        let date = FIRST.saturating_add(jiff::Span::new().days(passes[0].0 / 1440));
        for (from, to) in passes {
            self.opened.push(Opened {
                zone: zone.to_owned(),
                from: at(*from),
                to: at(*to),
                date,
                watered,
            });
        }
        let ran = Passes {
            passes: u32::try_from(passes.len()).unwrap(),
            run_s: passes.iter().map(|(from, to)| 60 * (to - from)).sum(),
        };
        self.entries.push(Entry {
            zone: zone.to_owned(),
            date,
            started_at: at(passes[0].0),
            ran,
            watered,
            assumed: false,
            planned: (watered == Watered::all()).then_some(ran),
            by_hand: false,
        });
    }

    fn flows(&mut self, from: usize, to: usize, pulses: u16) {
        for count in self.counts[from..to].iter_mut().flatten() {
            *count += pulses;
        }
    }

    fn days(&self, meter: Option<&Meter>) -> Vec<Day> {
        let document = two();
        let last = date(2026, 6, 11);
        let heard = meter.map(|meter| {
            let days = watched(&Counted {
                document: &document,
                meter,
                from: at(0),
                counts: &self.counts,
                opened: &self.opened,
                first: FIRST,
                last,
            });
            (meter, days)
        });
        let sources = Sources {
            document: &document,
            from: FIRST,
            to: last,
            entries: &self.entries,
            ledger: &[],
            weather: &[],
            meters: &[],
        };
        let days = reconcile(
            &sources,
            heard.as_ref().map(|(meter, days)| (*meter, &days[..])),
        );
        assert_eq!(days.len(), DAYS);
        days
    }
}

fn litres(day: &Day) -> [f64; 3] {
    let metered = day.metered.as_ref().unwrap();
    [
        metered.runs_l.l(),
        metered.nobody_l.l(),
        metered.not_explained_l.l(),
    ]
    .map(f64::round)
}

#[test]
fn a_day_that_agrees_and_one_with_a_hose_that_nobody_noted() {
    let mut record = Record::new();
    record.runs("front", &[(300, 320)], Watered::all());
    record.runs("back", &[(325, 340)], Watered::all());
    record.flows(300, 320, 10);
    record.flows(325, 340, 10);
    // On the second day 20 L a minute for half an hour.
    record.flows(1440 + 600, 1440 + 630, 2);
    let days = record.days(Some(&meter(&[])));
    let first = &days[0];
    assert_eq!((first.planned_l.l(), first.run_l.l()), (3500.0, 3500.0));
    assert_eq!(first.cost, Some(7.0));
    assert_eq!(litres(first), [3500.0, 0.0, 0.0]);
    let of_zones: Vec<(&str, f64, Option<f64>, Option<f64>)> = (first.zones.iter())
        .map(|z| {
            (
                z.zone.as_str(),
                z.run_l.l(),
                z.metered_l.map(|v| v.l().round()),
                z.cost,
            )
        })
        .collect();
    assert_eq!(
        of_zones,
        [
            ("front", 2000.0, Some(2000.0), Some(4.0)),
            ("back", 1500.0, Some(1500.0), Some(3.0))
        ]
    );
    assert_eq!(litres(&days[1]), [0.0, 600.0, 600.0]);
    let found = &days[1].metered.as_ref().unwrap().found;
    assert_eq!(found[0].named, Named::ByHand { minutes: 30 });
    assert_eq!((&found[0].zone, days[1].zones.len()), (&None, 0));
    // Noted, it is nobody's no more: a hose of 20 L a minute.
    let hose = Watered::Hose {
        flow_l_min: 20.0,
        reached_m2: Area::from_m2(50.0),
    };
    record.runs("front", &[(1440 + 600, 1440 + 630)], hose);
    let noted = &record.days(Some(&meter(&[])))[1];
    assert_eq!(litres(noted), [600.0, 0.0, 0.0]);
    assert_eq!(noted.metered.as_ref().unwrap().found, []);
    // It went on for ten minutes longer than was noted: by hand, and no valve that stays open.
    record.flows(1440 + 630, 1440 + 640, 2);
    let longer = &record.days(Some(&meter(&[])))[1];
    let found = &longer.metered.as_ref().unwrap().found;
    assert!(
        matches!(found[0].named, Named::ByHand { minutes: 9 }),
        "{found:?}"
    );
}

#[test]
fn a_run_over_midnight_is_its_evenings_and_explains_the_water_of_the_night() {
    let mut record = Record::new();
    // 23:50 to 00:10, and 00:40 to 00:55 of the next day.
    record.runs("front", &[(1430, 1450), (1480, 1495)], Watered::all());
    record.flows(1430, 1450, 10);
    record.flows(1480, 1495, 10);
    let days = record.days(Some(&meter(&[])));
    assert_eq!(litres(&days[0]), [3500.0, 0.0, 0.0]);
    assert_eq!(days[0].zones[0].heard, Some(1.0));
    assert_eq!(litres(&days[1]), [0.0, 0.0, 0.0]);
    let named = days
        .iter()
        .filter_map(|day| day.metered.as_ref())
        .map(|m| m.found.len());
    assert_eq!(named.sum::<usize>(), 0, "{days:?}");
}

#[test]
fn what_was_not_heard_is_neither_missing_nor_unexplained() {
    let mut record = Record::new();
    record.runs("front", &[(300, 320)], Watered::all());
    record.flows(300, 320, 10);
    // The second half of the pass, and all of the third day.
    record.counts[310..400].fill(None);
    record.counts[2880..4320].fill(None);
    let days = record.days(Some(&meter(&[])));
    assert_eq!(litres(&days[0]), [1000.0, 0.0, 0.0]);
    assert_eq!(days[0].zones[0].heard, Some(0.5));
    assert_eq!(days[0].metered.as_ref().unwrap().heard_min, 1440 - 90);
    assert_eq!(days[2].metered, None);
}

#[test]
fn a_meter_is_set_beside_the_zones_that_it_feeds() {
    let mut record = Record::new();
    record.runs("front", &[(300, 320)], Watered::all());
    record.runs("back", &[(325, 340)], Watered::all());
    record.flows(325, 340, 12);
    let days = record.days(Some(&meter(&["back"])));
    assert_eq!(days[0].run_l.l(), 1500.0);
    assert_eq!(litres(&days[0]), [1800.0, 0.0, 300.0]);
    let without = record.days(None);
    assert_eq!((without[0].run_l.l(), &without[0].metered), (3500.0, &None));
    // The whole day's water is priced once, whichever zones are shown.
    assert_eq!((days[0].cost, without[0].cost), (Some(3.0), Some(7.0)));
}
