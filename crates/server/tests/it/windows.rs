//! Two windows a day, and two runs of a zone in one: through plan, settling and the record.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};
use crate::rounds::step;

/// The small dry site, whose hours are half an hour at dawn and half an hour in the late afternoon, every day; at 02:00.
pub async fn twice_a_day() -> (App, Api, String) {
    let (app, api, site) = App::with_dry_zone().await;
    let view = api.json(&site).await;
    let every = [
        "monday",
        "tuesday",
        "wednesday",
        "thursday",
        "friday",
        "saturday",
        "sunday",
    ];
    let edit = json!({
        "site": view["site"],
        "supply": view["supply"],
        "controller": view["controller"],
        "windows": [
            { "days": every, "from": "05:00", "to": "05:15" },
            { "days": every, "from": "17:00", "to": "17:15" },
        ],
    });
    let version = view["version"].as_i64().unwrap();
    let answer = api.edit(Method::PUT, &site, version, edit).await;
    expect(answer, StatusCode::OK).await;
    (app, api, site)
}

fn cell_of_today(plan: &Value) -> Value {
    let cells = plan["zones"][0]["cells"].as_array().unwrap();
    let today = cells.iter().find(|c| c["date"] == plan["today"]);
    today.unwrap().clone()
}

#[tokio::test]
async fn two_runs_of_a_day_are_planned_settled_one_by_one_and_answered() {
    let (app, api, site) = twice_a_day().await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let today = cell_of_today(&plan);
    assert_eq!(today["later"].as_array().unwrap().len(), 1, "{today}");
    let (dawn, evening) = (&today["run"], &today["later"][0]["run"]);
    assert!(dawn["starts"][0].as_str() < evening["starts"][0].as_str());

    // A day later both are in the record, each by its own start and time.
    step(&api, &site, 1).await;
    let day = plan["today"].as_str().unwrap();
    let runs = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    let runs = runs.as_array().unwrap();
    assert_eq!(runs.len(), 2, "{runs:?}");
    for (run, planned) in runs.iter().rev().zip([dawn, evening]) {
        assert_eq!(run["seconds"], planned["run_s"]);
        assert_eq!(run["started_at"], planned["starts"][0]);
        assert_eq!(run["source"], "assumed");
    }
    let ids: Vec<&Value> = runs.iter().map(|r| &r["id"]).collect();
    let plans: i64 = sqlx::query_scalar("SELECT max(id) FROM plan")
        .fetch_one(&app.pool)
        .await
        .unwrap();

    // Both ran: said at once, replanned once, and an equal plan is not stored again.
    let confirm = api
        .send(
            Method::POST,
            &format!("{site}/runs/confirmation"),
            json!({ "runs": ids }),
        )
        .await;
    let said = expect(confirm, StatusCode::OK).await;
    assert!(
        said.as_array()
            .unwrap()
            .iter()
            .all(|r| r["source"] == "confirmed")
    );
    let now: i64 = sqlx::query_scalar("SELECT max(id) FROM plan")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert!(now <= plans + 1);
    // The evening's did not: the days after it are drier by what it gave.
    let used = async || {
        let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
        cell_of_today(&plan)["depletion_start_mm"].as_f64().unwrap()
    };
    let before = used().await;
    let latest = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    let latest = latest.as_array().unwrap();
    let last = latest
        .iter()
        .max_by_key(|r| r["started_at"].as_str().unwrap().to_owned())
        .unwrap();
    let answer = api
        .send(
            Method::PUT,
            &format!("{site}/runs/{}/answer", last["id"]),
            json!({ "answer": "did_not_run" }),
        )
        .await;
    expect(answer, StatusCode::OK).await;
    assert!(used().await > before + 1.0);
}
