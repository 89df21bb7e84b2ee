//! `fresh-meadow audit` on files of cans.

use serde_json::Value;

use super::{ok, refuses, scratch};

#[test]
fn an_audit_of_cans() {
    let root = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../../docs/formats/cans.example.csv"
    );
    let audit = |arguments: &[&str]| -> Value { serde_json::from_str(&ok(arguments)).unwrap() };
    let found = audit(&[
        "audit",
        "--cans",
        root,
        "--minutes",
        "15",
        "--throat-cm2",
        "100",
    ]);
    // The same cans as worked by hand in the tests of `science`.
    for (key, right) in [
        ("n", 16.0),
        ("mean_mm", 4.0),
        ("precipitation_rate_mm_h", 16.0),
        ("du_lq", 0.743_75),
        ("cu_pct", 81.25),
        ("run_time_multiplier", 1.0 / (0.4 + 0.6 * 0.743_75)),
    ] {
        assert!(
            (found[key].as_f64().unwrap() - right).abs() < 1e-9,
            "{key}: {found}"
        );
    }
    let sc = found["scheduling_coefficient"].as_f64().unwrap();
    assert!((1.2..1.6).contains(&sc), "{sc}");

    let few = scratch("few.csv", "can,depth_mm\n1,5\n2,7\n3,\n4,6\n");
    let found = audit(&["audit", "--cans", few.to_str().unwrap(), "--minutes", "30"]);
    assert_eq!(found["n"], 3, "a can that was not read is left out");
    assert_eq!(
        (&found["du_lq"], &found["run_time_multiplier"]),
        (&Value::Null, &Value::Null)
    );
    assert!((found["precipitation_rate_mm_h"].as_f64().unwrap() - 12.0).abs() < 1e-9);
    let dry = scratch("dry.csv", "can,depth_mm\n1,0\n2,0\n3,0\n4,0\n");
    let found = audit(&["audit", "--cans", dry.to_str().unwrap(), "--minutes", "30"]);
    for key in [
        "du_lq",
        "cu_pct",
        "scheduling_coefficient",
        "run_time_multiplier",
    ] {
        assert_eq!(found[key], Value::Null, "{key}");
    }
    assert_eq!(found["mean_mm"], 0.0);
}

#[test]
fn bad_cans_are_refused_in_one_line() {
    for (name, text, more, words) in [
        (
            "c1.csv",
            "can,depth_mm\n1,-2\n",
            &[][..],
            &["line 2, column depth_mm", "below 0"][..],
        ),
        (
            "c2.csv",
            "can,depth_mm\n1,lots\n",
            &[][..],
            &["line 2", "\"lots\" is not a number"][..],
        ),
        (
            "c3.csv",
            "can,x_m\n1,2\n",
            &[][..],
            &["no column depth_mm or volume_ml"][..],
        ),
        (
            "c4.csv",
            "can,depth_mm\n",
            &[][..],
            &["no can with a reading"][..],
        ),
        (
            "c5.csv",
            "can,volume_ml\n1,40\n",
            &[][..],
            &["--throat-cm2"][..],
        ),
        (
            "c6.csv",
            "can,depth_mm,x_m,y_m\n1,5,1,1\n2,6,1,1\n",
            &[][..],
            &["line 3", "same place"][..],
        ),
        (
            "c7.csv",
            "can,depth_mm\n1,5\n1,6\n",
            &[][..],
            &["line 3, column can", "stands twice"][..],
        ),
        ("c8.csv", "depth_mm\n5\n", &[][..], &["no column can"][..]),
        (
            "c9.csv",
            "can,volume_ml\n1,40\n",
            &["--throat-cm2", "0"][..],
            &["--throat-cm2"][..],
        ),
    ] {
        let path = scratch(name, text);
        let mut arguments = vec!["audit", "--cans", path.to_str().unwrap(), "--minutes", "15"];
        arguments.extend(more);
        refuses(&arguments, words);
    }
    let good = scratch("c0.csv", "can,depth_mm\n1,5\n");
    refuses(
        &["audit", "--cans", good.to_str().unwrap(), "--minutes", "0"],
        &["--minutes"],
    );
    refuses(
        &["audit", "--cans", "nowhere.csv", "--minutes", "5"],
        &["nowhere.csv"],
    );
}
