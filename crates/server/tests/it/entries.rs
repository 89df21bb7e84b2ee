//! Entries for some hours: kept once, obeyed by the plan, listed until they are over, lifted, refused where they do not hold.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};
use crate::rounds::step;

async fn ask(api: &Api, site: &str, entry: Value) -> (StatusCode, Value) {
    let answer = api
        .send(Method::POST, &format!("{site}/zones/1/constraints"), entry)
        .await;
    (answer.status(), answer.json().await.unwrap())
}

async fn warnings(api: &Api, site: &str) -> String {
    let plan = api.json(&format!("{site}/plan")).await;
    let cells = plan["current"]["plan"]["zones"][0]["cells"].clone();
    let cells = cells.as_array().unwrap().iter();
    cells.map(|c| c["warnings"].to_string()).collect()
}

#[tokio::test]
async fn what_was_put_down_is_watered_in_and_a_conflict_is_said() {
    let (_app, api, site) = App::with_dry_zone().await;
    let first = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(first, StatusCode::CREATED).await;
    let entry = json!({ "asks": { "kind": "water_in", "net_mm": 6 }, "hours": 24, "note": "grub granules", "idempotency_key": "granules-1" });
    let (status, kept) = ask(&api, &site, entry.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    let (status, again) = ask(&api, &site, entry).await;
    assert_eq!((status, &again["id"]), (StatusCode::OK, &kept["id"]));
    assert!(again["changes"].is_null());
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let text = plan.to_string();
    assert!(text.contains("waters_in"), "{text}");
    assert!(!warnings(&api, &site).await.contains("not_watered_in"));

    // Somebody sprays it too, and wants it dry for longer than that.
    let dry =
        json!({ "asks": { "kind": "keep_dry" }, "hours": 30, "idempotency_key": "sprayed-1" });
    let (status, dry) = ask(&api, &site, dry).await;
    assert_eq!(status, StatusCode::CREATED, "{dry}");
    let said = warnings(&api, &site).await;
    assert!(
        said.contains("not_watered_in") && said.contains("kept_dry"),
        "{said}"
    );
    let listed = api.json(&format!("{site}/constraints")).await;
    assert_eq!(
        (
            listed.as_array().unwrap().len(),
            &listed[0]["note"],
            &listed[1]["asks"]["kind"]
        ),
        (2, &json!("grub granules"), &json!("keep_dry"))
    );
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("hours_asked"), "{history}");

    // Lifted, the water comes; a second time there is nothing to lift.
    let lift = format!("{site}/constraints/{}", dry["id"]);
    let lifted = api.send(Method::DELETE, &lift, Value::Null).await;
    assert_eq!(lifted.status(), StatusCode::NO_CONTENT);
    assert!(!warnings(&api, &site).await.contains("not_watered_in"));
    let lifted = api.send(Method::DELETE, &lift, Value::Null).await;
    assert_eq!(lifted.status(), StatusCode::NOT_FOUND);

    // Over, it is no longer listed.
    step(&api, &site, 2).await;
    let listed = api.json(&format!("{site}/constraints")).await;
    assert_eq!(listed.as_array().unwrap().len(), 0);
}

#[tokio::test]
async fn entries_that_do_not_hold_are_refused_at_their_field() {
    let (_app, api, site) = App::with_dry_zone().await;
    let entry = |change: &dyn Fn(&mut Value)| {
        let mut entry = json!({ "asks": { "kind": "water_in", "net_mm": 6 }, "hours": 24, "idempotency_key": "granules-2" });
        change(&mut entry);
        entry
    };
    for (field, entry) in [
        ("hours", entry(&|e| e["hours"] = json!(60))),
        ("hours", entry(&|e| e["from"] = json!("1999-06-01T10:00"))),
        ("asks.net_mm", entry(&|e| e["asks"]["net_mm"] = json!(90))),
        ("note", entry(&|e| e["note"] = json!("x".repeat(201)))),
        ("from", entry(&|e| e["from"] = json!("2199-06-01T10:00"))),
        (
            "idempotency_key",
            entry(&|e| e["idempotency_key"] = json!("short")),
        ),
    ] {
        let answer = api
            .send(Method::POST, &format!("{site}/zones/1/constraints"), entry)
            .await;
        let said = expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    let listed = api.json(&format!("{site}/constraints")).await;
    assert_eq!(listed, json!([]));
}
