//! Tests of the soil and what was seen over the API: what they say, that one is kept once, that plans use them, that they can be undone.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};

fn jar() -> Value {
    json!({ "method": "jar", "sand_to_mm": 60.0, "silt_to_mm": 90.0, "clay_to_mm": 100.0 })
}

/// The current plan's cell of today of the first zone.
async fn today(api: &Api, site: &str) -> Value {
    let view = api.json(&format!("{site}/plan")).await;
    let plan = &view["current"]["plan"];
    let cells = plan["zones"][0]["cells"].as_array().unwrap();
    let found = cells.iter().find(|c| c["date"] == plan["today"]);
    found.unwrap().clone()
}

fn line(cell: &Value, name: &str) -> Option<Value> {
    let lines = cell["ledger"].as_array().unwrap();
    lines.iter().find(|l| l["line"] == name).cloned()
}

#[tokio::test]
async fn a_jar_is_reckoned_kept_once_and_used_by_the_plan_and_the_document() {
    let (_app, api, site) = App::with_dry_zone().await;
    let reckon = format!("{site}/zones/1/soil-test-results");
    let said = expect(api.send(Method::POST, &reckon, jar()).await, StatusCode::OK).await;
    assert_eq!(said["result"]["texture"]["texture"], "sandy_loam");
    assert_eq!(said["problem"], Value::Null);

    let path = format!("{site}/zones/1/soil-tests");
    let body = json!({ "test": jar(), "idempotency_key": "phone-0001" });
    let kept = expect(
        api.send(Method::POST, &path, body.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    assert!(
        !kept["changes"].as_array().unwrap().is_empty(),
        "sandy loam holds less: {kept}"
    );
    let again = expect(api.send(Method::POST, &path, body).await, StatusCode::OK).await;
    assert_eq!(
        (&again["changes"], &again["result"]),
        (&Value::Null, &kept["result"])
    );

    let storage = line(&today(&api, &site).await, "storage").unwrap();
    assert_eq!(
        storage["available_mm_per_mm"]["source"]["test"],
        "jar test, sandy loam"
    );
    assert_eq!(storage["available_mm_per_mm"]["value"], 0.12);
    let list = api.json(&format!("{site}/soil-tests")).await;
    assert_eq!(
        (&list[0]["counts"], &list[0]["voided"]),
        (&json!(true), &json!(false))
    );
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(
        document["zones"][0]["soil_tests"][0]["test"]["method"],
        "jar"
    );
    // What came in goes out again.
    let copy = expect(
        api.send(Method::POST, "/sites", document.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    let copied = api.json(&format!("/sites/{}/document", copy["id"])).await;
    assert_eq!(
        copied["zones"][0]["soil_tests"],
        document["zones"][0]["soil_tests"]
    );

    // While it counts nobody types another texture over it.
    let zones = api.json(&format!("{site}/zones")).await;
    let version = zones[0]["version"].as_i64().unwrap();
    let mut zone = zones[0]["zone"].clone();
    zone["soil"] = "clay".into();
    let path = format!("{site}/zones/1");
    let refused = api.edit(Method::PUT, &path, version, zone).await;
    let refused = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(refused["field"], "soil");
    assert!(
        refused["detail"]
            .as_str()
            .unwrap()
            .contains("jar test of 2026-06-18"),
        "{refused}"
    );

    // Set aside, the book counts again.
    let id = &list[0]["id"];
    let standing = format!("{site}/soil-tests/{id}/standing");
    expect(
        api.send(Method::PUT, &standing, json!({ "standing": "void" }))
            .await,
        StatusCode::NO_CONTENT,
    )
    .await;
    let storage = line(&today(&api, &site).await, "storage").unwrap();
    assert_eq!(storage["available_mm_per_mm"]["source"]["kind"], "handbook");
}

#[tokio::test]
async fn impossible_readings_are_refused_at_their_field_and_nothing_is_kept() {
    let (app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/soil-tests");
    for (test, field) in [
        (
            json!({ "method": "lab", "sand_pct": 50, "silt_pct": 30, "clay_pct": 15 }),
            "test.clay_pct",
        ),
        (
            json!({ "method": "jar", "sand_to_mm": 60, "silt_to_mm": 50, "clay_to_mm": 100 }),
            "test.silt_to_mm",
        ),
        (
            json!({ "method": "ring", "walls": { "walls": "double" }, "rings": [{ "readings": [
                { "minutes": 0, "level_mm": 80 }, { "minutes": 10, "level_mm": 60 }, { "minutes": 5, "level_mm": 50 }] }] }),
            "test.rings[0].readings[2].minutes",
        ),
    ] {
        let body = json!({ "test": test, "idempotency_key": "phone-0002" });
        let said = expect(
            api.send(Method::POST, &path, body).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field, "{said}");
    }
    // A ring that is under way is computed, and says what is missing.
    let ring = json!({ "method": "ring", "walls": { "walls": "double" }, "rings": [{ "readings": [
        { "minutes": 0, "level_mm": 80 }, { "minutes": 10, "level_mm": 60 }] }] });
    let reckon = format!("{site}/zones/1/soil-test-results");
    let said = expect(api.send(Method::POST, &reckon, ring).await, StatusCode::OK).await;
    assert_eq!(said["result"]["rings"][0]["points"][1]["entered_mm"], 20.0);
    assert_eq!(said["field"], "rings[0].readings");
    let future = json!({ "test": jar(), "date": "2026-06-19", "idempotency_key": "phone-0003" });
    let said = expect(
        api.send(Method::POST, &path, future).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "date");
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM soil_test")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(kept, 0);
}

#[tokio::test]
async fn a_probe_corrects_the_balance_the_working_says_so_and_undone_it_is_as_before() {
    let (_app, api, site) = App::with_dry_zone().await;
    let before = today(&api, &site).await;
    let path = format!("{site}/zones/1/seen");
    let seen = json!({ "seen": "moisture", "scale": "percent", "reading": 27.0, "at_field_capacity": 28.0 });
    let body = json!({ "seen": seen, "idempotency_key": "probe-0001" });
    let noted = expect(
        api.send(Method::POST, &path, body.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    assert!(noted["changes"].is_array());
    let again = expect(api.send(Method::POST, &path, body).await, StatusCode::OK).await;
    assert_eq!(
        (&again["id"], &again["changes"]),
        (&noted["id"], &Value::Null)
    );
    let after = today(&api, &site).await;
    let corrected = line(&after, "corrected").unwrap();
    assert_eq!(corrected["seen"], seen);
    let adjustment = corrected["adjustment_mm"].as_f64().unwrap();
    let moved = after["depletion_start_mm"].as_f64().unwrap()
        - before["depletion_start_mm"].as_f64().unwrap();
    assert!(
        adjustment < -1.0 && (moved - adjustment).abs() < 1e-9,
        "{moved} {corrected}"
    );
    // A day on, it is part of the ledger.
    let list = api.json(&format!("{site}/seen")).await;
    assert_eq!(
        (&list[0]["seen"], &list[0]["photo"]),
        (&seen, &json!(false))
    );
    let undo = format!("{site}/seen/{}", noted["id"]);
    expect(
        api.send(Method::DELETE, &undo, Value::Null).await,
        StatusCode::NO_CONTENT,
    )
    .await;
    expect(
        api.send(Method::DELETE, &undo, Value::Null).await,
        StatusCode::NOT_FOUND,
    )
    .await;
    assert_eq!(
        today(&api, &site).await["depletion_start_mm"],
        before["depletion_start_mm"]
    );
    assert_eq!(api.json(&format!("{site}/seen")).await, json!([]));
    // Puddles change no balance, and come with advice.
    let body = json!({ "seen": { "seen": "puddles" }, "place": { "x_m": 2, "y_m": 3 }, "idempotency_key": "puddle-001" });
    let noted = expect(
        api.send(Method::POST, &path, body).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(noted["advice"][0]["advice"], "time_the_runoff");
    assert_eq!(noted["advice"][1]["advice"], "aerate");
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(
        document["zones"][0]["seen"][0]["place"],
        json!({ "x_m": 2.0, "y_m": 3.0 })
    );
}

#[tokio::test]
async fn a_wilt_sign_of_days_ago_makes_the_ledger_anew_from_there() {
    let (app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/seen");
    let past = async || -> Vec<(String, f64)> {
        sqlx::query_as("SELECT date::text, adjustment_mm FROM zone_day WHERE zone_id = 1 AND adjustment_mm <> 0 ORDER BY date")
            .fetch_all(&app.pool)
            .await
            .unwrap()
    };
    assert!(past().await.is_empty());
    let seen = json!({ "seen": "moisture", "scale": "own", "reading": 8, "at_field_capacity": 9, "at_wilting": 1 });
    let body = json!({ "seen": seen, "date": "2026-06-15", "after_noon": true, "idempotency_key": "probe-0009" });
    expect(
        api.send(Method::POST, &path, body).await,
        StatusCode::CREATED,
    )
    .await;
    let days = past().await;
    assert_eq!(days[0].0, "2026-06-15");
    assert!(line(&today(&api, &site).await, "corrected").is_some());
}

#[tokio::test]
async fn what_is_worth_measuring_comes_with_the_plan_and_a_test_takes_it_off_the_list() {
    let (_app, api, site) = App::with_dry_zone().await;
    let worth = async || -> Vec<Value> {
        let view = api.json(&format!("{site}/plan")).await;
        view["current"]["plan"]["worth_measuring"]
            .as_array()
            .unwrap()
            .clone()
    };
    let first = worth().await;
    assert!(first.iter().any(|w| w["test"] == "can_test"), "{first:?}");
    let core = first.iter().find(|w| w["test"] == "pull_a_core").unwrap();
    assert!(core["least_s"].as_i64() <= core["most_s"].as_i64());
    assert!(core["loss_mm"].as_f64().unwrap() > 0.0);
    let loss: Vec<f64> = first
        .iter()
        .map(|w| w["loss_l"].as_f64().unwrap())
        .collect();
    assert!(loss.is_sorted_by(|a, b| a >= b), "{loss:?}");
    let body = json!({ "test": { "method": "core", "roots_mm": [280.0, 310.0] }, "idempotency_key": "core-00001" });
    expect(
        api.send(Method::POST, &format!("{site}/zones/1/soil-tests"), body)
            .await,
        StatusCode::CREATED,
    )
    .await;
    assert!(!worth().await.iter().any(|w| w["test"] == "pull_a_core"));
}
