//! Properties over generated sites and weather: the balance closes, bounds hold, plans repeat, the clock is kept, and the
//! monotonicities of plain refills.

use jiff::ToSpan;
use jiff::civil::date;
use lawn::engine::dose::{capacity, dose};
use lawn::engine::replay::{Foresight, replay};
use lawn::engine::root_zone::{self, Irrigation};
use lawn::engine::schools::Proposal;
use lawn::engine::slot::{self, HORIZON};
use lawn::quantity::{Area, Depth, Rate};
use lawn::site::{
    DateRule, EveryOtherDay, Exposure, FixedInterval, School, SiteDocument, Weekday, WeeklyTarget,
    Zone,
};
use lawn::view::plan::{Known, plan_week};
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::soil::Texture;
use science::sprinkler::Kind;
use science::turf::Grass;

use crate::corner_cases::nothing_overlaps;
use crate::fixture::{DryMorning, exactly, model, openings, plain, site, week_of, zone};

fn any_school() -> impl Strategy<Value = School> {
    let mm = |range: std::ops::Range<f64>| range.prop_map(Depth::from_mm);
    prop_oneof![
        3 => Just(School::WaterBalance),
        1 => (mm(2.0..100.0), prop::option::of(mm(2.0..100.0)), mm(0.0..30.0), 1..=3u8).prop_map(
            |(target_mm, hot_target_mm, dormant_target_mm, soaks)| School::WeeklyTarget(WeeklyTarget { target_mm, hot_target_mm, dormant_target_mm, soaks })
        ),
        1 => (mm(2.0..50.0), 1..=7u8).prop_map(|(depth_mm, every_days)| School::FixedInterval(FixedInterval { depth_mm, every_days })),
        1 => (1.0..300.0, 1..=7u8).prop_map(|(run_minutes, every_days)| School::EveryOtherDay(EveryOtherDay { run_minutes, every_days })),
    ]
}

fn any_zone() -> impl Strategy<Value = Zone> {
    (
        0..14usize,
        0..12usize,
        0..6usize,
        0.0..30.0f64,
        1.0..120.0f64,
        0.05..1.0f64,
        20.0..700.0f64,
        prop::option::of(0.05..0.95f64),
        (0.0..60.0f64, any_school()),
        1..=9u8,
    )
        .prop_map(
            |(grass, soil, kind, slope, rate, du, roots, depletion, (start, school), priority)| {
                let mut z = zone("z");
                z.grass = Grass::ALL[grass];
                z.soil = Texture::ALL[soil];
                z.sprinkler = Kind::ALL[kind];
                z.slope_pct = slope;
                z.rate_mm_h = Some(exactly(Rate::from_mm_h(rate)));
                z.evenness_du_lq = Some(exactly(du));
                z.root_depth_mm = Some(exactly(Depth::from_mm(roots)));
                z.allowable_depletion = depletion;
                z.initial_depletion_mm = Some(Depth::from_mm(start));
                z.area_m2 = Area::from_m2(200.0);
                z.exposure = Exposure::FullSun;
                z.priority = priority;
                z.school = school;
                z
            },
        )
}

/// Plain refills are the water balance's.
fn by_balance(zone: Zone) -> Zone {
    Zone {
        school: School::WaterBalance,
        ..zone
    }
}

pub fn any_site() -> impl Strategy<Value = SiteDocument> {
    (
        prop::collection::vec(any_zone(), 1..5),
        prop::collection::vec(any::<bool>(), 7),
        0..3usize,
        1..10i8,
        prop::option::of(1..5i8),
    )
        .prop_map(|(mut zones, open, rule, hours, evening)| {
            for (i, z) in zones.iter_mut().enumerate() {
                z.id = format!("z{i}");
            }
            let mut document = site(zones);
            let days: Vec<Weekday> = Weekday::ALL
                .into_iter()
                .zip(open)
                .filter_map(|(d, on)| on.then_some(d))
                .collect();
            document.windows[0].dates = [DateRule::Any, DateRule::Odd, DateRule::Even][rule];
            document.windows[0].to = jiff::civil::time(3 + hours, 0, 0, 0);
            if days.is_empty() {
                document.windows.clear();
            } else {
                document.windows[0].days = days;
                if let Some(hours) = evening {
                    let mut second = document.windows[0].clone();
                    second.from = jiff::civil::time(18, 0, 0, 0);
                    second.to = jiff::civil::time(18 + hours, 0, 0, 0);
                    document.windows.push(second);
                }
            }
            document
        })
}

pub fn any_weather(days: usize) -> impl Strategy<Value = Vec<DailyWeather>> {
    prop::collection::vec(
        (0.0..10.0f64, prop_oneof![3 => Just(0.0), 1 => 0.0..60.0f64]),
        days,
    )
    .prop_map(|days| {
        days.into_iter()
            .enumerate()
            .map(|(i, (et0, rain))| {
                let on = date(2026, 4, 20)
                    .checked_add(i64::try_from(i).unwrap().days())
                    .unwrap();
                plain(on, et0, rain)
            })
            .collect()
    })
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 96, ..ProptestConfig::default() })]

    #[test]
    fn the_balance_closes_and_stays_within_bounds(document in any_site(), record in any_weather(60)) {
        let (from, to) = (record[0].date, record[59].date);
        let rows = replay(&document, &record, from, to, Foresight::None).unwrap();
        prop_assert_eq!(rows.len(), 60 * document.zones.len());
        let zones = document.zones.len();
        for (i, row) in rows.iter().enumerate() {
            let b = &row.balance;
            let change = b.eta - b.effective_rain - b.irrigation.net + b.drainage + b.adjustment;
            prop_assert!((b.end - b.start - change).abs().mm() < 1e-9, "{row:?}");
            prop_assert!(b.end >= Depth::ZERO && b.end <= row.taw);
            prop_assert!(b.ks >= 0.0 && b.ks <= 1.0);
            if i >= zones {
                prop_assert_eq!(rows[i - zones].balance.end, b.start);
            }
        }
    }

    #[test]
    fn the_same_inputs_give_the_same_plan_and_the_clock_is_kept(document in any_site(), record in any_weather(40)) {
        let known = Known::of_record(&document, &record, record[39].date.checked_add(1.day()).unwrap());
        let plan = plan_week(&known).unwrap();
        nothing_overlaps(&plan);
        prop_assert_eq!(&plan, &plan_week(&known).unwrap());
        for cell in plan.zones.iter().flat_map(|z| &z.cells) {
            if let Some(run) = &cell.run {
                let total: i64 = cell.ledger.iter().filter_map(lawn::view::ledger::Line::seconds).sum();
                prop_assert_eq!(total, run.run_s);
            }
        }
    }

    #[test]
    fn a_morning_decided_alone_is_the_morning_of_the_whole_week(document in any_site(), dry in prop::collection::vec(0.0..1.0f64, 5), et0 in 0.0..9.0f64) {
        let zone = document.site.zone().unwrap();
        let today = date(2026, 6, 1);
        let calendar = lawn::site::calendar::days(&document, &zone, today, HORIZON);
        let weather = week_of(et0);
        let models: Vec<_> = document.zones.iter().map(model).collect();
        let morning = DryMorning {
            zones: &document.zones,
            models: &models,
            depletion: models.iter().zip(&dry).map(|(m, dry)| m.taw * *dry).collect(),
            openings: slot::openings(&calendar, None),
            weather,
        };
        let whole: Vec<_> = morning.week().zones.iter().map(|z| z.on(0).map(|p| p.act).collect()).collect();
        let alone: Vec<Vec<_>> = morning.today().iter().map(|z| z.iter().map(|p| p.act).collect()).collect();
        for (alone, whole) in alone.iter().zip(&whole) {
            let whole: &Vec<_> = whole;
            prop_assert_eq!(alone, whole);
        }
    }

    #[test]
    fn a_dose_never_gives_more_than_asked_nor_outlasts_its_window(z in any_zone(), net in 0.5..60.0f64, minutes in 10..600i64) {
        let m = model(&z);
        if let Some(d) = dose(&m, Depth::from_mm(net), minutes * 60) {
            prop_assert!(d.irrigation.net.mm() <= net + 1e-9, "{d:?}");
            prop_assert!(d.span_s() <= minutes * 60);
            prop_assert!(d.pass_s >= m.least_pass_s && d.pass_s % m.step_s == 0);
            prop_assert!(d.irrigation.net <= capacity(&m, minutes * 60) + Depth::from_mm(1e-9));
        }
    }

    #[test]
    fn less_depletion_never_turns_hold_into_water_nor_raises_the_dose(
        z in any_zone().prop_map(by_balance), open in 1..128u8, hours in 1..10i64, et0 in 0.0..9.0f64, dry in 0.0..1.0f64, less in 0.0..1.0f64,
    ) {
        let m = model(&z);
        let weather = week_of(et0);
        let first = |depletion: Depth| {
            let morning = DryMorning {
                zones: std::slice::from_ref(&z),
                models: std::slice::from_ref(&m),
                depletion: vec![depletion],
                openings: openings(open, hours * 3600),
                weather,
            };
            let today = morning.today();
            today[0].first().and_then(Proposal::dose).map_or(Depth::ZERO, |d| d.irrigation.net)
        };
        // The first opportunity today, so that the depletion of its dawn is the one that is set.
        prop_assume!(open & 1 == 1);
        let wet = first(m.taw * (dry * less));
        let drier = first(m.taw * dry);
        // Equal passes are rounded down to the step: one pass more may lose up to a step each.
        let step = m.net_of_gross(m.rate.value * lawn::quantity::RunTime::from_whole_s(m.step_s * 60));
        prop_assert!(wet <= drier + step, "{wet:?} after less, {drier:?} after more");
        prop_assert!(drier > Depth::ZERO || wet == Depth::ZERO);
    }

    #[test]
    fn more_rain_raises_the_irrigation_of_a_replay_by_at_most_one_refill(z in any_zone().prop_map(by_balance), record in any_weather(60), at in 0..60usize, more in 0.0..40.0f64) {
        let mut document = site(vec![z]);
        document.zones[0].id = "z".to_owned();
        let total = |record: &[DailyWeather]| {
            replay(&document, record, record[0].date, record[59].date, Foresight::Refills)
                .unwrap()
                .iter()
                .map(|r| r.balance.irrigation.net)
                .sum::<Depth>()
        };
        let before = total(&record);
        let mut wetter = record;
        wetter[at].rain += Depth::from_mm(more);
        let taw = model(&document.zones[0]).taw;
        prop_assert!(total(&wetter) <= before + taw + Depth::from_mm(1e-6));
    }

    #[test]
    fn drainage_only_above_field_capacity_and_et_never_more_than_there_is(z in any_zone(), dry in 0.0..1.0f64, et0 in 0.0..12.0f64, rain in 0.0..80.0f64, net in 0.0..40.0f64) {
        let m = model(&z);
        let irrigation = Irrigation { gross: Depth::from_mm(net), net: Depth::from_mm(net), runoff: Depth::ZERO };
        let b = root_zone::day(&m, m.taw * dry, &plain(date(2026, 6, 1), et0, rain), irrigation);
        prop_assert!(b.drainage == Depth::ZERO || b.end.mm() < 1e-9);
        prop_assert!(b.eta <= b.etc);
        prop_assert!((b.rain - b.effective_rain - b.rain_runoff).mm() >= -1e-9);
    }

    #[test]
    fn a_narrower_range_never_widens_the_minutes(low in 5.0..40.0f64, span in 0.0..40.0f64, a in 0.0..1.0f64, b in 0.0..1.0f64, net in 1.0..30.0f64) {
        let minutes = |rate: f64| {
            let mut z = zone("z");
            z.rate_mm_h = Some(exactly(Rate::from_mm_h(rate)));
            let m = model(&z);
            (m.gross_of_net(Depth::from_mm(net)) / m.rate.value).minutes()
        };
        let (lower, upper) = (a.min(b), a.max(b));
        let wide = minutes(low) / minutes(low + span);
        let narrow = minutes(low + span * lower) / minutes(low + span * upper);
        prop_assert!(narrow <= wide + 1e-12);
    }
}
