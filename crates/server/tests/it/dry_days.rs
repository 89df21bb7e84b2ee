//! A zone kept dry on chosen days: the plan waters before or after, and the day comes back by itself.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};
use crate::rounds::step;

async fn cell(api: &Api, site: &str, date: &str) -> Value {
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["date"] == date)
        .unwrap()
        .clone()
}

#[tokio::test]
async fn a_zone_stays_dry_on_the_day_that_a_person_chose() {
    let (_app, api, site) = App::with_dry_zone().await;
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let day = plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| !c["run"].is_null())
        .unwrap()["date"]
        .as_str()
        .unwrap()
        .to_owned();
    let path = format!("{site}/zones/1/dry-days/{day}");
    let put = async |note: &str| {
        let answer = api.send(Method::PUT, &path, json!({ "note": note })).await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    };
    put("a match").await;
    put("a match, 15:00").await;
    let dry = cell(&api, &site, &day).await;
    assert!(dry["run"].is_null(), "{dry}");
    assert!(dry["ledger"].to_string().contains("kept_dry"), "{dry}");
    let days = api.json(&format!("{site}/dry-days")).await;
    assert_eq!(
        (days.as_array().unwrap().len(), &days[0]["note"]),
        (1, &json!("a match, 15:00"))
    );
    let lifted = api.send(Method::DELETE, &path, Value::Null).await;
    assert_eq!(lifted.status(), StatusCode::NO_CONTENT);
    assert!(!cell(&api, &site, &day).await["run"].is_null());

    // It comes back by itself: once the day is over it is no longer listed, and the past cannot be kept dry.
    put("a match").await;
    step(&api, &site, 6).await;
    let days = api.json(&format!("{site}/dry-days")).await;
    assert_eq!(days, json!([]));
    let ran = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    assert_eq!(ran, json!([]), "it did not water on the day");
    for (date, status) in [
        (day.as_str(), StatusCode::UNPROCESSABLE_ENTITY),
        ("2029-01-01", StatusCode::UNPROCESSABLE_ENTITY),
        ("never", StatusCode::NOT_FOUND),
    ] {
        let path = format!("{site}/zones/1/dry-days/{date}");
        let answer = api.send(Method::PUT, &path, json!({})).await;
        assert_eq!(answer.status(), status, "{date}");
    }
    let note = json!({ "note": "x".repeat(201) });
    let path = format!("{site}/zones/1/dry-days/2026-06-25");
    let said = expect(
        api.send(Method::PUT, &path, note).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "note");
    let elsewhere = format!("{site}/zones/99/dry-days/2026-06-25");
    let answer = api.send(Method::PUT, &elsewhere, json!({})).await;
    assert_eq!(answer.status(), StatusCode::NOT_FOUND);
}
