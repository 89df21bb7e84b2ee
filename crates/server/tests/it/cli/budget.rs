//! `fresh-meadow budget` on files.

use serde_json::Value;

use super::{example, ok, refuses, scratch, season};

fn arguments<'a>(site: &'a str, weather: &'a str, from: &'a str, to: &'a str) -> [&'a str; 9] {
    [
        "budget",
        "--site",
        site,
        "--weather",
        weather,
        "--from",
        from,
        "--to",
        to,
    ]
}

fn budget(weather: &str, from: &str, to: &str) -> Value {
    serde_json::from_str(&ok(&arguments(&example(), weather, from, to))).unwrap()
}

#[test]
fn the_budgets_of_the_example_by_its_own_et0() {
    let weather = season("budget.csv");
    let weather = weather.to_str().unwrap();
    let found = budget(weather, "2026-04-10", "2026-06-12");
    // ET0 of the same days as `et0` prints them, at the example's place.
    let et0 = ok(&[
        "et0",
        "--weather",
        weather,
        "--latitude",
        "36.4",
        "--elevation",
        "310",
    ]);
    let days: Vec<(String, f64)> = et0
        .lines()
        .skip(1)
        .map(|line| {
            let cells: Vec<&str> = line.split(',').collect();
            (cells[0].to_owned(), cells[1].parse().unwrap())
        })
        .collect();
    let sum = |from: &str, to: &str| -> f64 {
        let within = days
            .iter()
            .filter(|(d, _)| d.as_str() >= from && d.as_str() <= to);
        within.map(|(_, mm)| mm).sum()
    };
    let site: Value = serde_json::from_str(&std::fs::read_to_string(example()).unwrap()).unwrap();
    let zones = site["zones"].as_array().unwrap();
    let of = |what: &dyn Fn(&Value) -> f64| -> f64 { zones.iter().map(what).sum() };
    let area = of(&|z| z["area_m2"].as_f64().unwrap());
    let warm = ["hybrid_bermudagrass", "common_bermudagrass", "zoysiagrass"];
    let factors = of(&|z| {
        let factor = if warm.contains(&z["grass"].as_str().unwrap()) {
            0.6
        } else {
            0.8
        };
        // Nothing of the example is on drip.
        factor * z["area_m2"].as_f64().unwrap() / 0.75
    });
    let whole = sum("2026-04-10", "2026-06-12");
    // May is the only whole month.
    let may = sum("2026-05-01", "2026-05-31");
    for (key, right) in [
        ("et0_mm", whole),
        // Storms of 24 mm on 23 April, 10 and 27 May.
        ("rain_mm", 72.0),
        ("watersense_allowance_m3", 0.7 * may * area / 1000.0),
        ("mawa_m3", 0.55 * whole * area / 1000.0),
        ("etwu_m3", whole * factors / 1000.0),
    ] {
        let got = found[key].as_f64().unwrap();
        assert!(
            (got - right).abs() < 1e-6 * right,
            "{key}: {got} is not {right}"
        );
    }
    assert_eq!(found.as_object().unwrap().len(), 5);
    let short = budget(weather, "2026-05-02", "2026-06-12");
    assert_eq!(
        short["watersense_allowance_m3"],
        Value::Null,
        "no whole month"
    );
    let park = std::fs::read_to_string(example()).unwrap();
    let park = park.replace(
        "\"wind_height_m\": 2,",
        "\"wind_height_m\": 2, \"use\": \"other\",",
    );
    let park = scratch("park.json", &park);
    let of_the_park = arguments(park.to_str().unwrap(), weather, "2026-04-10", "2026-06-12");
    let other: Value = serde_json::from_str(&ok(&of_the_park)).unwrap();
    let ratio = other["mawa_m3"].as_f64().unwrap() / found["mawa_m3"].as_f64().unwrap();
    assert!((ratio - 0.45 / 0.55).abs() < 1e-9, "{ratio}");
    assert_eq!(other["etwu_m3"], found["etwu_m3"]);
}

#[test]
fn bad_input_is_refused_in_a_line() {
    let weather = season("budget-bad.csv");
    let weather = weather.to_str().unwrap();
    let site = example();
    let with = |from: &'static str, to: &'static str, words: &[&str]| {
        refuses(&arguments(&site, weather, from, to), words);
    };
    with(
        "2026-05-02",
        "2026-05-01",
        &["--to 2026-05-01", "before --from"],
    );
    with(
        "2026-03-01",
        "2026-05-01",
        &["budget-bad.csv", "covers 2026-04-01 to"],
    );
    with("2026-05-01", "2027-05-01", &["covers", "not all of"]);
    with("2026-05-01", "tomorrow", &["--to", "tomorrow"]);
    refuses(
        &[
            "budget",
            "--site",
            &site,
            "--weather",
            weather,
            "--from",
            "2026-05-01",
        ],
        &["--to"],
    );
    let empty = scratch("budget-empty.csv", "date,tmin_c,tmax_c,rain_mm\n");
    let empty = empty.to_str().unwrap();
    refuses(
        &arguments(&site, empty, "2026-05-01", "2026-05-02"),
        &["budget-empty.csv", "no day"],
    );
    let gap = scratch(
        "budget-gap.csv",
        "date,tmin_c,tmax_c,rain_mm\n2026-05-01,10,20,0\n2026-05-03,10,20,0\n",
    );
    let gap = gap.to_str().unwrap();
    let over_the_gap = arguments(&site, gap, "2026-05-01", "2026-05-03");
    refuses(&over_the_gap, &["budget-gap.csv", "line 2", "--fill"]);
    ok(&[&over_the_gap[..], &["--fill"]].concat());
    let used = std::fs::read_to_string(example()).unwrap().replace(
        "\"wind_height_m\": 2,",
        "\"wind_height_m\": 2, \"use\": \"farm\",",
    );
    let used = scratch("farm.json", &used);
    refuses(
        &arguments(used.to_str().unwrap(), weather, "2026-05-01", "2026-05-02"),
        &["farm.json", "line", "farm"],
    );
}
