//! Published weeks: in force whatever newer plans say, until their days are over or they are withdrawn; what changed since; by hand or each morning.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::edits::planned;
use crate::harness::{Api, expect};
use crate::rounds::step;

/// The newest plan's number and week.
pub async fn newest(api: &Api, site: &str) -> (i64, Value) {
    let current = api.json(&format!("{site}/plan")).await["current"].clone();
    (current["id"].as_i64().unwrap(), current["plan"].clone())
}

/// Publishes the newest plan.
pub async fn publish(api: &Api, site: &str, key: &str) -> Value {
    let (plan, _) = newest(api, site).await;
    let body = json!({ "plan": plan, "idempotency_key": format!("publish-{key}") });
    let sent = api
        .send(Method::POST, &format!("{site}/publications"), body)
        .await;
    expect(sent, StatusCode::CREATED).await
}

async fn skip(api: &Api, site: &str, day: &str) {
    let skip = json!({ "act": { "kind": "skip" }, "date": day, "reason": "a fair", "idempotency_key": "published-skip" });
    let sent = api
        .send(Method::POST, &format!("{site}/zones/1/edits"), skip)
        .await;
    expect(sent, StatusCode::CREATED).await;
}

async fn runs_on(api: &Api, site: &str, day: &str) -> Vec<Value> {
    let runs = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    runs.as_array().unwrap().clone()
}

async fn publishing(api: &Api, site: &str) -> Value {
    api.json(&format!("{site}/publishing")).await
}

#[tokio::test]
async fn what_is_published_runs_although_the_plan_changes_and_says_what_changed() {
    let (_app, api, site, day) = planned().await;
    let before = publishing(&api, &site).await;
    assert_eq!(
        before,
        json!({ "each_morning": false, "published": null, "since": null, "controller": null })
    );
    let published = publish(&api, &site, "one").await;
    // Sent again it is published once.
    let (_, week) = newest(&api, &site).await;
    assert_eq!(publish(&api, &site, "one").await["id"], published["id"]);
    let same = publishing(&api, &site).await;
    assert_eq!(same["published"]["who"], "Hazel Fern");
    assert_eq!(same["since"]["changes"], json!([]), "{same}");
    assert_eq!(same["since"]["published"], same["since"]["newest"]);

    skip(&api, &site, &day).await;
    let changed = publishing(&api, &site).await["since"].clone();
    let of_zone = &changed["changes"][0];
    let days: Vec<&Value> = of_zone["changes"].as_array().unwrap().iter().collect();
    assert!(
        days.iter().any(|c| c["date"] == day || c["from"] == day),
        "{changed}"
    );
    assert_eq!(of_zone["causes"][0]["cause"], "day_edited", "{changed}");
    assert_ne!(
        changed["published"]["days_too_dry"],
        changed["newest"]["days_too_dry"]
    );

    // The day passes: the published watering counts, taken from its plan.
    step(&api, &site, 1).await;
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!(ran.len(), 1, "{ran:?}");
    let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
    let planned = cells.clone().find(|c| c["date"] == day).unwrap();
    assert_eq!(ran[0]["seconds"], planned["run"]["run_s"]);
    assert_eq!(ran[0]["source"], "assumed");
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("\"published\""), "{history}");
}

#[tokio::test]
async fn withdrawn_the_newest_plan_is_in_force_and_a_stale_publish_is_refused() {
    let (_app, api, site, day) = planned().await;
    let (seen, _) = newest(&api, &site).await;
    skip(&api, &site, &day).await;
    let stale = json!({ "plan": seen, "idempotency_key": "publish-stale" });
    let path = format!("{site}/publications");
    let said = api.send(Method::POST, &path, stale).await;
    let said = expect(said, StatusCode::PRECONDITION_FAILED).await;
    assert_eq!(said["current"]["plan"], newest(&api, &site).await.0);

    // The skip undone and published; then withdrawn with the day skipped again: nothing runs.
    let undo = api.json(&format!("{site}/edits")).await["undo"]["id"].clone();
    let undo = format!("{site}/edits/{undo}");
    let undone = api.send(Method::DELETE, &undo, Value::Null).await;
    assert_eq!(undone.status(), StatusCode::NO_CONTENT);
    let published = publish(&api, &site, "two").await["id"].clone();
    let redone = api
        .send(Method::POST, &format!("{undo}/redo"), Value::Null)
        .await;
    assert_eq!(redone.status(), StatusCode::NO_CONTENT);
    let path = format!("{path}/{published}");
    let withdrawn = api.send(Method::DELETE, &path, Value::Null).await;
    assert_eq!(withdrawn.status(), StatusCode::NO_CONTENT);
    let again = api.send(Method::DELETE, &path, Value::Null).await;
    assert_eq!(again.status(), StatusCode::NOT_FOUND);
    assert!(publishing(&api, &site).await["published"].is_null());
    step(&api, &site, 1).await;
    assert!(runs_on(&api, &site, &day).await.is_empty());
}

#[tokio::test]
async fn each_morning_by_rule_and_over_after_its_week() {
    let (_app, api, site, _) = planned().await;
    let path = format!("{site}/publishing");
    let on = |each_morning: bool| json!({ "each_morning": each_morning });
    for _ in 0..2 {
        let set = api.send(Method::PUT, &path, on(true)).await;
        assert_eq!(set.status(), StatusCode::NO_CONTENT);
    }
    step(&api, &site, 1).await;
    let first = publishing(&api, &site).await;
    assert_eq!(first["published"]["by_rule"], true, "{first}");
    step(&api, &site, 1).await;
    let second = publishing(&api, &site).await["published"].clone();
    assert!(second["id"].as_i64() > first["published"]["id"].as_i64());
    let history = api.json(&format!("{site}/history")).await;
    let entries = history["entries"].as_array().unwrap().iter();
    let events: Vec<&str> = entries
        .map(|e| e["what"]["event"].as_str().unwrap())
        .collect();
    let count = |event| events.iter().filter(|e| **e == event).count();
    assert_eq!(count("published_by_rule"), 2);
    assert_eq!(count("publishes_each_morning"), 1);

    // Switched off, the last one lasts its week; then the newest plan is in force again.
    api.send(Method::PUT, &path, on(false)).await;
    step(&api, &site, 14).await;
    let over = publishing(&api, &site).await;
    assert_eq!(over["published"]["id"], second["id"]);
    let (_, week) = newest(&api, &site).await;
    assert!(over["published"]["last_day"].as_str() < week["today"].as_str());
    assert!(over["since"].is_null());
    let last = second["last_day"].as_str().unwrap();
    let all = api
        .json(&format!("{site}/runs?from=2026-06-18&to=2026-07-18"))
        .await;
    let mut all = all.as_array().unwrap().iter();
    assert!(
        all.any(|run| run["date"].as_str() > Some(last)),
        "the plan runs after {last}"
    );
}

#[tokio::test]
async fn a_window_that_is_open_stays_as_it_was_planned() {
    let (app, api, site, day) = planned().await;
    // Within the first night's window, while its watering goes on.
    let within = format!("{day}T04:30:00-04:00");
    sqlx::query("UPDATE site SET simulated_now = $1::timestamptz")
        .bind(&within)
        .execute(&app.pool)
        .await
        .unwrap();
    let plans = format!("{site}/plans");
    let again = || api.send(Method::POST, &plans, Value::Null);
    // Planned twice at the same instant, nothing is planned into what is left of it.
    for _ in 0..2 {
        expect(again().await, StatusCode::CREATED).await;
        let (_, week) = newest(&api, &site).await;
        let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
        let today = cells.clone().find(|c| c["date"] == day).unwrap();
        assert_eq!(
            (&today["state"], &today["run"]),
            (&json!("ran"), &Value::Null)
        );
    }
    let published = publish(&api, &site, "open").await;
    let from: String = sqlx::query_scalar(
        "SELECT (in_force_from AT TIME ZONE 'America/New_York')::time::text FROM publication",
    )
    .fetch_one(&app.pool)
    .await
    .unwrap();
    assert_eq!(from, "07:00:00", "{published}");
    step(&api, &site, 1).await;
    assert_eq!(runs_on(&api, &site, &day).await.len(), 1);
}
