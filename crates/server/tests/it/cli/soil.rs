//! `fresh-meadow soil` and `infiltration`: the same figures as the tests of `science` check against their sources.

use serde_json::{Value, json};

use super::{ok, refuses};

fn told(arguments: &[&str]) -> Value {
    serde_json::from_str(&ok(arguments)).unwrap()
}

#[test]
fn a_soil_by_its_shares() {
    let loam = told(&["soil", "--sand", "40", "--clay", "20"]);
    assert_eq!(loam["texture"], "loam");
    // Saxton and Rawls (2006), table 3, from memory.
    for (key, right, by) in [
        ("wilting_point", 0.14, 0.006),
        ("field_capacity", 0.28, 0.006),
        ("saturation", 0.46, 0.006),
        ("available_mm_per_mm", 0.14, 0.006),
        ("ks_mm_h", 15.5, 0.6),
    ] {
        let got = loam[key].as_f64().unwrap();
        assert!((got - right).abs() < by, "{key}: {got}");
    }
    // More organic matter holds more water.
    let rich = told(&["soil", "--sand", "40", "--clay", "20", "--organic", "5"]);
    assert!(rich["available_mm_per_mm"].as_f64() > loam["available_mm_per_mm"].as_f64());
    let heavy = told(&["soil", "--sand", "10", "--clay", "60.5"]);
    let nothing = json!({
        "texture": "clay", "wilting_point": null, "field_capacity": null, "saturation": null, "available_mm_per_mm": null, "ks_mm_h": null
    });
    assert_eq!(heavy, nothing);
    for (arguments, words) in [
        (
            ["soil", "--sand", "60", "--clay", "41"],
            ["--sand 60", "100 %"],
        ),
        (
            ["soil", "--sand", "-1", "--clay", "20"],
            ["--sand", "below"],
        ),
        (
            ["soil", "--sand", "nan", "--clay", "20"],
            ["--sand", "allowed"],
        ),
        (["soil", "--sand", "20", "--clay", "x"], ["--clay", "x"]),
    ] {
        refuses(&arguments, &words);
    }
    refuses(
        &["soil", "--sand", "20", "--clay", "20", "--organic", "8.5"],
        &["--organic", "8 %"],
    );
}

#[test]
fn rain_on_a_soil() {
    let of = |texture: &str, rate: &str, saturation: &str, hours: &str| {
        told(&[
            "infiltration",
            "--texture",
            texture,
            "--rate",
            rate,
            "--initial-saturation",
            saturation,
            "--hours",
            hours,
        ])
    };
    // Chow, Maidment and Mays (1988), examples 4.4.1 and 4.4.2, from memory.
    let hour = of("silt_loam", "50", "0.3", "1");
    let near = |value: &Value, right: f64, by: f64| (value.as_f64().unwrap() - right).abs() < by;
    assert!(near(&hour["time_to_ponding_h"], 0.17, 0.005), "{hour}");
    assert!(near(&hour["infiltrated_mm"], 30.2, 0.1), "{hour}");
    assert!(near(&hour["rate_mm_h"], 18.7, 0.1), "{hour}");
    // The time is told even where the hours end before it.
    let slow = of("silt_loam", "10", "0.3", "2");
    assert!(near(&slow["time_to_ponding_h"], 10.5, 0.05), "{slow}");
    assert_eq!(
        (&slow["infiltrated_mm"], &slow["rate_mm_h"]),
        (&json!(20.0), &json!(10.0))
    );
    assert_eq!(of("silt", "10", "0.3", "2"), slow);
    let never = of("sand", "117.8", "0.3", "2");
    assert_eq!(never["time_to_ponding_h"], Value::Null);
    for (texture, rate, saturation, hours, word) in [
        ("mud", "10", "0.3", "1", "--texture"),
        ("loam", "-10", "0.3", "1", "--rate"),
        ("loam", "10", "1.3", "1", "--initial-saturation"),
        ("loam", "10", "0.3", "inf", "--hours"),
    ] {
        refuses(
            &[
                "infiltration",
                "--texture",
                texture,
                "--rate",
                rate,
                "--initial-saturation",
                saturation,
                "--hours",
                hours,
            ],
            &[word],
        );
    }
}
