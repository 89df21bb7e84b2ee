//! What new grass takes, its feeding and weeding, its stages, and how it went.

use jiff::ToSpan;
use jiff::civil::date;
use lawn::engine::history::ZoneHistory;
use lawn::engine::seedling::{Seedling, Stage};
use lawn::new_grass::materials::{Item, Labels, Task, materials};
use lawn::new_grass::method::Method;
use lawn::new_grass::stages::{When, feeds, stages, weed_killers_clear};
use lawn::new_grass::stand::{Count, Verdict, stand};
use lawn::quantity::Area;
use lawn::site::{NewGrassAs, Regime, Zone};
use lawn::stress::repair::{Sow, SowBy};
use science::turf::Grass;
use standins::climate::Climate;

use crate::fixture::{TODAY, site, zone};
use crate::new_grass::{judged, meadow};

#[test]
fn hybrid_bermudagrass_is_planted_before_it_is_sown() {
    let ways = Method::of(Grass::HybridBermudagrass);
    assert_eq!(ways[..3], [Method::Sprigs, Method::Plugs, Method::Sod]);
    assert!(
        ways.contains(&Method::Seed),
        "kinds that are named as seeded"
    );
    assert_eq!(Method::of(Grass::CommonBermudagrass)[0], Method::Seed);
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
    let ways = Method::of;
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
        up_since: None,
        seen: None,
        made: NewGrassAs::Seed,
        dry_running: 0,
        is_in_doubt: false,
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
    // Warmth said it was up on the 14th, and somebody saw it on the 16th: that is its first day.
    let early = Seedling {
        since: date(2026, 6, 14),
        seen: None,
        ..up
    };
    let told_twice = [
        (date(2026, 6, 10), begun),
        (date(2026, 6, 14), early),
        (date(2026, 6, 16), up),
        (TODAY, up),
    ];
    let later = stages(Grass::CommonBermudagrass, &told_twice, &[], &record, 0.0).unwrap();
    assert_eq!(later.stages[0].when, told.stages[0].when);
    let unknown = stages(Grass::CommonBermudagrass, &began, &[], &[], 0.0).unwrap();
    assert_eq!(unknown.stages[1].when, When::NotKnown);
}

#[test]
fn new_grass_is_a_lawn_on_the_morning_on_which_its_roots_are_as_deep_as_the_zones_own() {
    let document = site(vec![Zone {
        regime: Regime::Seedbed,
        ..zone("sown")
    }]);
    let history = ZoneHistory::of(&document, &document.zones[0]);
    let mown = Seedling::at(
        Stage::Established,
        TODAY,
        Grass::TallFescue,
        NewGrassAs::Seed,
    );
    let roots = |on| history.grown(on, Some(&mown)).model.root_depth.value;
    let own = history.on(TODAY).model.root_depth.value;
    let lawn = history.lawn_from(TODAY, &mown).unwrap();
    // A centimetre a week, from 3 cm on (common practice, no source).
    assert!((roots(TODAY).mm() - 30.0).abs() < 1e-9);
    assert!((roots(TODAY.saturating_add(7.days())).mm() - 40.0).abs() < 1e-9);
    assert!(roots(lawn) == own && roots(lawn.yesterday().unwrap()) < own);
    // What is not mown yet is none, nor is a zone that is no new grass.
    let filling = Seedling {
        stage: Stage::FillingIn,
        ..mown
    };
    assert_eq!(history.lawn_from(TODAY, &filling), None);
    let turf = site(vec![zone("turf")]);
    let turf = ZoneHistory::of(&turf, &turf.zones[0]);
    assert_eq!(turf.lawn_from(TODAY, &mown), None);
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
    // Few are not none: of four places one is bare.
    let one_bare = told(&[4, 8, 0, 9]);
    assert!((one_bare.bare_share - 0.25).abs() < 1e-9, "{one_bare:?}");
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
