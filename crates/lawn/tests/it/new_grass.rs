//! When to sow by past years, and planned backwards from frost.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::seedling::{Seedling, Stage};
use lawn::engine::sown::Plot;
use lawn::new_grass::backwards::{Clash, Judge, Line, Point, Set, What};
use lawn::new_grass::method::Method;
use lawn::new_grass::season::{InSeason, SeasonAhead, in_season};
use lawn::new_grass::weeks::{Fate, InHours, StartWeek, Weeks, fate, plot, weeks};
use lawn::site::rules::{Never, Rule, Says};
use lawn::site::{Hours, NewGrassAs, SiteDocument, Weekday};
use lawn::wanted::always;
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::turf::Grass;
use standins::climate::Climate;

use crate::fixture::{TODAY, made_up, plain, site, window, zone};

const SPRAYED: What = What::Spray;

/// A site of one zone with hours from three to eight in the evening, and a record of its past.
pub fn meadow(grass: Grass, climate: Climate, years: i16) -> (SiteDocument, Vec<DailyWeather>) {
    let mut zone = zone("a");
    zone.grass = grass;
    let mut document = site(vec![zone]);
    document.windows = vec![window(&Weekday::ALL, "03:00", "20:00")];
    let from = date(2026 - years, 1, 1);
    let record = made_up(&document, climate, 7, from, date(2026, 6, 17));
    (document, record)
}

fn found(document: &SiteDocument, record: &[DailyWeather], method: Method) -> Weeks {
    let zone = &document.zones[0];
    weeks(
        &always,
        document,
        0,
        (zone.grass, method),
        InHours::Site,
        record,
        TODAY,
    )
    .unwrap()
}

/// The week in which a day lies.
fn week_of(weeks: &Weeks, day: Date) -> &StartWeek {
    weeks.weeks.iter().rfind(|w| w.from <= day).unwrap()
}

/// The trade's windows in a transition climate (common practice, no source): cool-season grass in September, spring second, midsummer only as sod; of a warm season late
/// spring into early summer.
#[test]
fn weeks_in_season_are_those_that_practitioners_name() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 12);
    let seed = found(&document, &record, Method::Seed);
    assert_eq!(seed.weeks.len(), 52);
    for (day, expected) in [
        (date(2026, 7, 20), false),
        (date(2026, 9, 12), true),
        (date(2026, 9, 26), true),
        (date(2026, 10, 25), false),
        (date(2026, 12, 20), false),
        (date(2027, 4, 20), true),
        (date(2027, 6, 10), false),
    ] {
        let week = week_of(&seed, day);
        assert!(week.years >= 12);
        assert_eq!(week.is_in_season, expected, "{day}: {:?}", week.seasons);
    }
    assert!(week_of(&seed, date(2026, 7, 20)).seasons.too_hot > 6);
    assert!(week_of(&seed, date(2026, 10, 25)).seasons.frost >= 9);
    assert!(week_of(&seed, date(2027, 1, 20)).seasons.too_cold >= 9);
    let sod = found(&document, &record, Method::Sod);
    assert!(week_of(&sod, date(2026, 7, 20)).is_in_season);

    let (document, record) = meadow(Grass::CommonBermudagrass, Climate::Transition, 12);
    let warm = found(&document, &record, Method::Seed);
    for (day, expected) in [
        (date(2026, 6, 25), true),
        (date(2026, 9, 20), false),
        (date(2027, 3, 20), false),
        (date(2027, 6, 5), true),
    ] {
        let week = week_of(&warm, day);
        assert_eq!(week.is_in_season, expected, "{day}: {:?}", week.seasons);
    }
}

#[test]
fn watered_it_stands_and_on_rain_alone_it_takes_its_chance() {
    let (document, record) = meadow(Grass::TallFescue, Climate::MediterraneanDry, 12);
    let seed = found(&document, &record, Method::Seed);
    let july = week_of(&seed, date(2026, 7, 20));
    assert_eq!(july.watered.stands, july.years);
    assert!(july.rain_fed.fails > july.years / 2, "{:?}", july.rain_fed);
    // A hot dry month takes a few waterings a day, and some hundred litres on each square metre.
    let depth_mm = july.water_l.unwrap().middle.l() / 500.0;
    assert!((60.0..300.0).contains(&depth_mm), "{depth_mm}");
    assert!((3.0..=6.0).contains(&july.most_a_day.unwrap().middle));
    // The trade's days until it is up (TRADE's 7 to 14, fast ones from 3).
    let up = july.up_days.unwrap();
    assert!(up.low >= 3.0 && up.high <= 14.0, "{up:?}");
    let winter = week_of(&seed, date(2026, 11, 10));
    assert!(
        winter.rain_fed.stands + winter.rain_fed.thin > july.rain_fed.stands + july.rain_fed.thin
    );
    assert!(winter.water_l.unwrap().middle.l() < july.water_l.unwrap().middle.l());
}

#[test]
fn a_ban_ahead_is_said_with_its_rule_and_leaves_what_rain_gives() {
    let (mut document, record) = meadow(Grass::TallFescue, Climate::Transition, 4);
    document.rules.list = vec![Rule {
        name: "Stage 3".to_owned(),
        from: Some(date(2026, 8, 1)),
        to: None,
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says: Says::Never(Never::default()),
    }];
    let seed = found(&document, &record, Method::Seed);
    let before = week_of(&seed, date(2026, 6, 20));
    assert_eq!((before.closed_days, before.closed_by.as_deref()), (0, None));
    let banned = week_of(&seed, date(2026, 9, 12));
    assert_eq!(banned.closed_days, 28);
    assert_eq!(banned.closed_by.as_deref(), Some("Stage 3"));
    assert_eq!(banned.watered, banned.rain_fed);
}

#[test]
fn hours_of_the_day_are_taken_unless_the_sites_own_are_wanted() {
    let (mut document, record) = meadow(Grass::TallFescue, Climate::MediterraneanDry, 6);
    document.windows = vec![window(
        &[Weekday::Monday, Weekday::Thursday],
        "02:00",
        "06:00",
    )];
    let july = |document: &SiteDocument, hours| {
        let sown = (Grass::TallFescue, Method::Seed);
        let found = weeks(&always, document, 0, sown, hours, &record, TODAY).unwrap();
        let week = week_of(&found, date(2026, 7, 20));
        (week.watered.stands, week.closed_days)
    };
    assert_eq!(july(&document, InHours::Day), (6, 0));
    assert_eq!(july(&document, InHours::Site), (0, 20));
    document.zones[0].new_grass_hours = Some(Hours {
        from: jiff::civil::time(6, 0, 0, 0),
        to: jiff::civil::time(7, 0, 0, 0),
    });
    assert!(july(&document, InHours::Day).0 <= 6);
}

#[test]
fn without_a_past_nothing_is_claimed() {
    let (document, _) = meadow(Grass::TallFescue, Climate::Transition, 2);
    let none = found(&document, &[], Method::Seed);
    assert!(
        none.weeks
            .iter()
            .all(|w| w.years == 0 && !w.is_in_season && w.water_l.is_none())
    );
    let line = judged(&document, &[], Method::Seed, |judge| {
        judge.line(&judge.proposed())
    });
    assert!(line.points.iter().all(|p| p.clashes.is_empty()), "{line:?}");
    assert!(line.points.iter().all(|p| p.what != What::Frost));
}

#[test]
fn a_dry_week_thins_it_and_two_kill_it() {
    let (document, _) = meadow(Grass::TallFescue, Climate::Transition, 2);
    let plot: Plot = plot(
        &document,
        0,
        (Grass::TallFescue, Method::Seed),
        InHours::Site,
        TODAY,
    )
    .unwrap();
    // 10 °C·d a day while its surface is moist: up after eleven days.
    let grown = |dry: std::ops::Range<i64>| {
        let days: Vec<DailyWeather> = (0..60)
            .map(|i| {
                let rain = if dry.contains(&i) { 0.0 } else { 6.0 };
                plain(TODAY.saturating_add(i.days()), 4.0, rain)
            })
            .collect();
        plot.grow(0, &days, false)
    };
    assert_eq!(fate(&grown(0..0)), Fate::Stands);
    assert_eq!(fate(&grown(3..8)), Fate::Stands);
    assert_eq!(fate(&grown(3..14)), Fate::Thin);
    assert_eq!(fate(&grown(3..24)), Fate::Fails);
    // Seed that lies dry from the first day on waits for the rain, unharmed.
    assert_eq!(fate(&grown(0..20)), Fate::Stands);
    assert!(grown(0..20).first.up.unwrap() > grown(0..0).first.up.unwrap());
    assert_eq!(fate(&grown(0..60)), Fate::Fails);
}

/// TRADE: the first mowing is never sooner than 18 days after it is up, whatever the warmth (common practice, no source).
#[test]
fn seed_has_its_days_before_it_is_mown_however_warm() {
    let days: Vec<DailyWeather> = (0..90)
        .map(|i| DailyWeather {
            tmin_c: Some(28.0),
            tmax_c: Some(38.0),
            ..plain(TODAY.saturating_add(i.days()), 6.0, 6.0)
        })
        .collect();
    let course = |stage, made| {
        let grass = Grass::CommonBermudagrass;
        Seedling::at(stage, TODAY, grass, made).course(&days, grass)
    };
    let of_seed = course(Stage::NotUp, NewGrassAs::Seed);
    let (up, mown) = (of_seed.up.unwrap(), of_seed.mown.unwrap());
    assert_eq!(mown, up.saturating_add(18.days()));
    // Sod comes grown.
    let of_sod = course(Stage::FillingIn, NewGrassAs::Sod);
    assert!(of_sod.mown.unwrap() < mown);
}

pub fn judged<T>(
    document: &SiteDocument,
    record: &[DailyWeather],
    method: Method,
    of: impl FnOnce(&Judge) -> T,
) -> T {
    let zone = &document.zones[0];
    let plot = plot(document, 0, (zone.grass, method), InHours::Site, TODAY).unwrap();
    let rules: Vec<String> = document.rules.list.iter().map(|r| r.name.clone()).collect();
    of(&Judge {
        sown: (zone.grass, method),
        plot: &plot,
        rules: &rules,
        season: SeasonAhead::of(zone.grass, method, record, TODAY),
        record,
        latitude: 36.4,
        today: TODAY,
    })
}

fn point(line: &Line, what: What) -> &Point {
    line.points.iter().find(|p| p.what == what).unwrap()
}

/// The band, the proposal, a day's clash and the first day that works go by one rule.
#[test]
fn weeks_and_the_line_say_the_same_of_each_day() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 12);
    let weeks = found(&document, &record, Method::Seed);
    judged(&document, &record, Method::Seed, |judge| {
        let set = judge.proposed();
        assert!(week_of(&weeks, set.sow).is_in_season);
        for days in (0..360).step_by(12) {
            let day = TODAY.saturating_add(days.days());
            let line = judge.line(&Set {
                spray: None,
                soil_work: day,
                sow: day,
                ..set
            });
            let sow = point(&line, What::Sow);
            let mut clashes = sow.clashes.iter();
            let clash = clashes.find(|c| matches!(c, Clash::Season { .. }));
            let week = week_of(&weeks, day);
            assert_eq!(clash.is_none(), week.is_in_season, "{day}");
            if let Some(Clash::Season { years, of, .. }) = clash {
                assert_eq!(*of, week.years);
                assert!(*years <= of - week.seasons.good);
            }
            let first = sow.first_works.map(|first| week_of(&weeks, first));
            assert!(first.is_none_or(|week| week.is_in_season), "{line:?}");
        }
    });
}

#[test]
fn planned_backwards_all_days_go_together_and_each_clash_has_its_first_day() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 12);
    let (set, line) = judged(&document, &record, Method::Seed, |judge| {
        let set = judge.proposed();
        (set, judge.line(&set))
    });
    assert!(line.points.iter().all(|p| p.clashes.is_empty()), "{line:?}");
    assert_eq!(set.spray, Some(set.sow.saturating_sub(21.days())));
    assert!(
        (date(2026, 8, 20)..=date(2026, 9, 30)).contains(&set.sow),
        "{set:?}"
    );
    let order: Vec<Date> = line.points.iter().map(|p| p.on).collect();
    assert!(order.is_sorted(), "{order:?}");
    let frost = point(&line, What::Frost);
    assert!(frost.on >= set.sow.saturating_add(45.days()));

    let moved = |change: &dyn Fn(&mut Set)| {
        let mut moved = set;
        change(&mut moved);
        judged(&document, &record, Method::Seed, |judge| judge.line(&moved))
    };
    // Sown too soon after the spray: both say so; sowing works again when the wait is over.
    let early = moved(&|set| set.sow = set.sow.saturating_sub(10.days()));
    let sow = point(&early, What::Sow);
    assert!(sow.clashes.contains(&Clash::SprayWait { days: 21 }));
    assert!(sow.clashes.contains(&Clash::WorkedAfter));
    assert_eq!(sow.first_works, Some(set.sow));
    let spray = point(&early, SPRAYED);
    assert_eq!(spray.clashes, [Clash::SprayWait { days: 21 }]);
    assert_eq!(spray.first_works, Some(TODAY));
    // The label asks for less: it goes.
    let short = moved(&|set| {
        set.wait_days = 14;
        set.sow = set.sow.saturating_sub(1.days());
        set.soil_work = set.sow;
    });
    assert!(
        point(&short, What::Sow).clashes.is_empty(),
        "{set:?} {short:?}"
    );
    // Too late for frost: the first day that works is the next spring's, or this autumn's.
    let late = moved(&|set| {
        set.spray = None;
        set.sow = date(2026, 10, 28);
        set.soil_work = TODAY;
    });
    let sow = point(&late, What::Sow);
    assert!(
        matches!(sow.clashes[..], [Clash::Season { season: InSeason::Frost, years, of }] if years > 9 && of == 12),
        "{sow:?}"
    );
    assert!(sow.first_works.unwrap() < date(2026, 10, 1));
    // In July it is too hot; the soil is worked before the spray has worked; what is over is over.
    let hot = moved(&|set| {
        set.spray = Some(set.soil_work.saturating_sub(3.days()));
        set.sow = date(2026, 7, 15);
    });
    let season = |line: &Line| {
        point(line, What::Sow).clashes.iter().find_map(|c| match c {
            Clash::Season { season, .. } => Some(*season),
            _ => None,
        })
    };
    assert_eq!(season(&hot), Some(InSeason::TooHot));
    let soil = point(&hot, What::SoilWork);
    assert!(soil.clashes.contains(&Clash::SprayWorks { days: 7 }));
    assert_eq!(
        soil.first_works, None,
        "no day lies between the spray's seventh and July"
    );
    let over = moved(&|set| set.soil_work = date(2026, 6, 1));
    assert_eq!(point(&over, What::SoilWork).clashes, [Clash::Over]);
    assert_eq!(
        point(&over, What::SoilWork).first_works.unwrap(),
        set.spray.unwrap().saturating_add(7.days())
    );
}

#[test]
fn a_ban_between_sowing_and_weaning_clashes() {
    let (mut document, record) = meadow(Grass::TallFescue, Climate::Transition, 6);
    document.rules.list = vec![Rule {
        name: "Autumn ban".to_owned(),
        from: Some(date(2026, 9, 1)),
        to: Some(date(2026, 9, 30)),
        stage: None,
        zones: Vec::new(),
        exempt: Vec::new(),
        says: Says::Never(Never::default()),
    }];
    let set = Set {
        spray: None,
        soil_work: date(2026, 8, 1),
        sow: date(2026, 9, 12),
        wait_days: 28,
    };
    let line = judged(&document, &record, Method::Seed, |judge| judge.line(&set));
    let closed = point(&line, What::Sow)
        .clashes
        .iter()
        .find_map(|c| match c {
            Clash::Closed { days, rule } => Some((*days, rule.clone())),
            _ => None,
        });
    let (days, rule) = closed.unwrap();
    assert!((7..=19).contains(&days));
    assert_eq!(rule.as_deref(), Some("Autumn ban"));
}

#[test]
fn warm_season_grass_is_planned_as_early_as_it_may_be_and_rye_has_an_end() {
    let (document, record) = meadow(Grass::CommonBermudagrass, Climate::Transition, 8);
    let warm = judged(&document, &record, Method::Seed, |judge| judge.proposed());
    assert!(warm.sow < date(2026, 7, 1), "{warm:?}");
    let rye = judged(&document, &record, Method::WinterRye, |judge| {
        judge.line(&judge.proposed())
    });
    let sow = point(&rye, What::Sow);
    assert!(
        (date(2026, 9, 1)..date(2026, 11, 15)).contains(&sow.on),
        "{sow:?}"
    );
    let ends = point(&rye, What::RyeEnds);
    assert!(
        (date(2027, 3, 15)..date(2027, 6, 15)).contains(&ends.on),
        "{ends:?}"
    );
}

/// Sod is mown first two to three weeks after it was laid in mild weather (common practice, no source), and weaned before that.
#[test]
fn sod_is_weaned_on_the_line_as_it_is_watered() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 6);
    let line = judged(&document, &record, Method::Sod, |judge| {
        let set = Set {
            spray: None,
            soil_work: date(2026, 9, 8),
            sow: date(2026, 9, 10),
            wait_days: 28,
        };
        judge.line(&set)
    });
    assert!(line.points.iter().all(|p| p.what != What::Up));
    let [sow, weaning, mown] =
        [What::Sow, What::Weaning, What::FirstMowing].map(|what| point(&line, what).on);
    assert!(sow < weaning && weaning < mown, "{line:?}");
    assert!((9..=21).contains(&(mown - sow).get_days()), "{line:?}");
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// Whatever the climate, grass and day: watering never makes a sowing worse, and a day that is said to work does.
    #[test]
    fn watering_never_harms_and_first_days_work(
        climate in prop::sample::select(vec![Climate::Transition, Climate::HumidCool, Climate::MediterraneanDry, Climate::Continental]),
        grass in prop::sample::select(vec![Grass::TallFescue, Grass::KentuckyBluegrass, Grass::CommonBermudagrass]),
        at in 0usize..300, sow in 0i64..330, soil in -5i64..330, spray in prop::option::of(-5i64..330),
    ) {
        let (document, record) = meadow(grass, climate, 3);
        let plot = plot(&document, 0, (grass, Method::Seed), InHours::Site, TODAY).unwrap();
        let from = TODAY.saturating_add(i64::try_from(at).unwrap().days());
        for (_, days) in lawn::weather::past_years::on_days(&record, from..=from.saturating_add(119.days())) {
            let dry = plot.grow(at, &days, false);
            let wet = plot.grow(at, &days, true);
            prop_assert!(wet.dry_running <= dry.dry_running.max(1), "{:?} {:?}", wet, dry);
            if let (Some(dry), Some(wet)) = (dry.first.up, wet.first.up) {
                prop_assert!(wet <= dry);
            }
            prop_assert_eq!(dry.runs, 0);
            if let Some(season) = in_season(grass, Method::Seed, &days) {
                // What stands in season is mown in the days that are looked at.
                prop_assert!(season != InSeason::Good || wet.first.mown.is_some());
            }
        }
        let day = |n: i64| TODAY.saturating_add(n.days());
        let set = Set { spray: spray.map(day), soil_work: day(soil), sow: day(sow), wait_days: 28 };
        judged(&document, &record, Method::Seed, |judge| {
            let line = judge.line(&set);
            for point in &line.points {
                let Some(works) = point.first_works else { continue };
                assert!(!point.clashes.is_empty() && works >= TODAY);
                let mut moved = set;
                match point.what {
                    What::Spray => moved.spray = Some(works),
                    What::SoilWork => moved.soil_work = works,
                    _ => moved.sow = works,
                }
                let line = judge.line(&moved);
                let again = line.points.iter().find(|p| p.what == point.what).unwrap();
                assert!(again.clashes.is_empty(), "{point:?} {again:?}");
            }
        });
    }
}
