//! Planned, run and metered agree within a pulse over a season without faults, whatever is planned: the simulated controller runs it and its flow meter counts it,
//! asked at odd hours, its batches late and sent again; the core reconciles. No outside source: what must agree is one water, counted three times.

use std::collections::BTreeMap;

use jiff::civil::{Date, date};
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp, ToSpan};
use lawn::quantity::{Area, Rate};
use lawn::record::book::Sources;
use lawn::record::reconcile::{Day, reconcile};
use lawn::record::watching::{Counted, Opened, watched};
use lawn::record::watered::{Passes, Watered};
use lawn::record::waterings::Entry;
use lawn::site::SiteDocument;
use lawn::site::meter::{Meter, MeterUnit};
use lawn::sourced::{Source, Sourced};
use proptest::prelude::*;
use standins::controller::device::{Device, Pass, Programme, Valve, What};
use standins::controller::flow_meter::{FlowMeter, Quirks, Sink};

use crate::harness::small_site;

const FIRST: Date = Date::constant(2026, 4, 6);
const WEEKS: i64 = 10;
const NIGHTS: i64 = WEEKS * 7;

/// A zone and how it is watered.
#[derive(Debug, Clone)]
struct Watering {
    area_m2: f64,
    rate_mm_h: f64,
    every_nights: i64,
    passes: i64,
    pass_s: i64,
}

fn zones() -> impl Strategy<Value = Vec<Watering>> {
    let zone = (50.0..2000.0, 4.0..40.0, 1..5_i64, 1..4_i64, 100..1800_i64);
    let zone = zone.prop_map(
        |(area_m2, rate_mm_h, every_nights, passes, pass_s)| Watering {
            area_m2,
            rate_mm_h,
            every_nights,
            passes,
            pass_s,
        },
    );
    prop::collection::vec(zone, 1..6)
}

fn evening(night: i64) -> Date {
    FIRST.saturating_add(night.days())
}

fn at(zone: &TimeZone, day: Date, minute: i64) -> Timestamp {
    let midnight = day.to_zoned(zone.clone()).unwrap().timestamp();
    midnight + SignedDuration::from_mins(minute)
}

/// The site of the zones.
fn site(waterings: &[Watering]) -> SiteDocument {
    let mut document = small_site();
    let like: lawn::site::Zone = serde_json::from_value(crate::harness::zone("Front")).unwrap();
    let exactly = |value: Rate| Sourced {
        value,
        low: value,
        high: value,
        source: Source::Assumed,
    };
    document.zones = (waterings.iter().enumerate())
        .map(|(place, watering)| lawn::site::Zone {
            id: place.to_string(),
            area_m2: Area::from_m2(watering.area_m2),
            rate_mm_h: Some(exactly(Rate::from_mm_h(watering.rate_mm_h))),
            active_from: None,
            ..like.clone()
        })
        .collect();
    document
}

fn id(night: i64, zone: usize, pass: i64) -> String {
    format!("{night}-{zone}-{pass}")
}

/// A night's passes, one zone after another, from `opens` minutes after the evening's midnight on: often over the next.
fn passes_of(zone: &TimeZone, night: i64, opens: i64, waterings: &[Watering]) -> Vec<Pass> {
    let mut starts = at(zone, evening(night), opens);
    let mut passes = Vec::new();
    for round in 0..3 {
        for (place, watering) in waterings.iter().enumerate() {
            if round < watering.passes && night % watering.every_nights == 0 {
                passes.push(Pass {
                    id: id(night, place, round),
                    zone: place.to_string(),
                    starts,
                    seconds: watering.pass_s,
                });
                starts += SignedDuration::from_secs(watering.pass_s + 150);
            }
        }
    }
    passes
}

/// What the stand-ins made of a season: what each pass opened and for how long, and the minutes as they arrived.
fn season(
    document: &SiteDocument,
    waterings: &[Watering],
    opens: i64,
    pulse_l: f64,
    hours: &[i64],
) -> (Device, BTreeMap<i64, Option<u16>>) {
    let zone = document.site.zone().unwrap();
    let begins = at(&zone, FIRST, 0);
    let sink = Sink {
        url: String::new(),
        token: String::new(),
    };
    let mut device = Device::default();
    device.flow_meter = Some(FlowMeter::new(sink, pulse_l, begins));
    let mut kept: BTreeMap<i64, Option<u16>> = BTreeMap::new();
    let mut asked = hours.iter().cycle();
    let mut now = begins;
    let end = at(&zone, evening(NIGHTS), 36 * 60);
    let mut week = 0;
    while now < end {
        // A week is told on its first noon: the night before is over.
        while week < WEEKS && at(&zone, evening(7 * week), 720) <= now {
            let nights = 7 * week..7 * (week + 1);
            let passes = nights.flat_map(|night| passes_of(&zone, night, opens, waterings));
            let valves = waterings.iter().enumerate().map(|(place, w)| Valve {
                zone: place.to_string(),
                name: place.to_string(),
                flow_l_min: w.rate_mm_h * w.area_m2 / 60.0,
            });
            let programme = Programme {
                from: now,
                valves: valves.collect(),
                passes: passes.collect(),
            };
            assert_eq!(device.put(week + 1, programme, now), Ok(true));
            week += 1;
        }
        let step = asked.next().copied().unwrap_or(7);
        let next_week = if week < WEEKS {
            at(&zone, evening(7 * week), 720)
        } else {
            end
        };
        now = (now + SignedDuration::from_hours(step))
            .min(next_week)
            .min(end);
        device.advance(now);
        let is_last = now >= end;
        let meter = device.flow_meter.as_mut().unwrap();
        meter.quirks = Quirks {
            late: step % 2 == 0 && !is_last,
            ..Quirks::default()
        };
        for (n, batch) in meter.sends().into_iter().enumerate() {
            for (minute, count) in (0..).zip(&batch.counts) {
                kept.entry(batch.from.as_second() + 60 * minute)
                    .or_insert(*count);
            }
            // Some answers are lost: the batch comes again.
            if is_last || (step + i64::try_from(n).unwrap()) % 3 != 0 {
                meter.acknowledged(&batch);
            }
        }
    }
    (device, kept)
}

fn days(waterings: &[Watering], opens: i64, pulse_l: f64, hours: &[i64]) -> Vec<Day> {
    let document = site(waterings);
    let zone = document.site.zone().unwrap();
    let (device, kept) = season(&document, waterings, opens, pulse_l, hours);
    let mut opened = Vec::new();
    let mut started = BTreeMap::new();
    let mut runs: BTreeMap<(i64, usize), Passes> = BTreeMap::new();
    for report in device.log_after(0) {
        match &report.what {
            What::Started { pass } => drop(started.insert(pass.clone(), report.at)),
            What::Stopped { pass, seconds } => {
                let mut parts = pass.split('-').map(|part| part.parse::<i64>().unwrap());
                let (night, place) = (parts.next().unwrap(), parts.next().unwrap());
                let run = runs
                    .entry((night, usize::try_from(place).unwrap()))
                    .or_insert(Passes {
                        passes: 0,
                        run_s: 0,
                    });
                run.passes += 1;
                run.run_s += seconds;
                opened.push(Opened {
                    zone: place.to_string(),
                    from: started[pass],
                    to: started[pass] + SignedDuration::from_secs(*seconds),
                    date: evening(night),
                    watered: Watered::all(),
                });
            }
            _ => {}
        }
    }
    opened.sort_by_key(|opened| opened.from);
    let entries: Vec<Entry> = runs
        .iter()
        .map(|((night, place), ran)| {
            let watering = &waterings[*place];
            Entry {
                zone: place.to_string(),
                date: evening(*night),
                started_at: started[&id(*night, *place, 0)],
                ran: *ran,
                watered: Watered::all(),
                assumed: false,
                planned: Some(Passes {
                    passes: u32::try_from(watering.passes).unwrap(),
                    run_s: watering.passes * watering.pass_s,
                }),
                by_hand: false,
            }
        })
        .collect();
    let nights = (0..NIGHTS).flat_map(|night| passes_of(&zone, night, opens, waterings));
    assert_eq!(opened.len(), nights.count(), "each pass ran once");
    let first = *kept.keys().next().unwrap();
    let counts: Vec<Option<u16>> = kept.values().copied().collect();
    assert_eq!(
        kept.len(),
        usize::try_from((kept.keys().next_back().unwrap() - first) / 60 + 1).unwrap(),
        "no gap"
    );
    let meter = Meter {
        id: "m".to_owned(),
        name: "Lawn".to_owned(),
        unit: MeterUnit::M3,
        digits: 6,
        decimals: 0,
        multiplier: 1.0,
        pulse_l: Some(pulse_l),
        feeds: Vec::new(),
        house: false,
        active_from: None,
        active_to: None,
    };
    let last = evening(NIGHTS);
    let heard = watched(&Counted {
        document: &document,
        meter: &meter,
        from: Timestamp::from_second(first).unwrap(),
        counts: &counts,
        opened: &opened,
        first: FIRST,
        last,
    });
    let sources = Sources {
        document: &document,
        from: FIRST,
        to: last,
        entries: &entries,
        ledger: &[],
        weather: &[],
        meters: &[],
    };
    reconcile(&sources, Some((&meter, &heard)))
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(32))]

    #[test]
    fn a_season_without_faults_agrees_within_a_pulse_through_the_stand_ins(
        waterings in zones(),
        opens in 16..30_i64,
        pulse_l in prop::sample::select(vec![0.5, 1.0, 10.0, 100.0]),
        hours in prop::collection::vec(1..40_i64, 1..12),
    ) {
        // From four in the afternoon to six in the morning after, by the half hour.
        let days = days(&waterings, opens * 60 / 2 + 480, pulse_l, &hours);
        let (mut planned, mut run, mut metered) = (0.0, 0.0, 0.0);
        for day in &days {
            planned += day.planned_l.l();
            run += day.run_l.l();
            prop_assert!((day.planned_l.l() - day.run_l.l()).abs() < 1e-6, "{day:?}");
            let Some(of) = &day.metered else { continue };
            metered += of.runs_l.l() + of.nobody_l.l();
            prop_assert!(of.nobody_l.l() < 1e-9, "{}: {} L with nothing on", day.date, of.nobody_l.l());
            prop_assert!(of.not_explained_l.l().abs() <= pulse_l + 1e-6, "{}: {of:?}", day.date);
            prop_assert!(of.found.is_empty(), "{}: {:?}", day.date, of.found);
        }
        prop_assert!(run > 0.0);
        prop_assert!((planned - run).abs() < 1e-6 * run);
        prop_assert!((metered - run).abs() <= pulse_l + 1e-6, "{metered} of {run}");
    }
}

#[test]
fn the_season_has_its_days() {
    let lone = Watering {
        area_m2: 400.0,
        rate_mm_h: 12.0,
        every_nights: 2,
        passes: 2,
        pass_s: 600,
    };
    let days = days(&[lone], 23 * 60 + 50, 1.0, &[5, 30]);
    assert_eq!(days.len(), usize::try_from(NIGHTS).unwrap() + 1);
    assert_eq!(days[0].date, date(2026, 4, 6));
    // 80 L a minute for twenty minutes, over midnight.
    assert!((days[0].run_l.l() - 1600.0).abs() < 1e-9);
}
