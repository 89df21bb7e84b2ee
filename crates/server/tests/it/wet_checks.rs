//! Wet checks: written once, by those who may; when the next is due.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, expect};
use crate::rounds::step;

#[tokio::test]
async fn a_walk_is_written_once_and_the_next_is_due_when_a_mower_hits_a_head() {
    let (_app, api, site) = App::with_dry_zone().await;
    let checks = format!("{site}/wet-checks");
    let due = async || api.json(&checks).await["due"].clone();
    assert_eq!(due().await, Value::Null, "nothing was watered yet");
    step(&api, &site, 6).await;
    assert_eq!(due().await, json!({ "why": "first" }));
    let walk = json!({ "zones": [1], "ran_in_rain": true, "note": " mist at the gate ", "idempotency_key": "walk-0001" });
    let sent = api.send(Method::POST, &checks, walk.clone()).await;
    expect(sent, StatusCode::CREATED).await;
    let again = api.send(Method::POST, &checks, walk).await;
    expect(again, StatusCode::OK).await;
    let kept = api.json(&checks).await;
    assert_eq!(kept["due"], Value::Null);
    let [only] = &kept["checks"].as_array().unwrap()[..] else {
        panic!("{kept}")
    };
    assert_eq!(
        (
            &only["zones"],
            &only["note"],
            &only["ran_in_rain"],
            &only["ran_in_frost"],
            &only["who"]
        ),
        (
            &json!([1]),
            &json!("mist at the gate"),
            &json!(true),
            &json!(false),
            &json!("Hazel Fern")
        )
    );
    for (bad, field) in [
        (json!({ "zones": [] }), "zones"),
        (json!({ "zones": [1, 1] }), "zones[1]"),
        (json!({ "zones": [77] }), "zones[0]"),
        (json!({ "zones": [1], "note": "x".repeat(201) }), "note"),
    ] {
        let mut walk = bad;
        walk["idempotency_key"] = json!("walk-0002");
        let problem = api.send(Method::POST, &checks, walk).await;
        let problem = expect(problem, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(problem["field"], field, "{problem}");
    }
    step(&api, &site, 1).await;
    let misaimed = json!({ "head": 2, "fault": "misaimed", "idempotency_key": "fault-0001" });
    let faults = format!("{site}/zones/1/head-faults");
    expect(
        api.send(Method::POST, &faults, misaimed).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(due().await, Value::Null, "no mower does that");
    let tilted = json!({ "head": 3, "fault": "tilted", "idempotency_key": "fault-0002" });
    expect(
        api.send(Method::POST, &faults, tilted).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(
        due().await,
        json!({ "why": "mowing", "noted": "2026-06-25" })
    );
}
