//! The command line: what it prints, and how it refuses.

mod budget;
mod cans;
mod soil;

use std::path::PathBuf;
use std::process::{Command, Output};

use serde_json::Value;

fn scratch(name: &str, text: &str) -> PathBuf {
    let folder = std::env::temp_dir().join(format!("fresh-meadow-cli-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let path = folder.join(name);
    std::fs::write(&path, text).unwrap();
    path
}

fn run(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
        .args(arguments)
        .output()
        .unwrap()
}

fn ok(arguments: &[&str]) -> String {
    let out = run(arguments);
    assert!(
        out.status.success(),
        "{}",
        String::from_utf8_lossy(&out.stderr)
    );
    String::from_utf8(out.stdout).unwrap()
}

/// Exit code 2, nothing on standard output, one line on standard error that holds all of `words`.
fn refuses(arguments: &[&str], words: &[&str]) {
    let out = run(arguments);
    let said = String::from_utf8(out.stderr).unwrap();
    assert_eq!(out.status.code(), Some(2), "{arguments:?}: {said}");
    assert!(out.stdout.is_empty(), "{arguments:?} printed something");
    assert_eq!(said.trim_end().lines().count(), 1, "{said}");
    for word in words {
        assert!(said.contains(word), "\"{word}\" not in: {said}");
    }
}

fn example() -> String {
    let root = concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/../../docs/formats/site.example.json"
    );
    root.to_owned()
}

/// Eighty days of weather: dry, a storm, dry.
fn season(name: &str) -> PathBuf {
    let mut text = String::from("date,tmin_c,tmax_c,rain_mm\n");
    let mut date = jiff::civil::date(2026, 4, 1);
    for i in 0..80 {
        let rain = if i % 17 == 5 { 24.0 } else { 0.0 };
        text.push_str(&format!("{date},{},{},{rain}\n", 12 + i % 7, 26 + i % 5));
        date = date.tomorrow().unwrap();
    }
    scratch(name, &text)
}

#[test]
fn et0_of_fao_56_example_18() {
    let file = scratch(
        "uccle.csv",
        "\u{feff}date,tmin_c,tmax_c,rh_min_pct,rh_max_pct,sunshine_h,wind_km_h,note\r\n2026-07-06,12.3,21.5,63,84,9.25,10,x\r\n2026-07-07,12.3,21.5,,,,,\r\n2026-07-08,12.3,21.5,63,,,,\r\n",
    );
    let text = ok(&[
        "et0",
        "--weather",
        file.to_str().unwrap(),
        "--latitude",
        "50.8",
        "--elevation",
        "100",
        "--wind-height",
        "10",
    ]);
    let lines: Vec<Vec<&str>> = text.lines().map(|l| l.split(',').collect()).collect();
    assert_eq!(lines[0], ["date", "et0_mm", "method"]);
    // FAO-56 example 18: 3.88 mm.
    let et0: f64 = lines[1][1].parse().unwrap();
    assert!((et0 - 3.88).abs() < 0.01, "{et0}");
    assert!(lines[1][1].split('.').nth(1).unwrap().len() >= 4);
    let methods: Vec<&str> = lines[1..].iter().map(|l| l[2]).collect();
    assert_eq!(
        methods,
        ["penman-monteith", "hargreaves", "penman-monteith-estimated"]
    );
    let south = ok(&[
        "et0",
        "--weather",
        file.to_str().unwrap(),
        "--latitude",
        "-50.8",
        "--elevation",
        "100",
        "--method",
        "hargreaves",
    ]);
    assert!(south.lines().skip(1).all(|l| l.ends_with("hargreaves")));
}

#[test]
fn a_replay_closes_on_every_line_and_starts_where_it_ended() {
    let weather = season("replay.csv");
    for forecast in ["none", "perfect"] {
        let text = ok(&[
            "simulate",
            "--site",
            &example(),
            "--weather",
            weather.to_str().unwrap(),
            "--from",
            "2026-04-10",
            "--to",
            "2026-06-15",
            "--forecast",
            forecast,
        ]);
        let mut lines = text.lines();
        let header: Vec<&str> = lines.next().unwrap().split(',').collect();
        let column = |name: &str| header.iter().position(|h| *h == name).unwrap();
        let mut last: std::collections::HashMap<String, f64> = std::collections::HashMap::new();
        let mut watered = 0.0;
        for line in lines {
            let cells: Vec<&str> = line.split(',').collect();
            let f = |name: &str| cells[column(name)].parse::<f64>().unwrap();
            let (start, end) = (f("depletion_start_mm"), f("depletion_mm"));
            let change = f("eta_mm") - f("effective_rain_mm") - f("irrigation_net_mm")
                + f("drainage_mm")
                + f("adjustment_mm");
            // Empty where no surface store runs.
            let surface = |name: &str| cells[column(name)].parse::<f64>().ok();
            let dried = surface("surface_depletion_mm")
                .zip(surface("surface_depletion_start_mm"))
                .map(|(end, start)| end - start);
            assert!(
                (end - start + dried.unwrap_or(0.0) - change).abs() < 1e-9,
                "{line}"
            );
            let is_seedbed = ["seedbed", "filling_in"].contains(&cells[column("regime")]);
            assert_eq!(dried.is_some(), is_seedbed, "{line}");
            assert_eq!(cells.len(), header.len());
            for part in ["tew_mm", "rew_mm", "evaporation_mm"] {
                assert_eq!(surface(part).is_some(), is_seedbed, "{line}");
            }
            assert!(end >= 0.0 && end <= f("taw_mm"));
            assert!(f("irrigation_gross_mm") >= f("irrigation_net_mm"));
            if let Some(before) = last.insert(cells[1].to_owned(), end) {
                assert!((before - start).abs() < 1e-12, "{line}");
            }
            watered += f("irrigation_net_mm");
        }
        assert!(watered > 100.0);
        // New corner begins on 5 June.
        assert_eq!(text.matches("new-corner").count(), 11);
    }
}

#[test]
fn a_plan_follows_its_schema_and_adds_up() {
    let weather = season("plan.csv");
    let text = ok(&[
        "plan",
        "--site",
        &example(),
        "--weather",
        weather.to_str().unwrap(),
        "--today",
        "2026-06-18",
    ]);
    let plan: Value = serde_json::from_str(&text).unwrap();
    let schema: Value =
        serde_json::from_str(include_str!("../../../../docs/formats/plan.schema.json")).unwrap();
    let validator = jsonschema::validator_for(&schema).unwrap();
    let errors: Vec<String> = validator
        .iter_errors(&plan)
        .map(|e| format!("{e} at {}", e.instance_path()))
        .collect();
    assert_eq!(errors, Vec::<String>::new());
    let mut runs = 0;
    for cell in plan["zones"]
        .as_array()
        .unwrap()
        .iter()
        .flat_map(|z| z["cells"].as_array().unwrap())
    {
        if let Some(run) = cell["run"].as_object() {
            let lines = cell["ledger"].as_array().unwrap();
            let sum: i64 = lines
                .iter()
                .filter(|r| {
                    ["refill", "asked", "unevenness", "spray_loss", "rounding"]
                        .contains(&r["line"].as_str().unwrap())
                })
                .map(|r| r["seconds"].as_i64().unwrap())
                .sum();
            assert_eq!(sum, run["run_s"].as_i64().unwrap());
            runs += 1;
        }
    }
    assert!(runs > 0);
    assert_eq!(
        text,
        ok(&[
            "plan",
            "--site",
            &example(),
            "--weather",
            weather.to_str().unwrap(),
            "--today",
            "2026-06-18"
        ])
    );
}

#[test]
fn bad_input_is_refused_in_one_line() {
    let swapped = scratch(
        "swapped.csv",
        "date,tmin_c,tmax_c\n2026-06-01,10,20\n2026-06-02,30,20\n",
    );
    let swapped = swapped.to_str().unwrap();
    let place = ["--latitude", "36.4", "--elevation", "310"];
    refuses(
        &[&["et0", "--weather", swapped][..], &place].concat(),
        &["swapped.csv", "line 3", "tmin_c"],
    );
    let text = scratch("text.csv", "date,tmin_c,tmax_c\n2026-06-01,10,warm\n");
    refuses(
        &[&["et0", "--weather", text.to_str().unwrap()][..], &place].concat(),
        &["line 2", "tmax_c", "warm"],
    );
    let missing = scratch("missing.csv", "date,tmin_c,tmax_c\n2026-06-01,10,\n");
    refuses(
        &[&["et0", "--weather", missing.to_str().unwrap()][..], &place].concat(),
        &["line 2", "tmax_c", "missing"],
    );
    refuses(
        &[
            "et0",
            "--weather",
            swapped,
            "--latitude",
            "95",
            "--elevation",
            "310",
        ],
        &["--latitude", "95", "90"],
    );
    refuses(
        &[
            "et0",
            "--weather",
            swapped,
            "--latitude",
            "north",
            "--elevation",
            "310",
        ],
        &["--latitude"],
    );
    refuses(
        &[
            "et0",
            "--weather",
            "no-such-file.csv",
            "--latitude",
            "1",
            "--elevation",
            "1",
        ],
        &["no-such-file.csv"],
    );

    let gap = scratch(
        "gap.csv",
        "date,tmin_c,tmax_c,rain_mm\n2026-06-01,10,25,0\n2026-06-03,10,25,0\n2026-06-04,10,25,0\n",
    );
    let gap = gap.to_str().unwrap();
    let site = example();
    let plan = [
        "plan",
        "--site",
        &site,
        "--weather",
        gap,
        "--today",
        "2026-06-05",
    ];
    refuses(&plan, &["gap.csv", "line 2", "2026-06-02", "--fill"]);
    ok(&[&plan[..], &["--fill"]].concat());
    let late = [
        "plan",
        "--site",
        &site,
        "--weather",
        gap,
        "--today",
        "2026-06-09",
        "--fill",
    ];
    ok(&late);
    let simulate = [
        "simulate",
        "--site",
        &site,
        "--weather",
        gap,
        "--from",
        "2026-06-01",
        "--to",
        "2026-06-09",
        "--fill",
    ];
    refuses(&simulate, &["gap.csv", "2026-06-04"]);
    let twice = scratch(
        "twice.csv",
        "date,tmin_c,tmax_c\n2026-06-01,10,25\n2026-06-01,10,25\n",
    );
    refuses(
        &[
            "plan",
            "--site",
            &site,
            "--weather",
            twice.to_str().unwrap(),
            "--today",
            "2026-06-02",
        ],
        &["line 3", "date", "line 2"],
    );

    let document = std::fs::read_to_string(&site).unwrap();
    let unknown = scratch(
        "unknown.json",
        &document.replacen("\"grass\"", "\"gras\"", 1),
    );
    refuses(
        &[
            "plan",
            "--site",
            unknown.to_str().unwrap(),
            "--weather",
            gap,
            "--today",
            "2026-06-05",
        ],
        &["unknown.json", "line", "gras"],
    );
    let number = scratch(
        "number.json",
        &document.replacen("\"slope_pct\": 1", "\"slope_pct\": \"steep\"", 1),
    );
    refuses(
        &[
            "plan",
            "--site",
            number.to_str().unwrap(),
            "--weather",
            gap,
            "--today",
            "2026-06-05",
        ],
        &["number.json", "line", "steep"],
    );
    let steep = scratch(
        "steep.json",
        &document.replacen("\"slope_pct\": 1", "\"slope_pct\": 180", 1),
    );
    refuses(
        &[
            "plan",
            "--site",
            steep.to_str().unwrap(),
            "--weather",
            gap,
            "--today",
            "2026-06-05",
        ],
        &["zones[0].slope_pct", "180"],
    );
}

#[test]
fn runs_lower_the_depletion_and_unknown_zones_are_refused() {
    let weather = season("runs-weather.csv");
    let site = example();
    let plan = [
        "plan",
        "--site",
        &site,
        "--weather",
        weather.to_str().unwrap(),
        "--today",
        "2026-06-18",
    ];
    let depletion = |text: &str| {
        let plan: Value = serde_json::from_str(text).unwrap();
        plan["zones"][0]["cells"][2]["depletion_start_mm"]
            .as_f64()
            .unwrap()
    };
    let runs = scratch(
        "runs.csv",
        "date,zone,passes,pass_s\n2026-06-16,playing-field,1,3600\n",
    );
    let with = ok(&[&plan[..], &["--runs", runs.to_str().unwrap()]].concat());
    assert!(depletion(&with) < depletion(&ok(&plan)));
    let bad = scratch(
        "bad-runs.csv",
        "date,zone,passes,pass_s\n2026-06-16,nowhere,1,3600\n",
    );
    refuses(
        &[&plan[..], &["--runs", bad.to_str().unwrap()]].concat(),
        &["bad-runs.csv", "line 2", "nowhere"],
    );
}

#[test]
fn days_outside_of_every_record_are_refused() {
    let (site, weather) = (example(), season("days.csv"));
    let weather = weather.to_str().unwrap();
    for day in [
        "1899-12-31",
        "2200-01-01",
        "0001-01-01",
        "9999-12-31",
        "-009999-01-01",
        "today",
    ] {
        let said = if day == "today" || day.starts_with('-') {
            ""
        } else {
            day
        };
        let today = format!("--today={day}");
        refuses(
            &["plan", "--site", &site, "--weather", weather, &today],
            &["--today", said],
        );
        let from = format!("--from={day}");
        refuses(
            &[
                "simulate",
                "--site",
                &site,
                "--weather",
                weather,
                &from,
                "--to",
                "2026-06-01",
            ],
            &["--from", said],
        );
        if day == "today" {
            continue;
        }
        let file = scratch(
            "far.csv",
            &format!("date,tmin_c,tmax_c,rain_mm\n{day},10,20,0\n"),
        );
        let file = file.to_str().unwrap();
        refuses(
            &[
                "et0",
                "--weather",
                file,
                "--latitude",
                "36.4",
                "--elevation",
                "310",
            ],
            &["line 2", "column date"],
        );
    }
    let first = scratch(
        "first.csv",
        "date,tmin_c,tmax_c,rain_mm\n1900-01-01,10,20,0\n2199-12-31,10,20,0\n",
    );
    let printed = ok(&[
        "et0",
        "--weather",
        first.to_str().unwrap(),
        "--latitude",
        "36.4",
        "--elevation",
        "310",
    ]);
    assert_eq!(printed.lines().count(), 3);
}
