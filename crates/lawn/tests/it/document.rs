//! The site document: round trip, unknown keys, ranges, versions, and the published schema.

use jiff::civil::{Date, date};
use lawn::engine::history::ZoneHistory;
use lawn::quantity::{Depth, Rate};
use lawn::site::document::{Error, read, write};

use crate::fixture::{exactly, site, zone};

const EXAMPLE: &str = include_str!("../../../../docs/formats/site.example.json");
const SCHEMA: &str = include_str!("../../../../docs/formats/site.schema.json");
const SCHEMA_1: &str = include_str!("../../../../docs/formats/site-1.schema.json");
/// The example as it was in version 1.
const SITE_1: &str = include_str!("../data/site-1.json");
/// A site with all that version 2 knows.
const SITE_2: &str = include_str!("../data/site-2.json");

fn complaints(schema: &str, text: &str) -> Vec<String> {
    let schema: serde_json::Value = serde_json::from_str(schema).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let value: serde_json::Value = serde_json::from_str(text).unwrap();
    validator
        .iter_errors(&value)
        .map(|e| e.to_string())
        .collect()
}

fn said(text: &str) -> String {
    read(text).unwrap_err().to_string()
}

#[test]
fn what_is_written_reads_back() {
    let mut document = site(vec![zone("a"), zone("b")]);
    document.zones[1].rate_mm_h = Some(exactly(Rate::from_mm_h(21.5)));
    document.zones[1].deep_and_seldom_mm = Some(Depth::from_mm(3.0));
    assert_eq!(read(&write(&document)).unwrap(), document);
}

#[test]
fn the_example_reads_and_follows_the_schema() {
    let document = read(EXAMPLE).unwrap();
    assert!(document.zones.len() >= 3);
    let none = Vec::<String>::new();
    for text in [EXAMPLE, SITE_2] {
        let written = write(&read(text).unwrap());
        assert_eq!(complaints(SCHEMA, text), none);
        assert_eq!(complaints(SCHEMA, &written), none);
        let (a, b): (serde_json::Value, serde_json::Value) = (
            serde_json::from_str(&written).unwrap(),
            serde_json::from_str(&write(&read(&written).unwrap())).unwrap(),
        );
        assert_eq!(a, b);
    }
}

/// What was one in version 1 is two in version 2; nothing else changes.
#[test]
fn a_document_of_version_1_is_read_as_what_it_says_in_version_2() {
    assert_eq!(complaints(SCHEMA_1, SITE_1), Vec::<String>::new());
    assert_eq!(read(SITE_1).unwrap(), read(EXAMPLE).unwrap());
    let mut old: serde_json::Value = serde_json::from_str(SITE_1).unwrap();
    old["supply"] = serde_json::json!({ "step_s": 30, "longest_run_min": 45 });
    let document = read(&old.to_string()).unwrap();
    assert_eq!(document.version, 2);
    assert_eq!(document.supply.flow_l_min, None);
    let controller = &document.controller;
    assert_eq!(
        (controller.step_s, controller.longest_run_min),
        (30, Some(45.0))
    );
    // Errors are told as for any other document: where they are, and by the key.
    old["supply"]["step_s"] = 0.into();
    assert!(said(&old.to_string()).starts_with("controller.step_s: step_s 0 s"));
    old["supply"] = serde_json::json!({ "flow": 900 });
    assert!(said(&old.to_string()).starts_with("line 1, column "));
    old["supply"] = serde_json::json!({});
    old["zones"][1]["facts"] = serde_json::json!([{ "from": "1900-01-01" }]);
    assert_eq!(
        said(&old.to_string()),
        "zones[1].facts: version 1 has no such key; version 2 has"
    );
    // And what is only in version 1 is not in version 2.
    old["version"] = 2.into();
    old["supply"] = serde_json::json!({ "step_s": 60 });
    assert!(said(&old.to_string()).contains("`step_s`"));
}

/// Tests of a document tell figures from their day, or from the day that they say.
#[test]
fn the_tests_of_a_document_count_in_the_zones_figures() {
    let document = read(SITE_2).unwrap();
    let figures = |zone: usize, day: Date| {
        let history = ZoneHistory::of(&document, &document.zones[zone]);
        let zone = &history.on(day).zone;
        let rate = zone.rate_mm_h.as_ref().map(|r| r.value.mm_h());
        (rate, zone.evenness_du_lq.as_ref().map(|e| e.value))
    };
    assert_eq!(figures(0, date(2026, 4, 9)), (None, None));
    // Five cans: 9, 10, 8.5, 7, 9.5 mm in a quarter of an hour; a quarter of five is the driest and a fourth of the next.
    let (rate, evenness) = figures(0, date(2026, 4, 10));
    assert!((rate.unwrap() - 4.0 * 44.0 / 5.0).abs() < 1e-9);
    let driest = (7.0 + 0.25 * 8.5) / 1.25;
    assert!((evenness.unwrap() - driest / 8.8).abs() < 1e-9);
    let quick = |m: f64| 13.0 * 60.0 / m;
    let mean = (quick(20.0) + quick(22.0) + quick(24.0)) / 3.0;
    let (later, still) = figures(0, date(2026, 6, 2));
    assert!((later.unwrap() - mean).abs() < 1e-9);
    assert_eq!((figures(0, date(2026, 6, 1)).0, still), (rate, evenness));
    // A test that was set aside tells nothing.
    assert_eq!(figures(1, date(2026, 6, 18)), (None, None));
}

#[test]
fn the_schema_refuses_what_the_program_refuses() {
    let schema: serde_json::Value = serde_json::from_str(SCHEMA).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let good: serde_json::Value = serde_json::from_str(EXAMPLE).unwrap();
    type Change = fn(&mut serde_json::Value);
    let changes: [(&str, Change); 7] = [
        ("unknown key", |d| d["site"]["colour"] = "green".into()),
        ("latitude", |d| d["site"]["latitude"] = 95.into()),
        ("text for a number", |d| {
            d["zones"][0]["slope_pct"] = "steep".into();
        }),
        ("unknown grass", |d| d["zones"][0]["grass"] = "moss".into()),
        ("no weekday", |d| {
            d["windows"][0]["days"] = serde_json::json!([]);
        }),
        ("deep and seldom", |d| {
            d["zones"][0]["deep_and_seldom_mm"] = 9.into();
        }),
        ("version", |d| d["version"] = 3.into()),
    ];
    for (what, change) in changes {
        let mut bad = good.clone();
        change(&mut bad);
        assert!(read(&bad.to_string()).is_err(), "the program takes: {what}");
        assert!(!validator.is_valid(&bad), "the schema takes: {what}");
    }
}

#[test]
fn an_unknown_key_is_named_with_line_and_column() {
    let text = write(&site(vec![zone("a")])).replace("\"slope_pct\"", "\"slope\"");
    let Err(Error::Malformed { line, message, .. }) = read(&text) else {
        panic!("read");
    };
    assert!(message.contains("`slope`"), "{message}");
    assert!(line > 1);
}

#[test]
fn figures_out_of_range_name_their_key() {
    let mut document = site(vec![zone("a"), zone("b")]);
    document.zones[1].slope_pct = 180.0;
    assert_eq!(
        said(&write(&document)),
        "zones[1].slope_pct: slope_pct 180 % is above the highest allowed, 100 %"
    );
    document.zones[1].slope_pct = 2.0;
    document.zones[1].id = "a".to_owned();
    assert_eq!(
        said(&write(&document)),
        "zones[1].id: \"a\" is used by another zone too"
    );
    document.zones.clear();
    document.site.time_zone = "Etc/Unknown".to_owned();
    assert!(said(&write(&document)).starts_with("site.time_zone: \"Etc/Unknown\""));
    document.site.time_zone = "Mars/Olympus".to_owned();
    assert!(said(&write(&document)).starts_with("site.time_zone: \"Mars/Olympus\""));
}

#[test]
fn a_value_must_lie_between_its_low_and_high() {
    let mut document = site(vec![zone("a")]);
    let mut rate = exactly(Rate::from_mm_h(20.0));
    rate.low = Rate::from_mm_h(25.0);
    document.zones[0].rate_mm_h = Some(rate);
    assert_eq!(
        said(&write(&document)),
        "zones[0].rate_mm_h: the value 20 must lie between its low 25 and high 20"
    );
}

#[test]
fn other_formats_and_versions_are_refused() {
    assert!(said("{}").starts_with("format: missing"));
    assert!(said(r#"{"format":"fresh-meadow-site","version":7}"#).starts_with("version: 7"));
    assert!(said("{").starts_with("line 1, column 1"));
}
