//! When to sow, planned backwards from frost, what it takes, its stages, and how it went.

use jiff::ToSpan;
use jiff::civil::{Date, date};
use lawn::engine::seedling::{Seedling, Stage};
use lawn::engine::sown::Plot;
use lawn::new_grass::backwards::{Clash, Judge, Line, Point, Set, What};
use lawn::new_grass::materials::{Item, Labels, Task, materials};
use lawn::new_grass::method::Method;
use lawn::new_grass::season::{InSeason, in_season};
use lawn::new_grass::stages::{When, feeds, stages, weed_killers_clear};
use lawn::new_grass::stand::{Count, Verdict, stand};
use lawn::new_grass::weeks::{Fate, InHours, StartWeek, Weeks, fate, plot, weeks};
use lawn::quantity::Area;
use lawn::site::rules::{Never, Rule, Says};
use lawn::site::{Hours, NewGrassAs, SiteDocument, Weekday};
use lawn::stress::repair::{Sow, SowBy};
use lawn::weather::DailyWeather;
use proptest::prelude::*;
use science::turf::Grass;
use standins::climate::Climate;

use crate::fixture::{TODAY, made_up, plain, site, window, zone};

const SPRAYED: What = What::Spray;

/// A site of one zone with hours from three to eight in the evening, and a record of its past.
fn meadow(grass: Grass, climate: Climate, years: i16) -> (SiteDocument, Vec<DailyWeather>) {
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
        let found = weeks(document, 0, sown, hours, &record, TODAY).unwrap();
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
    assert!(grown(0..20).up.unwrap() > grown(0..0).up.unwrap());
    assert_eq!(fate(&grown(0..60)), Fate::Fails);
}

fn judged<T>(
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
        record,
        latitude: 36.4,
        today: TODAY,
    })
}

fn point(line: &Line, what: What) -> &Point {
    line.points.iter().find(|p| p.what == what).unwrap()
}

#[test]
fn planned_backwards_all_days_go_together_and_each_clash_has_its_first_day() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 12);
    let (set, line) = judged(&document, &record, Method::Seed, |judge| {
        let set = judge.proposed();
        (set, judge.line(&set))
    });
    assert!(line.points.iter().all(|p| p.clashes.is_empty()), "{line:?}");
    assert_eq!(set.spray, Some(set.sow.saturating_sub(28.days())));
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
    assert!(sow.clashes.contains(&Clash::SprayWait { days: 28 }));
    assert!(sow.clashes.contains(&Clash::WorkedAfter));
    assert_eq!(sow.first_works, Some(set.sow));
    let spray = point(&early, SPRAYED);
    assert_eq!(spray.clashes, [Clash::SprayWait { days: 28 }]);
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

/// Seed by the label and starter by its nitrogen: extension services' worked examples, from memory (also the doc tests of `bag_kg`, `fertilizer_kg` and `plugs`).
#[test]
fn what_it_takes_follows_area_labels_and_method() {
    let (document, record) = meadow(Grass::TallFescue, Climate::Transition, 4);
    let area = Area::from_m2(500.0);
    let line = |method| {
        judged(&document, &record, method, |judge| {
            judge.line(&judge.proposed())
        })
    };
    let bare = materials(area, &line(Method::Seed), &Labels::default());
    let seed = |m: &lawn::new_grass::materials::Materials| {
        m.items.iter().find_map(|i| match i {
            Item::Seed {
                pure_kg, bag_kg, ..
            } => Some((*pure_kg, *bag_kg)),
            _ => None,
        })
    };
    let (pure, bag) = seed(&bare).unwrap();
    assert!((pure - 20.0).abs() < 1e-9 && (bag - 24.01).abs() < 0.01);
    let over = materials(area, &line(Method::Overseed), &Labels::default());
    assert!((seed(&over).unwrap().0 - 10.0).abs() < 1e-9);
    let sod = materials(area, &line(Method::Sod), &Labels::default());
    assert!(seed(&sod).is_none());
    assert!(sod.items.contains(&Item::Sod { m2: 525.0 }));
    // The work is in order of days, and each way brings seed to the soil in its own.
    for made in [&bare, &over, &sod] {
        assert!(made.tasks.is_sorted_by_key(|task| task.on), "{made:?}");
        assert!(made.tasks.iter().all(|task| task.task != Task::Lime));
    }
    let has =
        |m: &lawn::new_grass::materials::Materials, task| m.tasks.iter().any(|t| t.task == task);
    assert!(has(&bare, Task::RakeIn) && has(&bare, Task::Spray) && !has(&bare, Task::Aerate));
    assert!(has(&over, Task::Aerate) && !has(&over, Task::Spray));
    assert!(has(&sod, Task::Tug) && has(&sod, Task::SoakThrough) && !has(&sod, Task::RakeIn));
    let limed = Labels {
        lime_kg_m2: 0.2,
        ..Labels::default()
    };
    let limed = materials(area, &line(Method::Seed), &limed);
    assert!(limed.items.contains(&Item::Lime { kg: 100.0 }) && has(&limed, Task::Lime));

    let (document, record) = meadow(Grass::Zoysiagrass, Climate::Transition, 4);
    let plugs = judged(&document, &record, Method::Plugs, |judge| {
        judge.line(&judge.proposed())
    });
    let plugs = materials(area, &plugs, &Labels::default());
    let weeks = plugs.items.iter().find_map(|i| match i {
        Item::Plugs {
            count,
            least_weeks,
            most_weeks,
            ..
        } => Some((*count, *least_weeks, *most_weeks)),
        _ => None,
    });
    let (count, least, most) = weeks.unwrap();
    assert_eq!(count, 5556);
    assert!(least > 15.0 && most < 60.0 && least < most);
}

#[test]
fn grasses_are_made_anew_in_their_own_ways() {
    let ways = |grass| {
        Method::ALL
            .into_iter()
            .filter(|m| m.suits(grass))
            .collect::<Vec<_>>()
    };
    use Method::{Overseed, Plugs, Seed, SlitSeed, Sod, Sprigs, WinterRye};
    assert_eq!(ways(Grass::TallFescue), [Seed, Overseed, SlitSeed, Sod]);
    assert_eq!(
        ways(Grass::StAugustinegrass),
        [Sod, Plugs, Sprigs, WinterRye]
    );
    assert!(ways(Grass::CommonBermudagrass).contains(&Seed));
    assert_eq!(WinterRye.sows(Grass::Zoysiagrass), Grass::PerennialRyegrass);
    assert_eq!(Plugs.sows(Grass::Zoysiagrass), Grass::Zoysiagrass);
}

#[test]
fn feed_follows_its_slow_release_share_and_how_quick_the_seed_is() {
    let sown = date(2026, 9, 1);
    let days = |grass, made, slow| {
        let feeds = feeds(grass, made, sown, slow);
        (
            (feeds[0].on - sown).get_days(),
            (feeds[1].on - feeds[0].on).get_days() / 7,
        )
    };
    // At sowing for quick germinators, one to two weeks later for slow ones; again after four weeks, or six to eight with half of it slow-release (common practice).
    assert_eq!(days(Grass::TallFescue, NewGrassAs::Seed, 0.0), (0, 4));
    let (slow_starter, half) = days(Grass::KentuckyBluegrass, NewGrassAs::Seed, 50.0);
    assert!((7..=14).contains(&slow_starter) && (6..=8).contains(&half));
    // What comes grown is fed at once.
    assert_eq!(days(Grass::KentuckyBluegrass, NewGrassAs::Sod, 0.0), (0, 4));
}

#[test]
fn weed_killers_wait_for_the_later_of_six_weeks_and_two_mowings() {
    let (up, mown) = (date(2026, 9, 8), date(2026, 9, 29));
    assert_eq!(weed_killers_clear(up, mown), date(2026, 10, 20));
    let late = date(2026, 10, 15);
    assert_eq!(weed_killers_clear(up, late), late.saturating_add(10.days()));
}

#[test]
fn stages_that_came_have_their_day_and_those_to_come_the_days_of_past_years() {
    let (_, record) = meadow(Grass::CommonBermudagrass, Climate::Transition, 6);
    let begun = Seedling {
        sown_on: date(2026, 6, 5),
        warmth_c_d: 60.0,
        stage: Stage::NotUp,
        since: date(2026, 6, 5),
        seen: None,
        made: NewGrassAs::Seed,
    };
    let up = Seedling {
        warmth_c_d: 215.0,
        stage: Stage::Up,
        since: date(2026, 6, 16),
        seen: Some(Stage::Up),
        ..begun
    };
    let began = [
        (date(2026, 6, 10), begun),
        (date(2026, 6, 16), up),
        (TODAY, up),
    ];
    let told = stages(Grass::CommonBermudagrass, &began, &[], &record, 0.0).unwrap();
    assert_eq!(
        told.stages[0].when,
        When::Began {
            on: date(2026, 6, 16),
            seen: true
        }
    );
    let When::Comes { by } = told.stages[1].when else {
        panic!("{told:?}")
    };
    assert_eq!(by.years, 6);
    assert!(by.low <= by.middle && by.middle <= by.high && by.low > TODAY);
    assert!(told.weed_killers_from.unwrap() >= date(2026, 7, 28));
    // High, and never more than a third of the blade.
    assert!((told.mow_at_mm / told.mow_from_mm - 2.0 / 3.0).abs() < 1e-12);
    assert!(stages(Grass::CommonBermudagrass, &[], &[], &record, 0.0).is_none());
    let unknown = stages(Grass::CommonBermudagrass, &began, &[], &[], 0.0).unwrap();
    assert_eq!(unknown.stages[1].when, When::NotKnown);
}

#[test]
fn a_count_tells_good_thin_and_sparse_and_what_is_sown_again() {
    // Tall fescue: 40 g/m² of 500 seeds a gram, half of them up: 100 on a square decimetre.
    let by = Some(SowBy::Day {
        date: date(2026, 9, 30),
        autumns: 9,
    });
    let told = |counts: &[u32]| {
        let count = Count {
            date: TODAY,
            frame_mm: 100,
            counts: counts.to_vec(),
        };
        count.validate().unwrap();
        let sown = (Grass::TallFescue, NewGrassAs::Seed);
        stand(sown, Area::from_m2(200.0), count, by, TODAY)
    };
    let good = told(&[90, 110, 70, 100]);
    assert_eq!(
        (good.good_dm2, good.verdict),
        (Some(100.0), Some(Verdict::Good))
    );
    assert_eq!((good.again_m2.m2(), good.seed_kg), (0.0, None));
    // Good on the whole, with a bare quarter of it.
    let patchy = told(&[110, 100, 95, 2]);
    assert_eq!(patchy.verdict, Some(Verdict::Good));
    assert!((patchy.again_m2.m2() - 50.0).abs() < 1e-9);
    assert!((patchy.seed_kg.unwrap() - 2.0).abs() < 1e-9);
    assert!(matches!(patchy.sow, Some(Sow::SprayFirst { .. })));
    assert_eq!(told(&[40, 30, 50]).verdict, Some(Verdict::Thin));
    let sparse = told(&[10, 5, 20]);
    assert_eq!(sparse.verdict, Some(Verdict::Sparse));
    assert!((sparse.again_m2.m2() - 200.0).abs() < 1e-9);
    // Into a lawn half as much is sown, and half as many are good; sod is not counted.
    let as_made = |made| {
        let counts = vec![55, 45, 50];
        let count = Count {
            date: TODAY,
            frame_mm: 100,
            counts,
        };
        let made = (Grass::TallFescue, made);
        stand(made, Area::from_m2(200.0), count, by, TODAY).verdict
    };
    assert_eq!(as_made(NewGrassAs::Seed), Some(Verdict::Thin));
    assert_eq!(as_made(NewGrassAs::Overseed), Some(Verdict::Good));
    assert_eq!(as_made(NewGrassAs::Sod), None);
    let too_few = Count {
        date: TODAY,
        frame_mm: 100,
        counts: vec![3, 4],
    };
    assert_eq!(too_few.validate().unwrap_err().field, "counts");
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
            if let (Some(dry), Some(wet)) = (dry.up, wet.up) {
                prop_assert!(wet <= dry);
            }
            prop_assert_eq!(dry.runs, 0);
            if let Some(season) = in_season(grass, Method::Seed, &days) {
                // What stands in season is mown in the days that are looked at.
                prop_assert!(season != InSeason::Good || wet.mown.is_some());
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
