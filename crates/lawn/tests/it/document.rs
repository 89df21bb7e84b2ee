//! The site document: round trip, unknown keys, ranges, versions, and the published schema.

use lawn::quantity::{Depth, Rate};
use lawn::site::document::{Error, read, write};

use crate::fixture::{exactly, site, zone};

const EXAMPLE: &str = include_str!("../../../../docs/formats/site.example.json");
const SCHEMA: &str = include_str!("../../../../docs/formats/site.schema.json");

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
    let schema: serde_json::Value = serde_json::from_str(SCHEMA).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    for text in [EXAMPLE.to_owned(), write(&document)] {
        let value: serde_json::Value = serde_json::from_str(&text).unwrap();
        let errors: Vec<String> = validator
            .iter_errors(&value)
            .map(|e| e.to_string())
            .collect();
        assert_eq!(errors, Vec::<String>::new());
    }
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
        ("version", |d| d["version"] = 2.into()),
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
