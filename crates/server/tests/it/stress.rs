//! Letting zones go and waking them: proposed by the ledger, decided by people, obeyed by the plan.

use jiff::ToSpan;
use jiff::civil::Date;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect};
use crate::rounds::step;

/// Pavilion front of the demo: tall fescue.
const ZONE: i64 = 2;

/// The demo where summers are dry, its manager signed in.
pub async fn demo() -> (App, Api) {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let dry = json!({ "climate": "mediterranean-dry" });
    let path = "/sites/1/weather-feed";
    expect(api.send(Method::PUT, path, dry).await, StatusCode::OK).await;
    (app, api)
}

async fn shown(api: &Api) -> Value {
    let stress = api.json("/sites/1/stress").await;
    let zones = stress["zones"].as_array().unwrap();
    zones.iter().find(|z| z["zone"] == ZONE).unwrap().clone()
}

async fn turn(api: &Api, body: Value) -> reqwest::Response {
    let path = format!("/sites/1/zones/{ZONE}/regime");
    api.send(Method::PUT, &path, body).await
}

/// The days of the plan on which the zone is watered.
async fn waters(api: &Api) -> Vec<String> {
    let plan = api.json("/sites/1/plan").await["current"]["plan"].clone();
    let zones = plan["zones"].as_array().unwrap();
    let id = ZONE.to_string();
    let zone = zones.iter().find(|z| z["zone"] == *id).unwrap();
    let cells = zone["cells"].as_array().unwrap();
    let with_run = cells.iter().filter(|c| !c["run"].is_null());
    let days = with_run.map(|c| c["date"].as_str().unwrap().to_owned());
    days.collect()
}

fn later(date: &str, days: i64) -> String {
    let date: Date = date.parse().unwrap();
    date.saturating_add(days.days()).to_string()
}

#[tokio::test]
async fn a_zone_is_let_go_and_its_crowns_alone_are_watered() {
    let (app, api) = demo().await;
    let before = shown(&api).await;
    assert_eq!(
        (&before["regime"], &before["since"], &before["asleep"]),
        (&json!("established"), &Value::Null, &Value::Null)
    );
    for (body, field) in [
        (json!({ "regime": "off" }), "regime"),
        (json!({ "regime": "dormant", "from": "2026-07-01" }), "from"),
        (json!({ "regime": "dormant", "from": "2024-07-01" }), "from"),
        (
            json!({ "regime": "dormant", "note": "x".repeat(201) }),
            "note",
        ),
    ] {
        let said = expect(turn(&api, body).await, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    let let_go = json!({ "regime": "dormant", "note": "the well is low" });
    let done = turn(&api, let_go.clone()).await;
    assert_eq!(done.status(), StatusCode::NO_CONTENT);
    expect(turn(&api, let_go).await, StatusCode::CONFLICT).await;
    let seed = api.send(
        Method::PUT,
        "/sites/1/zones/8/regime",
        json!({ "regime": "dormant" }),
    );
    expect(seed.await, StatusCode::CONFLICT).await;

    let asleep = shown(&api).await;
    assert_eq!(
        (&asleep["regime"], &asleep["since"]),
        (&json!("dormant"), &json!("2026-06-18"))
    );
    let change = &asleep["changes"][0];
    assert_eq!(
        (&change["note"], &change["who"], &change["proposal"]),
        (
            &json!("the well is low"),
            &json!("Hazel Fern"),
            &Value::Null
        )
    );
    // Each day it is due fourteen days after it was last wet, and the plan waters it no day earlier; at last it does.
    let mut dues = Vec::new();
    for _ in 0..34 {
        let zone = shown(&api).await;
        let today = api.json("/sites/1").await["today"].clone();
        let today = today.as_str().unwrap().to_owned();
        let wetted = zone["now"]["wetted"].as_str().unwrap();
        let due = later(wetted, 14).max(today.clone());
        assert_eq!(zone["asleep"]["crowns"]["due"], json!(due), "{zone}");
        assert_eq!(zone["asleep"]["other_way"]["depth_mm"], 6.0);
        let waters = waters(&api).await;
        assert!(waters.iter().all(|day| *day >= due), "{due}: {waters:?}");
        dues.push((today, due));
        step(&api, "/sites/1", 1).await;
    }
    let ran: Vec<String> = sqlx::query_scalar(
        "SELECT date::text FROM run WHERE zone_id = $1 AND voided_at IS NULL AND passes > 0 AND date > '2026-06-18' ORDER BY date",
    )
    .bind(ZONE)
    .fetch_all(&app.pool)
    .await
    .unwrap();
    assert!(!ran.is_empty(), "{dues:?}");
    for day in &ran {
        let eve = later(day, -1);
        let (_, due) = dues.iter().find(|(today, _)| *today == eve).unwrap();
        assert!(due <= day, "{day} although due on {due}");
    }

    // Woken it is watered as turf again; the history says who did what.
    let done = turn(&api, json!({ "regime": "recovering" })).await;
    assert_eq!(done.status(), StatusCode::NO_CONTENT);
    let history = api.text("/sites/1/history.csv").await;
    assert_eq!(history.matches("regime_turned").count(), 2, "{history}");
    let zone = shown(&api).await;
    assert_eq!(
        (&zone["regime"], &zone["asleep"]),
        (&json!("recovering"), &Value::Null)
    );
}

/// The same when nobody waters, on the day on which the zone is proposed to be let go; the proposal.
pub async fn falling_asleep() -> (App, Api, Value) {
    let (app, api) = demo().await;
    sqlx::query("UPDATE site SET windows = '[]'")
        .execute(&app.pool)
        .await
        .unwrap();
    for _ in 0..60 {
        step(&api, "/sites/1", 1).await;
        let proposed = shown(&api).await["proposes"].clone();
        if !proposed.is_null() {
            return (app, api, proposed);
        }
    }
    panic!("nothing falls asleep in two dry months");
}

#[tokio::test]
async fn sleep_is_proposed_and_taken_with_its_figures() {
    let (_app, api, proposed) = falling_asleep().await;
    assert_eq!(proposed["proposes"], "let_go", "{proposed}");
    assert!(proposed["dry_days"].as_u64().unwrap() >= 7);
    // Nothing is done by itself.
    assert_eq!(shown(&api).await["regime"], "established");
    let done = turn(&api, json!({ "regime": "dormant" })).await;
    assert_eq!(done.status(), StatusCode::NO_CONTENT);
    let zone = shown(&api).await;
    assert_eq!(zone["changes"][0]["proposal"], proposed);
    assert_eq!(zone["proposes"], Value::Null, "it is done");
    // Said of a day long ago, the balance since is another one: it used less.
    let used = |zone: &Value| zone["now"]["used"].as_f64().unwrap();
    let before = used(&zone);
    let back = json!({ "regime": "established" });
    assert_eq!(turn(&api, back).await.status(), StatusCode::NO_CONTENT);
    let long_ago = json!({ "regime": "dormant", "from": "2026-06-01" });
    assert_eq!(turn(&api, long_ago).await.status(), StatusCode::NO_CONTENT);
    let zone = shown(&api).await;
    assert_eq!(zone["since"], "2026-06-01");
    assert!(used(&zone) < before, "{before}: {zone}");
}

/// The last line of the decision, and how many lines of progress came before it.
/// The last line of a decision, and how far it said that it was before.
async fn decision(api: &Api) -> (Value, Vec<(u64, u64)>) {
    let text = api.text("/sites/1/decision").await;
    let lines: Vec<Value> = text
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .collect();
    let last = lines.last().unwrap().clone();
    let progress = lines.iter().filter(|line| line["line"] == "progress");
    let number = |line: &Value, of| line[of].as_u64().unwrap();
    let progress = progress.map(|line| (number(line, "done"), number(line, "of")));
    (last, progress.collect())
}

#[tokio::test]
async fn past_summers_are_reckoned_with_progress_and_a_choice_to_keep_green_is_kept() {
    let (app, api, proposed) = falling_asleep().await;
    assert_eq!(proposed["proposes"], "let_go");
    let (found, progress) = decision(&api).await;
    let decision = &found["decision"];
    let summers = decision["summers"].as_array().unwrap();
    assert_eq!(found["line"], "found");
    assert!(!summers.is_empty());
    // Before the record is read nobody knows of how many; who reads slowly hears the newest alone.
    let of = u64::try_from(summers.len()).unwrap();
    assert!(!progress.is_empty());
    assert!(
        progress.is_sorted()
            && progress
                .iter()
                .all(|p| p.0 <= p.1 && (p.1 == of || p.1 == 0)),
        "{progress:?}"
    );
    let zones = decision["zones"].as_array().unwrap();
    assert_eq!(zones.len(), 7, "not new seed");
    // Nobody may water here: green takes nothing, and ends dry.
    let own = zones.iter().find(|z| z["zone"] == "2").unwrap();
    assert_eq!(own["green_l"]["high"], 0.0);
    assert!(own["green_dry_days"]["high"].as_u64().unwrap() > 10);

    // Kept green it is not asked again, until somebody lets it go.
    let keep = json!({ "regime": "established", "note": "for the wedding" });
    let early = json!({ "regime": "established", "from": "2026-06-01" });
    let said = expect(turn(&api, early).await, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "from");
    let kept = turn(&api, keep.clone()).await;
    assert_eq!(kept.status(), StatusCode::NO_CONTENT);
    expect(turn(&api, keep.clone()).await, StatusCode::CONFLICT).await;
    let zone = shown(&api).await;
    let today = api.json("/sites/1").await["today"].clone();
    assert_eq!(
        (&zone["proposes"], &zone["kept_green_until"]),
        (&Value::Null, &json!(later(today.as_str().unwrap(), 120)))
    );
    assert_eq!(zone["changes"][0]["note"], "for the wedding");
    assert_eq!(zone["since"], Value::Null, "it was green before");
    step(&api, "/sites/1", 1).await;
    assert_eq!(shown(&api).await["proposes"], Value::Null);
    let gone = turn(&api, json!({ "regime": "dormant" })).await;
    assert_eq!(gone.status(), StatusCode::NO_CONTENT);
    assert_eq!(shown(&api).await["kept_green_until"], Value::Null);

    // A site without a past summer says so.
    let owner = app.account("dry@meadow.example").await;
    let other = app.sign_in("dry@meadow.example").await;
    let site = app.dry_zone(owner, &other).await;
    let text = other.text(&format!("{site}/decision")).await;
    let found: Value = serde_json::from_str(text.lines().last().unwrap()).unwrap();
    assert_eq!(found["decision"]["summers"], json!([]));
    assert_eq!(found["decision"]["zones"][0]["green_l"], Value::Null);
}
