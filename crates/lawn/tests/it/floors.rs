//! Floors of one house: dependencies point downward, and the lower floors do no I/O.

use std::collections::BTreeSet;

use cargo_metadata::{DependencyKind, MetadataCommand};

fn dependencies(of: &str) -> BTreeSet<String> {
    let metadata = MetadataCommand::new().no_deps().exec().unwrap();
    let package = metadata
        .packages
        .iter()
        .find(|p| p.name.as_str() == of)
        .unwrap_or_else(|| panic!("no package {of}"));
    package
        .dependencies
        .iter()
        .filter(|d| d.kind == DependencyKind::Normal)
        .map(|d| d.name.clone())
        .collect()
}

#[test]
fn science_and_lawn_depend_on_nothing_above_and_on_no_io() {
    // What the two lower floors may use; a new line here wants a reason in docs/DEPENDENCIES.md.
    let science = ["serde", "thiserror", "utoipa"];
    let lawn = [
        "contour",
        "csv",
        "geo",
        "jiff",
        "science",
        "serde",
        "serde_json",
        "thiserror",
        "utoipa",
    ];
    assert_eq!(dependencies("science"), science.map(str::to_owned).into());
    assert_eq!(dependencies("lawn"), lawn.map(str::to_owned).into());
}

#[test]
fn the_stand_ins_know_science_and_nothing_of_the_rules_or_the_server() {
    let standins = dependencies("standins");
    assert!(standins.contains("science"));
    for above in ["lawn", "fresh-meadow", "sqlx"] {
        assert!(!standins.contains(above), "{above}");
    }
    assert!(!dependencies("fresh-meadow").contains("standins"));
}

#[test]
fn only_the_server_stands_on_the_rules() {
    assert!(dependencies("fresh-meadow").contains("lawn"));
    assert!(
        !dependencies("xtask")
            .iter()
            .any(|d| d == "lawn" || d == "fresh-meadow")
    );
}
