//! Tests of sprinklers over the API: what they say, that plans use them, that one is kept once; and what is wrong with heads.

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
        "method": "cans",
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
    let lines: Vec<Value> = cells
        .iter()
        .flat_map(|c| c["ledger"].as_array().unwrap().clone())
        .collect();
    let find = |name: &str| lines.iter().find(|r| r["line"] == name).unwrap().clone();
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
    let reckon = format!("{site}/zones/1/sprinkler-test-results");
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
        sqlx::query_scalar("SELECT count(*) FROM sprinkler_test")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    assert_eq!(count().await, 0, "reckoning keeps nothing");

    let path = format!("{site}/zones/1/sprinkler-tests");
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
    // The document has the test as it was done, not what it told.
    let zone = &document["zones"][0];
    assert_eq!(
        (&zone["rate_mm_h"], &zone["tests"][0]["date"]),
        (&Value::Null, &json!("2026-06-18"))
    );
    assert_eq!(
        zone["tests"][0]["test"]["cans"].as_array().unwrap().len(),
        16
    );
}

#[tokio::test]
async fn the_newest_counts_unless_another_is_pinned_or_it_is_voided() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/sprinkler-tests");
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
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    let ids = [&tests[0]["id"], &tests[1]["id"]];
    assert_eq!(
        (&tests[0]["counts"], &tests[1]["counts"]),
        (&json!(true), &json!(false))
    );
    let stand = async |id: &Value, standing: &str| {
        let path = format!("{site}/sprinkler-tests/{id}/standing");
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
            &format!("{site}/sprinkler-tests/99/standing"),
            json!({ "standing": "void" }),
        )
        .await;
    assert_eq!(gone.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn impossible_readings_are_refused_at_their_field() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/sprinkler-tests");
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
    assert_eq!(
        api.json(&format!("{site}/sprinkler-tests")).await,
        json!([])
    );
}

async fn add(api: &Api, site: &str, test: Value, key: &str) -> Value {
    let body = json!({ "test": test, "idempotency_key": key });
    let path = format!("{site}/zones/1/sprinkler-tests");
    expect(
        api.send(Method::POST, &path, body).await,
        StatusCode::CREATED,
    )
    .await
}

#[tokio::test]
async fn the_cans_of_a_test_go_out_as_the_audit_reads_them() {
    let (_app, api, site) = App::with_dry_zone().await;
    add(&api, &site, can_test(), "phone-0001").await;
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    let path = format!("{site}/sprinkler-tests/{}/cans.csv", tests[0]["id"]);
    let url = format!("{}{path}", api.base);
    let text = api.client.get(url).send().await.unwrap();
    let text = text.text().await.unwrap();
    assert!(
        text.starts_with("can,x_m,y_m,depth_mm\n1,1,0.75,4.2\n"),
        "{text}"
    );
    let cans = lawn::measure::cans::file::read(&text, None).unwrap();
    assert_eq!(cans.len(), 16);
    let gone = format!("{}{site}/sprinkler-tests/99/cans.csv", api.base);
    let answer = api.client.get(gone).send().await.unwrap();
    assert_eq!(answer.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_quick_test_tells_the_rate_and_leaves_the_evenness_to_the_cans() {
    let (_app, api, site) = App::with_dry_zone().await;
    add(&api, &site, can_test(), "phone-0001").await;
    let quick =
        json!({ "method": "quick", "way": "to_depth", "mark_mm": 13, "minutes": [26, 26, 26] });
    let reckon = format!("{site}/zones/1/sprinkler-test-results");
    let said = expect(
        api.send(Method::POST, &reckon, quick.clone()).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(said["result"]["rate_mm_h"]["value"], 30.0);
    let added = add(&api, &site, quick, "phone-0002").await;
    let change = &added["changes"][0];
    assert_eq!(change["change"], "minutes", "{added}");
    assert!(change["to_s"].as_i64() < change["from_s"].as_i64());
    assert!(change["from_passes"].is_u64() && change["to_passes"].is_u64());
    let (rate, evenness) = used(&api, &site).await;
    assert_eq!(rate["source"]["test"], "quick test, 3 cans and a watch");
    assert_eq!(evenness["source"]["test"], "can test, 16 cans");
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    let counts = |i: usize| {
        (
            tests[i]["counts"].as_bool().unwrap(),
            tests[i]["counts_for_evenness"].as_bool().unwrap(),
        )
    };
    assert_eq!((counts(0), counts(1)), ((true, false), (false, true)));

    let wrong = json!({ "method": "quick", "way": "meter", "before_l": 900, "after_l": 400, "minutes": 10, "area_m2": 500 });
    let said = expect(
        api.send(Method::POST, &reckon, wrong).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "after_l");
}

#[tokio::test]
async fn unevenness_is_told_in_minutes_water_and_money_of_this_week() {
    let (_app, api, site) = App::with_dry_zone().await;
    let added = add(&api, &site, can_test(), "phone-0001").await;
    let cost = &added["result"]["week_cost"];
    let plan = api.json(&format!("{site}/plan")).await;
    let plan = &plan["current"]["plan"];
    // Before the test the plan was another, but what the turf uses in the week is nearly the same.
    let need: f64 = plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|c| c["date"].as_str() >= plan["today"].as_str())
        .map(|c| c["eta_mm"].as_f64().unwrap())
        .sum();
    let said = cost["need_mm"].as_f64().unwrap();
    assert!((said / need - 1.0).abs() < 0.1, "{said} {need}");
    assert!(cost["minutes"].as_f64().unwrap() > 1.0 && cost["volume_l"].as_f64().unwrap() > 10.0);
}

#[tokio::test]
async fn a_layout_is_reckoned_from_what_a_tape_measures() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/can-layouts");
    let ask = |sides: Value| json!({ "shape": { "shape": "polygon", "sides_m": sides }, "heads": "corners", "columns": 4, "rows": 4 });
    let layout = expect(
        api.send(Method::POST, &path, ask(json!([6, 8, 10]))).await,
        StatusCode::OK,
    )
    .await;
    assert!((layout["area_m2"].as_f64().unwrap() - 24.0).abs() < 0.01);
    assert_eq!(layout["heads"].as_array().unwrap().len(), 3);
    let said = expect(
        api.send(Method::POST, &path, ask(json!([6, 8, 20]))).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "shape.sides_m[2]");
}

#[tokio::test]
async fn a_head_is_noted_once_mended_once_and_tests_before_it_are_old() {
    let (app, api, site) = App::with_dry_zone().await;
    add(&api, &site, can_test(), "phone-0001").await;
    // The test was made the day before.
    sqlx::query("UPDATE sprinkler_test SET date = date - 1")
        .execute(&app.pool)
        .await
        .unwrap();
    let path = format!("{site}/zones/1/head-faults");
    let body = json!({ "head": 2, "fault": "clogged", "due_on": "2026-06-20", "idempotency_key": "walk-0001" });
    let (a, b) = tokio::join!(
        api.send(Method::POST, &path, body.clone()),
        api.send(Method::POST, &path, body.clone())
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::OK, StatusCode::CREATED]);
    let faults = api.json(&format!("{site}/head-faults")).await;
    assert_eq!(faults.as_array().unwrap().len(), 1);
    assert_eq!(
        (&faults[0]["fault"], &faults[0]["mended_on"]),
        (&json!("clogged"), &Value::Null)
    );
    let old = async || api.json(&format!("{site}/sprinkler-tests")).await[0]["outdated"].clone();
    // Doubted from the day on which the fault was noted.
    let at_fault = json!({ "outdated": "head_at_fault", "head": 2, "on": "2026-06-18" });
    assert_eq!(old().await, at_fault);
    let mended = format!("{site}/head-faults/{}/repaired", faults[0]["id"]);
    for _ in 0..2 {
        let answer = api.send(Method::PUT, &mended, Value::Null).await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    }
    assert_eq!(
        old().await,
        json!({ "outdated": "head_mended", "head": 2, "noted_on": "2026-06-18", "on": "2026-06-18" })
    );
    // A repair that was none is taken back.
    for _ in 0..2 {
        let answer = api.send(Method::DELETE, &mended, Value::Null).await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    }
    assert_eq!(old().await, at_fault);
    let history = api.json(&format!("{site}/history")).await;
    let text = history.to_string();
    assert_eq!(text.matches("head_fault_noted").count(), 1);
    assert_eq!(text.matches("head_mended").count(), 1);
    assert_eq!(text.matches("head_not_mended").count(), 1);

    for (change, field) in [
        (json!({ "head": 0 }), "head"),
        (json!({ "due_on": "2026-06-01" }), "due_on"),
        (json!({ "note": "x".repeat(201) }), "note"),
    ] {
        let mut wrong = body.clone();
        wrong["idempotency_key"] = json!("walk-0002");
        for (key, value) in change.as_object().unwrap() {
            wrong[key] = value.clone();
        }
        let said = expect(
            api.send(Method::POST, &path, wrong).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field);
    }
    let gone = format!("{site}/head-faults/999/repaired");
    let answer = api.send(Method::PUT, &gone, Value::Null).await;
    assert_eq!(answer.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn what_unevenness_costs_is_told_of_one_week_whenever_the_tests_were() {
    let (app, api, site) = App::with_dry_zone().await;
    add(&api, &site, can_test(), "before-001").await;
    sqlx::query("UPDATE sprinkler_test SET date = '2026-06-10', result = jsonb_set(result, '{week_cost,need_mm}', '1')")
        .execute(&app.pool)
        .await
        .unwrap();
    add(&api, &site, can_test(), "after-0001").await;
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    let cost = |i: usize| tests[i]["result"]["week_cost"].clone();
    assert_eq!(cost(0), cost(1), "the same cans cost the same");
    assert!(cost(0)["need_mm"].as_f64().unwrap() > 5.0);
}
