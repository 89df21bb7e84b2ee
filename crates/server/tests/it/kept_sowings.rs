//! A plan for new grass is kept, shown again, changed and forgotten.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, expect};

#[tokio::test]
async fn a_plan_for_new_grass_is_kept_until_it_is_forgotten() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/zones/1/kept-sowing");
    let kept = async || api.json(&format!("{site}/kept-sowings")).await;
    assert_eq!(kept().await, json!([]));
    let days = json!({
        "grass": "tall_fescue", "method": "seed", "spray": "2026-08-10", "soil_work": "2026-09-05", "sow": "2026-09-07", "wait_days": 28
    });
    for sow in ["2026-09-07", "2026-09-09"] {
        let mut days = days.clone();
        days["sow"] = json!(sow);
        let answer = api.send(Method::PUT, &path, days).await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    }
    let is = kept().await;
    assert_eq!(is.as_array().unwrap().len(), 1, "{is}");
    assert_eq!(is[0]["zone_name"], "Front");
    assert_eq!(is[0]["who"], "Hazel Fern");
    assert_eq!(is[0]["kept"]["sow"], "2026-09-09");
    assert_eq!(is[0]["kept"]["spray"], "2026-08-10");
    for (field, wrong) in [
        ("sow", json!("2020-01-01")),
        ("wait_days", json!(4000)),
        ("method", json!("plugs")),
    ] {
        let mut days = days.clone();
        days[field] = wrong;
        let refused = api.send(Method::PUT, &path, days).await;
        let said = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    for _ in 0..2 {
        let answer = api.send(Method::DELETE, &path, Value::Null).await;
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    }
    assert_eq!(kept().await, json!([]));
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert_eq!(history.matches("sowing_kept").count(), 2);
    assert_eq!(history.matches("sowing_forgotten").count(), 1);
    let elsewhere = format!("{site}/zones/99/kept-sowing");
    let answer = api.send(Method::PUT, &elsewhere, days).await;
    assert_eq!(answer.status(), StatusCode::NOT_FOUND);
}
