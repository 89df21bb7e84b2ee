//! Tests of the soil: what they say, which counts, what they change in a plan, and that its working shows it.

use jiff::civil::{Date, date};
use lawn::engine::history::ZoneHistory;
use lawn::engine::uncertain::{Sharpen, ZoneFigure};
use lawn::engine::worth_measuring::aged;
use lawn::engine::zone_model::{PassLimit, ZoneModel};
use lawn::measure::seen::{Seen, Stay, StoppedBy};
use lawn::measure::soil::{Layer, Lies, RingLaw, RingTest, SoilTest};
use lawn::quantity::Depth;
use lawn::site::counting::Standing;
use lawn::site::ground::SoilFigures;
use lawn::site::soil_counting::{ZoneSoilTest, counting_on};
use lawn::site::{Controller, Zone, document};
use lawn::sourced::Source;
use lawn::view::ledger::{Limit, Line};
use lawn::view::week_plan::WeekPlan;
use proptest::prelude::*;
use science::soil::Texture;
use science::water_drop::Repellency;
use serde_json::json;

use crate::corrections::{moisture, plan, seen};
use crate::fixture::{TODAY, site, zone};

fn test(json: serde_json::Value) -> SoilTest {
    serde_json::from_value(json).unwrap()
}

fn kept(date: Date, json: serde_json::Value) -> ZoneSoilTest {
    ZoneSoilTest {
        date,
        holds_from: None,
        standing: Standing::Automatic,
        test: test(json),
    }
}

fn jar(sand: f64, silt: f64, clay: f64) -> serde_json::Value {
    json!({ "method": "jar", "sand_to_mm": sand, "silt_to_mm": silt, "clay_to_mm": clay })
}

/// A zone with tests, as it is on a day.
fn on(zone: &Zone, day: Date) -> (Zone, ZoneModel) {
    let history = ZoneHistory::new(zone, &Controller::default(), 36.4);
    let then = history.on(day);
    (then.zone.clone(), then.model.clone())
}

fn with(tests: Vec<ZoneSoilTest>) -> Zone {
    let mut zone = zone("a");
    zone.soil_tests = tests;
    zone.validate("").unwrap();
    zone
}

/// The lines of the first cell that waters.
fn working(plan: &WeekPlan) -> Vec<Line> {
    let mut cells = plan.zones[0].cells.iter();
    cells.find(|c| c.run.is_some()).unwrap().ledger.clone()
}

#[test]
fn a_jar_tells_texture_and_storage_and_it_was_always_so() {
    // 20 of 100 mm sand, 60 silt, 20 clay: silt loam.
    let zone = with(vec![kept(date(2026, 6, 10), jar(20.0, 80.0, 100.0))]);
    for day in [date(2020, 1, 1), TODAY] {
        let (then, model) = on(&zone, day);
        assert_eq!(then.soil, Texture::SiltLoam);
        let shares = then.soil_shares.unwrap();
        assert!((shares.sand_pct - 20.0).abs() < 1e-9 && (shares.clay_pct - 20.0).abs() < 1e-9);
        assert!((model.available.value - Texture::SiltLoam.available_mm_per_mm()).abs() < 1e-12);
        assert!((model.intake.value.mm_h() - Texture::SiltLoam.intake_mm_h()).abs() < 1e-12);
        let Source::Measured { test, .. } = model.available.source else {
            panic!("measured")
        };
        assert_eq!(test, "jar test, silt loam");
    }
    // By the other tables it holds what its own shares hold.
    let mut other = zone;
    other.soil_figures = SoilFigures::SaxtonRawls;
    let (then, model) = on(&other, TODAY);
    let water = then.soil_shares.unwrap().water();
    assert!((model.available.value - water.available_mm_per_mm()).abs() < 1e-12);
}

#[test]
fn the_best_way_counts_for_the_texture_and_what_was_guessed_gives_way() {
    let squeeze = json!({ "method": "squeeze", "ball": "long_ribbon", "feel": "neither" });
    let lab = json!({ "method": "lab", "sand_pct": 65.0, "silt_pct": 24.0, "clay_pct": 10.0, "organic_pct": 4.0 });
    let mut zone = with(vec![
        kept(date(2025, 4, 1), lab),
        kept(date(2026, 6, 1), squeeze),
    ]);
    zone.available_mm_per_mm = Some(crate::fixture::exactly(0.3));
    zone.intake_mm_h = Some(crate::fixture::exactly(lawn::quantity::Rate::from_mm_h(
        99.0,
    )));
    let (then, model) = on(&zone, TODAY);
    assert_eq!(then.soil, Texture::SandyLoam);
    assert!((model.available.value - 0.12).abs() < 1e-12);
    assert!((model.intake.value.mm_h() - Texture::SandyLoam.intake_mm_h()).abs() < 1e-12);
    // Shares that add to 99 are taken as of 99.
    assert!((then.soil_shares.unwrap().sand_pct - 100.0 * 65.0 / 99.0).abs() < 1e-9);
    // A figure that was measured stays.
    let measured = Source::Measured {
        test: "own".to_owned(),
        date: date(2024, 1, 1),
    };
    zone.available_mm_per_mm.as_mut().unwrap().source = measured;
    assert_eq!(on(&zone, TODAY).1.available.value, 0.3);
    // Pinned or set aside by a person.
    zone.soil_tests[1].standing = Standing::Pinned;
    assert_eq!(on(&zone, TODAY).0.soil, Texture::Clay);
    assert_eq!(counting_on(&zone.soil_tests, TODAY).texture, Some(1));
    zone.soil_tests[1].standing = Standing::Void;
    assert_eq!(on(&zone, TODAY).0.soil, Texture::SandyLoam);
    zone.soil_tests[0].standing = Standing::Void;
    assert_eq!(on(&zone, TODAY).0.soil, Texture::Loam);
}

/// A ring under Horton's law: 60 mm/h at first, 12 in the end, read each 5 minutes and filled up each half hour.
fn ring(walls: &serde_json::Value) -> serde_json::Value {
    let entered = |minutes: f64| {
        let hours = minutes / 60.0;
        12.0 * hours + 48.0 / 6.0 * (1.0 - (-6.0 * hours).exp())
    };
    let mut readings = vec![json!({ "minutes": 0.0, "level_mm": 80.0 })];
    let (mut stood, mut before) = (80.0, 0.0);
    for n in 1..=24 {
        let minutes = f64::from(n) * 5.0;
        let level = ((stood - (entered(minutes) - before)) * 10.0).round() / 10.0;
        before = entered(minutes);
        stood = level;
        let mut reading = json!({ "minutes": minutes, "level_mm": level });
        if n % 6 == 0 {
            reading["refilled_to_mm"] = 80.0.into();
            stood = 80.0;
        }
        readings.push(reading);
    }
    json!({ "method": "ring", "walls": walls, "rings": [{ "readings": readings }] })
}

#[test]
fn a_ring_with_refills_tells_the_steady_rate_and_the_passes_follow() {
    let double = ring(&json!({ "walls": "double" }));
    let SoilTest::Ring(rings) = test(double.clone()) else {
        panic!("a ring")
    };
    let result = &rings.results()[0];
    let fitted = result.fitted.as_ref().unwrap();
    assert_eq!(fitted.law, RingLaw::Horton);
    assert!((fitted.steady_mm_h - 12.0).abs() < 0.5, "{fitted:?}");
    assert!(fitted.rms_mm < 0.15 && fitted.error_mm_h.unwrap() < 0.5);
    assert!((result.points.last().unwrap().entered_mm - 32.0).abs() < 0.3);
    // Intake of 12 instead of loam's 8.9: longer passes, and the plan says whose figure it is.
    let book = plan(&site(vec![zone("a")]));
    let known = with(vec![kept(date(2026, 6, 17), double)]);
    let (_, model) = on(&known, TODAY);
    assert_eq!(model.pass_limit, PassLimit::Intake);
    assert!((model.intake.value.mm_h() - 12.0).abs() < 0.5);
    assert!(model.intake.low.mm_h() > 7.0 && model.intake.high.mm_h() < 17.0);
    let measured = plan(&site(vec![known]));
    let source = |plan: &WeekPlan| {
        let lines = working(plan);
        lines
            .iter()
            .find_map(|line| match line {
                Line::Passes { intake_mm_h, .. } => Some(intake_mm_h.source.clone()),
                _ => None,
            })
            .unwrap()
    };
    let soak = |plan: &WeekPlan| {
        let mut cells = plan.zones[0].cells.iter();
        cells.find_map(|c| c.run.as_ref()).unwrap().soak_s
    };
    assert!(soak(&measured) < soak(&book));
    assert!(matches!(source(&measured), Source::Measured { test, .. } if test == "double ring"));
    // Of a single ring a part spreads sideways.
    let single = ring(&json!({ "walls": "single", "ring_mm": 150.0, "inserted_mm": 50.0 }));
    let SoilTest::Ring(single) = test(single) else {
        panic!("a ring")
    };
    let down = single.results()[0].straight_down_mm_h.unwrap();
    assert!(down > 3.0 && down < 7.0, "{down}");
}

#[test]
fn minutes_to_runoff_are_the_longest_pass() {
    let runoff = json!({ "method": "runoff", "minutes": 6.5, "gone_minutes": 22.0 });
    let zone = with(vec![kept(date(2026, 6, 17), runoff)]);
    let (_, model) = on(&zone, TODAY);
    assert_eq!(model.pass_limit, PassLimit::MeasuredRunoff);
    assert_eq!(model.longest_pass.unwrap().s(), 390.0);
    assert_eq!(model.soak_s(300), 22 * 60);
}

#[test]
fn green_and_ampt_say_how_long_a_pass_may_be_where_that_was_chosen() {
    let mut zone = zone("a");
    zone.soil_figures = SoilFigures::SaxtonRawls;
    let (_, model) = on(&zone, TODAY);
    assert_eq!(model.pass_limit, PassLimit::Ponding);
    assert_eq!(model.accumulation, Depth::ZERO);
    // K of the table (Rawls, Brakensiek and Miller 1983): loam 3.4 mm/h.
    assert!((model.intake.value.mm_h() - 3.4).abs() < 1e-12);
    let loam = science::green_ampt::Soil::of(Texture::Loam);
    let full = loam.effective_saturation(model.field_capacity);
    let hours = loam
        .time_to_ponding_h(model.rate.value.mm_h(), full)
        .unwrap();
    assert!((model.longest_pass.unwrap().s() - hours * 3600.0).abs() < 1e-6);
    // Heavy clay: the pass goes by its own K of 0.3 mm/h, below what plans otherwise use.
    let mut heavy = zone.clone();
    heavy.soil = Texture::Clay;
    let (_, clay) = on(&heavy, TODAY);
    let soil = science::green_ampt::Soil::of(Texture::Clay);
    let full = soil.effective_saturation(clay.field_capacity);
    let hours = soil
        .time_to_ponding_h(clay.rate.value.mm_h(), full)
        .unwrap();
    assert!((clay.longest_pass.unwrap().s() - hours * 3600.0).abs() < 1e-6);
    assert!(clay.intake_raised);
    let lines = working(&plan(&site(vec![zone])));
    assert!(lines.iter().any(|l| matches!(
        l,
        Line::Passes {
            limit: Limit::Ponding,
            ..
        }
    )));
}

#[test]
fn ground_that_repels_water_gets_light_passes_until_drops_go_in() {
    let drops = |seconds: &[f64]| json!({ "method": "drops", "seconds": seconds });
    let zone = with(vec![
        kept(date(2026, 6, 10), drops(&[4.0, 130.0, 400.0, 90.0, 250.0])),
        kept(date(2026, 6, 18), drops(&[1.0, 3.0, 30.0])),
    ]);
    let model = |day| on(&zone, day).1;
    assert_eq!(model(date(2026, 6, 9)).repellency, Repellency::Wettable);
    assert_eq!(model(date(2026, 6, 10)).repellency, Repellency::Strong);
    assert_eq!(model(date(2026, 6, 18)).repellency, Repellency::Wettable);
    let (wet, dry) = (model(date(2026, 6, 18)), model(date(2026, 6, 12)));
    assert_eq!(dry.pass_limit, PassLimit::Repellent);
    assert!(dry.longest_pass.unwrap().s() < wet.longest_pass.unwrap().s());
    assert!(dry.soak_s(120) >= 30 * 60);
    // While it lasts the plan gives more passes.
    let passes = |zone: Zone| {
        let plan = plan(&site(vec![zone]));
        let mut cells = plan.zones[0].cells.iter();
        cells.find_map(|c| c.run.as_ref()).unwrap().passes
    };
    let lasting = with(zone.soil_tests[..1].to_vec());
    assert!(passes(lasting) > passes(zone));
}

#[test]
fn cores_tell_roots_and_layers() {
    let core = json!({ "method": "core", "roots_mm": [180.0, 220.0, 200.0],
                       "layers": [{ "from_mm": 80.0, "lies": { "soil": "sand" } }] });
    let zone = with(vec![kept(date(2026, 6, 10), core)]);
    let (then, model) = on(&zone, TODAY);
    assert!((model.root_depth.value.mm() - 200.0).abs() < 1e-9);
    assert!(
        matches!(&model.root_depth.source, Source::Measured { test, .. } if test == "3 pulled cores")
    );
    let sand = Layer {
        from_mm: 80.0,
        lies: Lies::Soil(Texture::Sand),
    };
    assert_eq!(then.layers, [sand]);
    // 80 mm of loam at 0.17 and 120 mm of sand at 0.06.
    assert!((model.taw.mm() - (13.6 + 7.2)).abs() < 1e-9);
}

/// Refused at the field, in words.
#[test]
fn impossible_readings_are_refused_where_they_are() {
    let refused = |value: serde_json::Value, field: &str, words: &str| {
        let error = test(value.clone()).validate().unwrap_err();
        assert_eq!(error.field, field, "{value}: {error}");
        assert!(error.message.contains(words), "{error}");
    };
    let lab = |sand: f64, silt: f64, clay: f64| json!({ "method": "lab", "sand_pct": sand, "silt_pct": silt, "clay_pct": clay });
    refused(lab(40.0, 40.0, 17.0), "clay_pct", "97.0 %");
    refused(lab(40.0, 40.0, 22.5), "clay_pct", "102.5 %");
    assert!(test(lab(40.0, 40.0, 22.0)).validate().is_ok());
    refused(jar(60.0, 50.0, 100.0), "silt_to_mm", "only grows");
    refused(jar(50.0, 80.0, 79.0), "clay_to_mm", "only grows");
    refused(jar(1.0, 2.0, 3.0), "clay_to_mm", "too little");
    let rings = |readings: serde_json::Value| json!({ "method": "ring", "walls": { "walls": "double" }, "rings": [{ "readings": readings }] });
    let reading = |minutes: f64, level: f64| json!({ "minutes": minutes, "level_mm": level });
    refused(
        rings(json!([
            reading(0.0, 80.0),
            reading(5.0, 70.0),
            reading(4.0, 65.0)
        ])),
        "rings[0].readings[2].minutes",
        "not after 5 min",
    );
    refused(
        rings(json!([reading(0.0, 80.0), reading(5.0, 90.0)])),
        "rings[0].readings[1].level_mm",
        "filled up before",
    );
    refused(
        rings(json!([reading(1.0, 80.0)])),
        "rings[0].readings[0].minutes",
        "pouring",
    );
    refused(
        rings(json!([
            reading(0.0, 80.0),
            reading(5.0, 70.0),
            reading(10.0, 65.0)
        ])),
        "rings[0].readings",
        "at least 3 times",
    );
    let still = json!([
        reading(0.0, 80.0),
        reading(5.0, 70.0),
        reading(20.0, 70.0),
        reading(60.0, 70.0),
        reading(90.0, 70.0)
    ]);
    refused(rings(still), "rings[0].readings", "steady");
    refused(
        json!({ "method": "drops", "seconds": [] }),
        "seconds",
        "1 to 30",
    );
    let layers = json!({ "method": "core", "roots_mm": [100.0], "layers": [{ "from_mm": 90.0, "lies": "ledge" }, { "from_mm": 120.0, "lies": { "soil": "sand" } }] });
    refused(layers, "layers[1].from_mm", "ledge");
    let probe: Seen = serde_json::from_value(json!({ "seen": "moisture", "scale": "own", "reading": 4.0, "at_field_capacity": 9.0, "at_wilting": 9.0 })).unwrap();
    assert_eq!(probe.validate().unwrap_err().field, "at_wilting");
    let mut zone = zone("a");
    zone.seen = vec![seen(TODAY, probe)];
    assert_eq!(
        zone.validate("zones[0].").unwrap_err().field,
        "zones[0].seen[0].seen.at_wilting"
    );
}

#[test]
fn tests_and_what_was_seen_go_through_the_document() {
    let mut z = with(vec![
        kept(date(2026, 6, 10), jar(20.0, 80.0, 100.0)),
        kept(date(2026, 6, 11), ring(&json!({ "walls": "double" }))),
        kept(
            date(2026, 6, 11),
            json!({ "method": "lab", "sand_pct": 65.0, "silt_pct": 24.0, "clay_pct": 11.0 }),
        ),
        kept(
            date(2026, 6, 11),
            json!({ "method": "squeeze", "ball": "short_ribbon", "feel": "neither" }),
        ),
        kept(
            date(2026, 6, 11),
            json!({ "method": "runoff", "minutes": 6.0, "gone_minutes": 20.0 }),
        ),
        kept(
            date(2026, 6, 11),
            json!({ "method": "drops", "seconds": [2.0, 80.0] }),
        ),
        kept(
            date(2026, 6, 11),
            json!({ "method": "core", "roots_mm": [190.0], "layers": [{ "from_mm": 90.0, "lies": { "soil": "sand" } }, { "from_mm": 300.0, "lies": "ledge" }] }),
        ),
    ]);
    z.repellency = Some(Repellency::Slight);
    z.layers = vec![Layer {
        from_mm: 80.0,
        lies: Lies::Ledge,
    }];
    z.soil_figures = SoilFigures::SaxtonRawls;
    z.seen = vec![
        seen(
            date(2026, 6, 12),
            Seen::Footprints {
                stay: Stay::Minutes,
            },
        ),
        seen(
            date(2026, 6, 13),
            Seen::Screwdriver {
                depth_mm: 120.0,
                stopped: StoppedBy::Dry,
            },
        ),
        seen(date(2026, 6, 14), moisture(24.0)),
    ];
    let site = site(vec![z]);
    let text = document::write(&site);
    let again = document::read(&text).unwrap();
    assert_eq!(again, site);
    assert_eq!(document::write(&again), text);
    let schema = include_str!("../../../../docs/formats/site.schema.json");
    let schema = serde_json::from_str(schema).unwrap();
    let complaints: Vec<String> = jsonschema::validator_for(&schema)
        .unwrap()
        .iter_errors(&serde_json::from_str(&text).unwrap())
        .map(|e| e.to_string())
        .collect();
    assert_eq!(complaints, Vec::<String>::new());
    // Version 1 knew nothing of them.
    let old = text
        .replacen("\"version\": 2", "\"version\": 1", 1)
        .replace("\"controller\"", "\"x\"");
    assert!(document::read(&old).is_err());
}

proptest! {
    /// Jars of any heights that rise tell a class and shares that add up.
    #[test]
    fn any_jar_is_read(sand in 0.0..200.0_f64, silt in 0.0..150.0_f64, clay in 0.0..150.0_f64) {
        let total = sand + silt + clay;
        prop_assume!(total > 10.0);
        let says = test(jar(sand, sand + silt, total));
        prop_assert!(says.validate().is_ok());
        let told = says.says(TODAY).texture.unwrap();
        prop_assert_eq!(told.shares.unwrap().texture(), told.texture);
        prop_assert!(told.shares.unwrap().validate("").is_ok());
    }
}

/// A test's half-width grows by a tenth a year, that of a texture never; after a year it is asked for again.
#[test]
fn old_tests_widen_and_textures_do_not() {
    let core = json!({ "method": "core", "roots_mm": [200.0] });
    let zone = with(vec![
        kept(date(2021, 6, 18), core),
        kept(date(2021, 6, 18), jar(20.0, 80.0, 100.0)),
    ]);
    let (_, model) = on(&zone, TODAY);
    let half = |figure: ZoneFigure, day| {
        let (low, high) = aged(figure, &model, day);
        (high - low) / 2.0
    };
    let fresh = half(ZoneFigure::RootDepth, date(2021, 6, 18));
    assert!((fresh - 40.0).abs() < 1e-9, "a fifth of 200 mm");
    assert!((half(ZoneFigure::RootDepth, TODAY) / fresh - 1.5).abs() < 1e-3);
    let texture = half(ZoneFigure::Available, date(2021, 6, 18));
    assert_eq!(half(ZoneFigure::Available, TODAY), texture);
    let sharpens = |figure, day| Sharpen::of(figure, &model, day);
    assert_eq!(sharpens(ZoneFigure::RootDepth, date(2021, 12, 1)), None);
    assert_eq!(
        sharpens(ZoneFigure::RootDepth, TODAY),
        Some(Sharpen::PullACore)
    );
    assert_eq!(sharpens(ZoneFigure::Available, TODAY), None);
}

/// What was sent by a phone that was not told to stop is read without a panic.
#[test]
fn rings_that_are_not_finished_are_reckoned() {
    let SoilTest::Ring(RingTest { walls, .. }) = test(ring(&json!({ "walls": "double" }))) else {
        panic!("a ring")
    };
    let none = RingTest {
        walls,
        rings: vec![lawn::measure::soil::Ring {
            readings: Vec::new(),
        }],
    };
    let result = &none.results()[0];
    assert!(result.points.is_empty() && result.fitted.is_none());
}
