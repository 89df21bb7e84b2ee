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
    let science = [
        "levenberg-marquardt",
        "nalgebra",
        "serde",
        "thiserror",
        "utoipa",
    ];
    let lawn = [
        "contour",
        "csv",
        "geo",
        "jiff",
        "pulp",
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

/// The floors inside `lawn`, the lowest first; a folder knows those before it and itself.
const FLOORS: [&str; 9] = [
    "",
    "measure",
    "site",
    "weather",
    "engine",
    "record",
    "stress",
    "new_grass",
    "view",
];

/// Every `crate::…` of the sources, with its folder and the folder that it names.
#[test]
fn folders_of_the_rules_import_only_downward() {
    let root = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("src");
    let floor = |folder: &str| FLOORS.iter().position(|f| *f == folder);
    let mut looked_at = 0;
    let mut left = vec![root.clone()];
    while let Some(folder) = left.pop() {
        for entry in std::fs::read_dir(folder).unwrap() {
            let path = entry.unwrap().path();
            if path.is_dir() {
                left.push(path);
                continue;
            }
            let inside = path.strip_prefix(&root).unwrap();
            if inside == std::path::Path::new("lib.rs") {
                continue;
            }
            let own = match inside.components().count() {
                1 => "",
                _ => inside.iter().next().unwrap().to_str().unwrap(),
            };
            let own = floor(own).unwrap_or_else(|| panic!("{own} is no floor"));
            let text = std::fs::read_to_string(&path).unwrap();
            for line in text.lines().filter(|l| !l.trim_start().starts_with("//")) {
                for named in line.split("crate::").skip(1) {
                    let module: String = named
                        .chars()
                        .take_while(|c| c.is_ascii_alphanumeric() || *c == '_')
                        .collect();
                    let of = floor(&module).unwrap_or(0);
                    assert!(
                        of <= own,
                        "{} imports {module}, which lies above",
                        inside.display()
                    );
                    looked_at += 1;
                }
            }
        }
    }
    assert!(looked_at > 100, "{looked_at}");
}
