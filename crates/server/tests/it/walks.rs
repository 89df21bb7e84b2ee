//! Walks over the lawn: a look at a zone is kept as one, corrects the balance and the plan, and is taken back as one.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, expect};
use crate::rounds::step;
use crate::stress::demo;

/// The demo where summers are dry, stepped to the first morning on which heat makes a walk due; the zones that are due in walking order.
pub async fn heat_wave() -> (App, Api, Vec<i64>) {
    let (app, api) = demo().await;
    for _ in 0..60 {
        let stress = api.json("/sites/1/stress").await;
        let due = due_by_heat(&stress);
        if due.len() >= 3 {
            return (app, api, due);
        }
        step(&api, "/sites/1", 1).await;
    }
    panic!("no heat in two dry months");
}

fn due_by_heat(stress: &Value) -> Vec<i64> {
    let zones = stress["zones"].as_array().unwrap();
    let is_due = |id: &Value| {
        let zone = zones.iter().find(|z| z["zone"] == *id).unwrap();
        zone["walk_due"]["due"] == "heat"
    };
    let order = stress["walk_order"].as_array().unwrap();
    let due = order.iter().filter(|id| is_due(id));
    due.map(|id| id.as_i64().unwrap()).collect()
}

async fn look(api: &Api, zone: i64, body: Value) -> reqwest::Response {
    let path = format!("/sites/1/zones/{zone}/seen");
    api.send(Method::POST, &path, body).await
}

async fn depletion(api: &Api, zone: i64) -> f64 {
    let plan = api.json("/sites/1/plan").await["current"]["plan"].clone();
    let zones = plan["zones"].as_array().unwrap();
    let id = zone.to_string();
    let zone = zones.iter().find(|z| z["zone"] == *id).unwrap();
    let today = zone["cells"].as_array().unwrap().iter();
    let cell = today.clone().find(|c| c["date"] == plan["today"]).unwrap();
    cell["depletion_mm"].as_f64().unwrap()
}

#[tokio::test]
async fn a_look_is_kept_as_one_and_taken_back_as_one() {
    let (app, api, due) = heat_wave().await;
    let zone = due[0];
    let stress = api.json("/sites/1/stress").await;
    let own = |stress: &Value| {
        let zones = stress["zones"].as_array().unwrap();
        zones.iter().find(|z| z["zone"] == zone).unwrap().clone()
    };
    let before = own(&stress);
    assert!(!before["deeds"].as_array().unwrap().is_empty());
    assert_eq!(before["walked_on"], Value::Null);
    let edges = stress["zones"].as_array().unwrap().iter();
    let by_hand: Vec<&Value> = edges
        .flat_map(|z| z["by_hand"].as_array().unwrap())
        .collect();
    assert_eq!(by_hand.len(), 3, "each hot edge of the demo: {by_hand:?}");

    for (body, field) in [
        (
            json!({ "seen": { "seen": "footprints" }, "with": [{ "seen": "screwdriver", "depth_mm": -1, "stopped": "dry" }] }),
            "with[0].depth_mm",
        ),
        (
            json!({ "seen": { "seen": "footprints" }, "with": vec![json!({ "seen": "tips" }); 13] }),
            "with",
        ),
    ] {
        let mut body = body;
        body["idempotency_key"] = json!("walk-00000");
        let said = expect(
            look(&api, zone, body).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field, "{said}");
    }
    let was = depletion(&api, zone).await;

    // Of a hot edge alone it says nothing of the balance.
    let edge = json!({ "seen": { "seen": "footprints", "stay": "half_hour" }, "spot": "paving", "idempotency_key": "walk-00001" });
    let noted = expect(look(&api, zone, edge).await, StatusCode::CREATED).await;
    assert_eq!(
        noted["means"],
        json!([{ "means": "thirsty_spot", "spot": "paving" }])
    );
    assert_eq!(noted["changes"], json!([]));
    assert_eq!(depletion(&api, zone).await, was);
    assert_eq!(
        own(&api.json("/sites/1/stress").await)["walk_due"]["due"],
        "heat"
    );

    // Of all of it, it does; sent twice it is written once.
    let body = json!({
        "seen": { "seen": "footprints", "stay": "half_hour" },
        "with": [{ "seen": "patches" }, { "seen": "tug", "holds": true }, { "seen": "crowns", "alive": true }],
        "idempotency_key": "walk-00002"
    });
    let noted = expect(look(&api, zone, body.clone()).await, StatusCode::CREATED).await;
    assert_eq!(
        noted["means"],
        json!([{ "means": "asleep" }, { "means": "thirsty", "far": true }])
    );
    let again = expect(look(&api, zone, body).await, StatusCode::OK).await;
    assert_eq!(
        (&again["id"], &again["means"], &again["changes"]),
        (&noted["id"], &noted["means"], &Value::Null)
    );
    assert!(depletion(&api, zone).await > was + 1.0);
    let after = own(&api.json("/sites/1/stress").await);
    assert_eq!(after["walk_due"], Value::Null, "looked at today");
    assert_eq!(after["walked_on"], api.json("/sites/1").await["today"]);
    let listed = api.json("/sites/1/seen").await;
    let of_look = listed
        .as_array()
        .unwrap()
        .iter()
        .filter(|s| s["look"] == noted["id"]);
    assert_eq!(of_look.count(), 3);
    let history = api.text("/sites/1/history.csv").await;
    assert!(
        history.contains("\"\"seen\"\":\"\"patches\"\"") || history.contains("patches"),
        "{history}"
    );

    // It goes out with the document, and comes back as one.
    let document = api.json("/sites/1/document").await;
    let zones = document["zones"].as_array().unwrap();
    let id = zone.to_string();
    let kept = zones.iter().find(|z| z["id"] == *id).unwrap();
    assert_eq!(
        kept["seen"]
            .as_array()
            .unwrap()
            .iter()
            .filter(|s| s["spot"] == "paving")
            .count(),
        1
    );

    let undone = api.request(Method::DELETE, &format!("/sites/1/seen/{}", noted["id"]));
    assert_eq!(
        undone.send().await.unwrap().status(),
        StatusCode::NO_CONTENT
    );
    assert_eq!(depletion(&api, zone).await, was);
    let left: i64 = sqlx::query_scalar("SELECT count(*) FROM seen WHERE zone_id = $1 AND undone_at IS NULL AND idempotency_key LIKE 'walk-%'")
        .bind(zone)
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(left, 1, "the edge's");
}

/// What a volume comes to is looked at by everybody and changes nothing; a rule that a manager makes of it is kept by the plan.
#[tokio::test]
async fn scarce_water_is_shared_out_and_the_plan_is_held_to_it() {
    let (app, api, _) = heat_wave().await;
    let viewer = app
        .member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    let plan = api.json("/sites/1/plan").await["current"]["id"].clone();
    let all = viewer.json("/sites/1/scarcity").await;
    let needed = all["needed_l"].as_f64().unwrap();
    assert_eq!(
        (&all["volume_l"], &all["caps"]),
        (&all["needed_l"], &json!([]))
    );
    let litres = (0.4 * needed).round();
    let some = viewer
        .json(&format!("/sites/1/scarcity?litres={litres}"))
        .await;
    assert!(
        some["harm_pct"].as_f64() > all["harm_pct"].as_f64(),
        "{some}"
    );
    let sum: f64 = some["zones"]
        .as_array()
        .unwrap()
        .iter()
        .map(|z| z["gets_l"].as_f64().unwrap())
        .sum();
    assert!(sum <= litres + 1e-6);
    for (query, field) in [("litres=-1", "litres"), ("litres=1e12", "litres")] {
        let path = format!("/sites/1/scarcity?{query}");
        let said = viewer.request(Method::GET, &path).send().await.unwrap();
        let said = expect(said, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    assert_eq!(
        api.json("/sites/1/plan").await["current"]["id"],
        plan,
        "nothing changed"
    );

    let site = api.json("/sites/1").await;
    let rules = json!({ "list": [{ "name": "Water is short", "from": site["today"], "says": { "kind": "at_most", "volume_l": litres, "per": "week" } }] });
    let put = api
        .request(Method::PUT, "/sites/1/rules")
        .header("If-Match", format!("\"{}\"", site["version"]))
        .json(&rules);
    assert!(put.send().await.unwrap().status().is_success());
    let held = api.json("/sites/1/scarcity").await;
    assert_eq!(held["caps"][0]["rule"], "Water is short");
    assert!(
        held["volume_l"].as_f64().unwrap() <= litres,
        "what ran since Monday counts"
    );
    let volumes = api.json("/sites/1/plan").await["current"]["plan"]["volumes"].clone();
    let use_of = &volumes[0];
    let (most, used, planned) = ("most_l", "used_l", "planned_l");
    let figure = |key: &str| use_of[key].as_f64().unwrap();
    assert!(
        figure(used) + figure(planned) <= figure(most) + 1.0,
        "{volumes}"
    );
}
