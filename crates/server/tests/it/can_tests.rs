//! Can tests over the API: what they say, that plans use them, that one is kept once.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};

/// Sixteen cans on 8 m by 6 m, mean 40 mL in 15 min under a mouth of 100 cm²: 16 mm/h, low quarter 0.74 (worked by hand in `science`).
pub fn can_test() -> Value {
    let readings = [
        42, 38, 51, 47, 29, 33, 60, 55, 36, 41, 44, 40, 30, 28, 34, 32,
    ];
    let cans: Vec<Value> = readings
        .iter()
        .enumerate()
        .map(|(i, ml)| {
            json!({ "number": i + 1, "place": { "x_m": 1 + 2 * (i % 4), "y_m": 0.75 + 1.5 * f64::from(u8::try_from(i / 4).unwrap()) },
                    "fate": "read", "reading": ml })
        })
        .collect();
    json!({
        "corners": [{ "x_m": 0, "y_m": 0 }, { "x_m": 8, "y_m": 0 }, { "x_m": 8, "y_m": 6 }, { "x_m": 0, "y_m": 6 }],
        "heads": [{ "x_m": 0, "y_m": 0 }, { "x_m": 8, "y_m": 0 }],
        "container": { "kind": "volume", "throat_cm2": 100, "holds_ml": 250 },
        "minutes": 15, "wind_m_s": 1, "cans": cans
    })
}

/// Rate and evenness in the working of the first run of the plan.
async fn used(api: &Api, site: &str) -> (Value, Value) {
    let plan = api.json(&format!("{site}/plan")).await;
    let cells = plan["current"]["plan"]["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .clone();
    let reasons: Vec<Value> = cells
        .iter()
        .flat_map(|c| c["reasons"].as_array().unwrap().clone())
        .collect();
    let find = |name: &str| {
        reasons
            .iter()
            .find(|r| r["reason"] == name)
            .unwrap()
            .clone()
    };
    (
        find("at_rate")["rate_mm_h"].clone(),
        find("unevenness")["evenness"].clone(),
    )
}

#[tokio::test]
async fn a_test_is_reckoned_kept_once_and_used_by_the_plan() {
    let (app, api, site) = App::with_dry_zone().await;
    let (rate, _) = used(&api, &site).await;
    assert_eq!(rate["source"]["kind"], "handbook");
    let reckon = format!("{site}/zones/1/can-test-results");
    let said = expect(
        api.send(Method::POST, &reckon, can_test()).await,
        StatusCode::OK,
    )
    .await;
    let near = |value: &Value, right: f64| (value.as_f64().unwrap() - right).abs() < 1e-9;
    assert!(near(&said["result"]["rate_mm_h"]["value"], 16.0));
    assert!(near(&said["result"]["evenness_du_lq"]["value"], 0.743_75));
    assert_eq!(said["result"]["rating"], "very_good");
    let count = async || -> i64 {
        sqlx::query_scalar("SELECT count(*) FROM can_test")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    assert_eq!(count().await, 0, "reckoning keeps nothing");

    let path = format!("{site}/zones/1/can-tests");
    let body = json!({ "test": can_test(), "idempotency_key": "phone-0001" });
    let (a, b) = tokio::join!(
        api.send(Method::POST, &path, body.clone()),
        api.send(Method::POST, &path, body.clone())
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::OK, StatusCode::CREATED]);
    assert_eq!(count().await, 1);
    let (rate, evenness) = used(&api, &site).await;
    assert!(near(&rate["value"], 16.0) && near(&evenness["value"], 0.743_75));
    assert_eq!(
        rate["source"],
        json!({ "kind": "measured", "test": "can test, 16 cans", "date": "2026-06-18" })
    );
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(
        document["zones"][0]["rate_mm_h"]["source"]["kind"],
        "measured"
    );
}

#[tokio::test]
async fn the_newest_counts_unless_another_is_pinned_or_it_is_voided() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/can-tests");
    for (key, minutes) in [("phone-0001", 15.0), ("phone-0002", 30.0)] {
        let mut test = can_test();
        test["minutes"] = json!(minutes);
        let body = json!({ "test": test, "idempotency_key": key });
        let said = expect(
            api.send(Method::POST, &path, body).await,
            StatusCode::CREATED,
        )
        .await;
        assert!(
            !said["changes"].as_array().unwrap().is_empty(),
            "the plan answers"
        );
    }
    let rate = async || used(&api, &site).await.0["value"].as_f64().unwrap();
    assert!((rate().await - 8.0).abs() < 1e-9);
    let tests = api.json(&format!("{site}/can-tests")).await;
    let ids = [&tests[0]["id"], &tests[1]["id"]];
    assert_eq!(
        (&tests[0]["counts"], &tests[1]["counts"]),
        (&json!(true), &json!(false))
    );
    let stand = async |id: &Value, standing: &str| {
        let path = format!("{site}/can-tests/{id}/standing");
        let answer = api
            .send(Method::PUT, &path, json!({ "standing": standing }))
            .await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    };
    stand(ids[1], "pinned").await;
    assert!((rate().await - 16.0).abs() < 1e-9);
    stand(ids[1], "automatic").await;
    assert!((rate().await - 8.0).abs() < 1e-9);
    stand(ids[0], "void").await;
    assert!((rate().await - 16.0).abs() < 1e-9);
    let gone = api
        .send(
            Method::PUT,
            &format!("{site}/can-tests/99/standing"),
            json!({ "standing": "void" }),
        )
        .await;
    assert_eq!(gone.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn impossible_readings_are_refused_at_their_field() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/can-tests");
    type Change = fn(&mut Value);
    let changes: [(Change, &str); 4] = [
        (
            |t| t["cans"][2]["reading"] = json!(-1),
            "test.cans[2].reading",
        ),
        (
            |t| t["cans"][2]["reading"] = json!(900),
            "test.cans[2].reading",
        ),
        (|t| t["minutes"] = json!(0), "test.minutes"),
        (
            |t| t["cans"][2]["place"] = t["cans"][1]["place"].clone(),
            "test.cans[2].place",
        ),
    ];
    for (change, field) in changes {
        let mut test = can_test();
        change(&mut test);
        let body = json!({ "test": test, "idempotency_key": "phone-0003" });
        let said = expect(
            api.send(Method::POST, &path, body).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field, "{said}");
    }
    assert_eq!(api.json(&format!("{site}/can-tests")).await, json!([]));
}
