//! What people say of runs: answered, taken back, asked about; a hose is credited for what it reached.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect, weather};
use crate::rounds::step;

/// Lives through mornings until one has run; the runs, newest first.
async fn until_one_ran(api: &Api, site: &str) -> Value {
    for _ in 0..6 {
        step(api, site, 1).await;
        let runs = runs(api, site).await;
        if !runs.as_array().unwrap().is_empty() {
            return runs;
        }
    }
    panic!("nothing ran in six days");
}

async fn runs(api: &Api, site: &str) -> Value {
    api.json(&format!("{site}/runs?from=2026-06-01&to=2026-07-01"))
        .await
}

/// What entered the soil of the only zone in the last seven days, by the working of today.
async fn watering_taken_in(api: &Api, site: &str) -> f64 {
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let today = plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["date"] == plan["today"])
        .unwrap()
        .clone();
    let account = today["ledger"]
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["line"] == "account")
        .unwrap()
        .clone();
    account["irrigation_mm"].as_f64().unwrap()
}

#[tokio::test]
async fn taking_back_that_it_did_not_run_restores_every_pass() {
    let (app, api, site) = App::with_dry_zone().await;
    // Slow soil on a slope, so that the run is split.
    let zone = api.json(&format!("{site}/zones")).await[0].clone();
    let mut steep = zone["zone"].clone();
    steep["soil"] = json!("clay");
    steep["slope_pct"] = json!(14);
    let path = format!("{site}/zones/{}", zone["id"]);
    let version = zone["version"].as_i64().unwrap();
    expect(
        api.edit(Method::PUT, &path, version, steep).await,
        StatusCode::OK,
    )
    .await;
    let ran = until_one_ran(&api, &site).await[0].clone();
    assert!(ran["passes"].as_i64().unwrap() > 1, "{ran}");
    let before = watering_taken_in(&api, &site).await;
    assert!(before > 1.0);

    let answer = |run: &Value| format!("{site}/runs/{}/answer", run["id"]);
    let denied = expect(
        api.send(
            Method::PUT,
            &answer(&ran),
            json!({ "answer": "did_not_run" }),
        )
        .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(denied["planned_s"], ran["seconds"]);
    assert!(watering_taken_in(&api, &site).await < before - 1.0);
    let back = api
        .send(Method::DELETE, &answer(&denied), Value::Null)
        .await;
    assert_eq!(back.status(), StatusCode::NO_CONTENT);
    let again = runs(&api, &site).await[0].clone();
    for figure in ["passes", "seconds", "planned_s", "started_at", "source"] {
        assert_eq!(again[figure], ran[figure], "{figure}");
    }
    assert!((watering_taken_in(&api, &site).await - before).abs() < 1e-9);

    // Other minutes after a denial keep the plan's passes; 40.5 minutes stay 40.5; taken back twice it is as planned.
    let denied = expect(
        api.send(
            Method::PUT,
            &answer(&again),
            json!({ "answer": "did_not_run" }),
        )
        .await,
        StatusCode::OK,
    )
    .await;
    let changed = json!({ "answer": "changed", "seconds": 2430, "sure": true });
    let changed = expect(
        api.send(Method::PUT, &answer(&denied), changed).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&changed["passes"], &changed["seconds"]),
        (&ran["passes"], &json!(2430))
    );
    for _ in 0..2 {
        let run = runs(&api, &site).await[0].clone();
        let back = api.send(Method::DELETE, &answer(&run), Value::Null).await;
        assert_eq!(back.status(), StatusCode::NO_CONTENT);
    }
    let as_planned = runs(&api, &site).await[0].clone();
    assert_eq!(
        (&as_planned["source"], &as_planned["seconds"]),
        (&json!("assumed"), &ran["seconds"])
    );
    let nothing = api
        .send(Method::DELETE, &answer(&as_planned), Value::Null)
        .await;
    assert_eq!(nothing.status(), StatusCode::CONFLICT);
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM run")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(kept, 7, "nothing that was said is lost");
    let csv = api.text(&format!("{site}/runs.csv")).await;
    assert_eq!(csv.lines().count(), 2, "{csv}");
    assert!(
        csv.contains(",Front,") && csv.contains(",assumed,"),
        "{csv}"
    );
}

#[tokio::test]
async fn what_is_seldom_so_is_asked_about_once() {
    let (app, api, site) = App::with_dry_zone().await;
    sqlx::query("UPDATE site SET windows = jsonb_set(windows, '{0,to}', '\"04:30\"')")
        .execute(&app.pool)
        .await
        .unwrap();
    let ran = until_one_ran(&api, &site).await[0].clone();
    let answer = format!("{site}/runs/{}/answer", ran["id"]);
    let asked = async |seconds: i64| {
        let body = json!({ "answer": "changed", "seconds": seconds });
        let said = expect(
            api.send(Method::PUT, &answer, body).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], "seconds");
        said["unlikely"]["unlikely"].clone()
    };
    assert_eq!(asked(86_400).await, "ends_later");
    assert_eq!(asked(900 * 60).await, "long_run");
    assert_eq!(asked(200 * 60).await, "beyond_window");
    let insists = json!({ "answer": "changed", "seconds": 200 * 60, "sure": true });
    expect(
        api.send(Method::PUT, &answer, insists).await,
        StatusCode::OK,
    )
    .await;

    let gauge = format!("{site}/gauge-readings");
    let said = expect(
        api.send(Method::POST, &gauge, json!({ "rain_mm": 500.0 }))
            .await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(
        said["unlikely"],
        json!({ "unlikely": "much_rain", "rain_mm": 500.0 })
    );
    let insists = json!({ "rain_mm": 500.0, "sure": true });
    let answer = api.send(Method::POST, &gauge, insists).await;
    assert_eq!(answer.status(), StatusCode::NO_CONTENT);

    let faults = format!("{site}/zones/1/head-faults");
    let head = json!({ "head": 99, "fault": "broken", "idempotency_key": "walk-0099" });
    let said = expect(
        api.send(Method::POST, &faults, head.clone()).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["unlikely"]["unlikely"], "other_head");
    let mut insists = head;
    insists["sure"] = json!(true);
    expect(
        api.send(Method::POST, &faults, insists).await,
        StatusCode::CREATED,
    )
    .await;
}

#[tokio::test]
async fn a_hose_is_credited_for_what_it_reached_and_else_not_at_all() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/runs");
    let credited = async |key: &str, minute: u32, watered: Value| {
        let before = watering_taken_in(&api, &site).await;
        let mut run = json!({ "zone": 1, "started_at": format!("2026-06-17T18:{minute:02}:00-04:00"), "seconds": 1500, "how": "hose",
            "idempotency_key": key });
        if !watered.is_null() {
            run["watered"] = watered;
        }
        expect(
            api.send(Method::POST, &path, run).await,
            StatusCode::CREATED,
        )
        .await;
        watering_taken_in(&api, &site).await - before
    };
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    // 25 minutes of 18 L/min are 450 L: at most 1.125 mm over the zone's 400 m², less what drifts away.
    let part = credited(
        "hose-0001",
        0,
        json!({ "by": "hose", "flow_l_min": 18.0, "reached_m2": 60.0 }),
    )
    .await;
    assert!((0.4..1.125).contains(&part), "{part} mm");
    assert_eq!(credited("hose-0002", 1, Value::Null).await, 0.0);
    assert_eq!(
        credited("hose-0003", 2, json!({ "by": "unmeasured" })).await,
        0.0
    );
    let half = credited("hose-0004", 3, json!({ "by": "own", "share": 0.5 })).await;
    let all = credited("hose-0005", 4, json!({ "by": "own", "share": 1.0 })).await;
    assert!(
        (all - 2.0 * half).abs() < 1e-9 && all > part,
        "{half} {all}"
    );

    for (watered, field) in [
        (json!({ "by": "own", "share": 0.0 }), "watered.share"),
        (
            json!({ "by": "hose", "flow_l_min": 0.0, "reached_m2": 10.0 }),
            "watered.flow_l_min",
        ),
        (
            json!({ "by": "hose", "flow_l_min": 18.0, "reached_m2": 401.0 }),
            "watered.reached_m2",
        ),
    ] {
        let run = json!({ "zone": 1, "started_at": "2026-06-16T18:00:00-04:00", "seconds": 60, "how": "hose", "watered": watered,
            "idempotency_key": "hose-0009" });
        let said = expect(
            api.send(Method::POST, &path, run).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field);
    }

    // A hose that is taken back is gone; it is no run that "did not run".
    let noted = runs(&api, &site).await;
    let hose = noted
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["watered"]["by"] == "hose")
        .unwrap();
    let answer = format!("{site}/runs/{}/answer", hose["id"]);
    let denied = api
        .send(Method::PUT, &answer, json!({ "answer": "did_not_run" }))
        .await;
    assert_eq!(denied.status(), StatusCode::CONFLICT);
    let before = watering_taken_in(&api, &site).await;
    let back = api.send(Method::DELETE, &answer, Value::Null).await;
    assert_eq!(back.status(), StatusCode::NO_CONTENT);
    assert!((before - watering_taken_in(&api, &site).await - part).abs() < 1e-9);
    assert_eq!(
        runs(&api, &site).await.as_array().unwrap().len(),
        noted.as_array().unwrap().len() - 1
    );
}

#[tokio::test]
async fn what_changed_since_yesterday_says_why() {
    let (_app, api, site) = App::with_dry_zone().await;
    let ran = until_one_ran(&api, &site).await[0].clone();
    let answer = format!("{site}/runs/{}/answer", ran["id"]);
    expect(
        api.send(Method::PUT, &answer, json!({ "answer": "did_not_run" }))
            .await,
        StatusCode::OK,
    )
    .await;
    let changes = api.json(&format!("{site}/plan")).await["current"]["changes"].clone();
    let of_zone = &changes[0];
    assert_eq!(of_zone["zone"], "1", "{changes}");
    let causes = of_zone["causes"].as_array().unwrap();
    let denied = json!({ "cause": "run_said", "date": ran["date"], "answer": "denied" });
    assert!(causes.contains(&denied), "{changes}");
}

#[tokio::test]
async fn files_hold_tests_heads_and_history_and_count_lines_not_faults() {
    let (_app, api, site) = App::with_dry_zone().await;
    let head = json!({ "head": 2, "fault": "broken", "note": "=mown over", "idempotency_key": "walk-0001" });
    let faults = format!("{site}/zones/1/head-faults");
    expect(
        api.send(Method::POST, &faults, head).await,
        StatusCode::CREATED,
    )
    .await;
    let test = json!({ "test": { "method": "quick", "way": "to_depth", "mark_mm": 13.0, "minutes": [22.0, 26.0] }, "idempotency_key": "quick-0001" });
    expect(
        api.send(
            Method::POST,
            &format!("{site}/zones/1/sprinkler-tests"),
            test,
        )
        .await,
        StatusCode::CREATED,
    )
    .await;
    let tests = api.text(&format!("{site}/sprinkler-tests.csv")).await;
    assert!(tests.contains("2026-06-18,1,Front,quick,2,"), "{tests}");
    let heads = api.text(&format!("{site}/head-faults.csv")).await;
    assert!(
        heads.contains("2026-06-18,1,Front,2,broken,'=mown over,Hazel Fern,,,"),
        "{heads}"
    );
    let history = api.text(&format!("{site}/history.csv")).await;
    assert!(history.contains(",head_fault_noted,"), "{history}");

    // Two faults in each of three lines are three lines.
    let bad = weather(|day| (day <= 10).then_some("70,99,x"));
    let preview = expect(
        api.csv(&format!("{site}/weather-imports/preview"), None, &bad)
            .await,
        StatusCode::OK,
    )
    .await;
    let version = preview["weather_version"].as_i64();
    let said = expect(
        api.csv(
            &format!("{site}/weather-imports?conflicts=keep"),
            version,
            &bad,
        )
        .await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(
        said["detail"],
        "3 lines of the file cannot be used; nothing was written"
    );
    assert!(said["lines"].as_array().unwrap().len() >= 6, "{said}");
}
