//! Runs come out as files and go in again: into the same site, into a new one, and from a sheet that somebody kept.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};
use crate::rounds::step;

/// A site that has lived through a week of runs, of which people have said what became: one each of confirmed, changed and denied where there are as many.
async fn lived() -> (App, Api, String) {
    let (app, api, site) = App::with_dry_zone().await;
    step(&api, &site, 7).await;
    let runs = list(&api, &site).await;
    assert!(runs.len() > 1, "{runs:?}");
    for (run, answer) in runs.iter().zip([
        json!({ "answer": "changed", "seconds": 900 }),
        json!({ "answer": "did_not_run" }),
    ]) {
        let path = format!("{site}/runs/{}/answer", run["id"]);
        expect(api.send(Method::PUT, &path, answer).await, StatusCode::OK).await;
    }
    let zone = runs[0]["zone"].clone();
    let hose = json!({ "zone": zone, "started_at": "2026-06-19T21:30:12.5Z", "seconds": 600, "how": "hose", "idempotency_key": "a-hose-01",
        "watered": { "by": "hose", "flow_l_min": 18.5, "reached_m2": 60.0 } });
    let added = api.send(Method::POST, &format!("{site}/runs"), hose).await;
    assert_eq!(added.status(), StatusCode::CREATED);
    (app, api, site)
}

async fn list(api: &Api, site: &str) -> Vec<Value> {
    let runs = api
        .json(&format!("{site}/runs?from=2026-01-01&to=2026-12-31"))
        .await;
    runs.as_array().unwrap().clone()
}

/// What counts of runs, whoever said it and whatever their identifiers.
fn told(runs: &[Value]) -> Vec<Value> {
    let figures = [
        "date",
        "started_at",
        "passes",
        "seconds",
        "planned_s",
        "watered",
        "source",
        "zone_name",
    ];
    (runs.iter())
        .map(|run| figures.iter().map(|f| run[f].clone()).collect())
        .collect()
}

async fn import(api: &Api, site: &str, file: &str) -> Value {
    let done = api.csv(&format!("{site}/run-imports"), None, file).await;
    expect(done, StatusCode::CREATED).await
}

/// The depletion of today's dawn, by the plan.
async fn depletion(api: &Api, site: &str) -> Value {
    let made = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(made, StatusCode::CREATED).await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().clone();
    let today = cells.iter().find(|c| c["date"] == plan["today"]).unwrap();
    today["start_mm"].clone()
}

#[tokio::test]
async fn what_ran_comes_out_and_goes_into_a_new_site_as_it_was() {
    let (app, api, site) = lived().await;
    let before = told(&list(&api, &site).await);
    let csv = api.text(&format!("{site}/runs.csv")).await;
    let listed = api.text(&format!("{site}/runs.json")).await;
    let count = before.len();
    // Where it came from it is known; nothing is written, said or planned anew.
    for file in [&csv, &listed] {
        let done = import(&api, &site, file).await;
        assert_eq!(done, json!({ "new": 0, "answered": 0, "known": count }));
    }
    assert_eq!(told(&list(&api, &site).await), before);
    let history = api.text(&format!("{site}/history.csv")).await;
    assert!(!history.contains("runs_imported"), "{history}");

    // The site document makes a new site, whose zones have other identifiers; its weather and runs go in as files.
    let document = api.text(&format!("{site}/document")).await;
    let made = api
        .send(
            Method::POST,
            "/sites",
            serde_json::from_str(&document).unwrap(),
        )
        .await;
    let made = expect(made, StatusCode::CREATED).await;
    let copy = format!("/sites/{}", made["id"]);
    sqlx::query(
        "UPDATE site SET simulated_now = (SELECT simulated_now FROM site ORDER BY id LIMIT 1)",
    )
    .execute(&app.pool)
    .await
    .unwrap();
    let weather = api.text(&format!("{site}/weather.csv")).await;
    let version = api.json(&copy).await["weather_version"].as_i64();
    let done = api
        .csv(
            &format!("{copy}/weather-imports?conflicts=keep"),
            version,
            &weather,
        )
        .await;
    assert!(done.status().is_success(), "{}", done.text().await.unwrap());
    let done = import(&api, &copy, &csv).await;
    assert_eq!(done, json!({ "new": count, "answered": 0, "known": 0 }));
    assert_eq!(told(&list(&api, &copy).await), before);
    let again = import(&api, &copy, &listed).await;
    assert_eq!(again, json!({ "new": 0, "answered": 0, "known": count }));
    assert_eq!(depletion(&api, &copy).await, depletion(&api, &site).await);
    let history = api.text(&format!("{copy}/history.csv")).await;
    assert!(history.contains("runs_imported"), "{history}");
    // What did not run can be taken back there too, and ran then as it was planned.
    let denied = list(&api, &copy).await;
    let denied = denied.iter().find(|r| r["source"] == "denied").unwrap();
    let changed = json!({ "answer": "changed", "seconds": 600 });
    let path = format!("{copy}/runs/{}/answer", denied["id"]);
    let said = expect(api.send(Method::PUT, &path, changed).await, StatusCode::OK).await;
    assert_eq!(said["planned_s"], denied["planned_s"]);
}

#[tokio::test]
async fn a_file_answers_runs_and_is_taken_whole_or_not_at_all() {
    let (_app, api, site) = App::with_dry_zone().await;
    step(&api, &site, 7).await;
    let runs = list(&api, &site).await;
    let (last, first) = (runs[0].clone(), runs[runs.len() - 1].clone());
    let csv = api.text(&format!("{site}/runs.csv")).await;
    let mut lines: Vec<String> = csv.lines().map(str::to_owned).collect();
    // Somebody fills in what became of them, on paper first.
    let (at_first, at_last) = (1, lines.len() - 1);
    lines[at_first] = lines[at_first].replace(",assumed,", ",confirmed,");
    let cells: Vec<&str> = lines[at_last].split(',').collect();
    let changed = [
        cells[0], cells[1], cells[2], "", "700", cells[5], cells[6], "changed",
    ]
    .join(",");
    lines[at_last] = format!("{changed},,own,1,,,,");
    let own = "2026-06-20,,1,,480,Front,18:30,,,,,,,,".to_owned();
    lines.push(own.clone());

    // One line that does not hold, and nothing of the others is written.
    let mut wrong = lines.clone();
    wrong.push(own.replace("Front", "Roof"));
    wrong.push("2030-06-20,,1,,480,Front,18:30,,,,,,,,".to_owned());
    let refused = api
        .csv(&format!("{site}/run-imports"), None, &wrong.join("\r\n"))
        .await;
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(problem["lines"][0]["line"], lines.len() + 1, "{problem}");
    assert_eq!(problem["lines"][0]["column"], "zone");
    assert_eq!(told(&list(&api, &site).await), told(&runs));

    let plans = api.json(&format!("{site}/plan")).await["current"]["id"].clone();
    let done = import(&api, &site, &lines.join("\r\n")).await;
    assert_eq!(
        done,
        json!({ "new": 1, "answered": 2, "known": runs.len() - 2 })
    );
    let now = list(&api, &site).await;
    let of = |run: &Value| {
        let same = |other: &&Value| other["started_at"] == run["started_at"];
        now.iter().find(same).unwrap().clone()
    };
    assert_eq!(of(&first)["source"], "confirmed");
    assert_eq!(of(&first)["who"], "Hazel Fern");
    let changed = of(&last);
    assert_eq!(
        (
            &changed["source"],
            &changed["seconds"],
            &changed["planned_s"]
        ),
        (&json!("changed"), &json!(700), &last["seconds"])
    );
    let hand = now.iter().find(|r| r["source"] == "hand").unwrap();
    assert_eq!(
        (&hand["seconds"], &hand["planned_s"]),
        (&json!(480), &Value::Null)
    );
    assert_ne!(
        api.json(&format!("{site}/plan")).await["current"]["id"],
        plans,
        "the week is planned anew"
    );
    // What is seldom so is asked about, and taken when somebody is sure.
    let long = "date,started,name,minutes\n2026-06-19,09:00,front,300\n";
    let imports = format!("{site}/run-imports");
    let asked = api.csv(&imports, None, long).await;
    let problem = expect(asked, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(problem["lines"][0]["column"], "run_s", "{problem}");
    let taken = api.csv(&format!("{imports}?sure=true"), None, long).await;
    expect(taken, StatusCode::CREATED).await;
}
