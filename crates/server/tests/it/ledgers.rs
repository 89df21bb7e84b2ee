//! The ledgers: whatever is changed, and in whatever order, they are what the whole record gives; what holds from a day leaves the days before.

use jiff::ToSpan;
use jiff::civil::Date;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect};
use crate::rounds::step;

/// The ledger of every zone as it is kept.
async fn kept(app: &App) -> Vec<(i64, String, f64, f64, f64)> {
    sqlx::query_as("SELECT zone_id, date::text, end_mm, net_mm, adjustment_mm FROM zone_day ORDER BY zone_id, date")
        .fetch_all(&app.pool)
        .await
        .unwrap()
}

/// Makes all ledgers anew from the first day of the record.
async fn made_anew(app: &App, api: &Api, site: &str) {
    for sql in [
        "UPDATE site SET weather_from = '1900-01-01'",
        "UPDATE zone SET ledger_from = '1900-01-01'",
    ] {
        sqlx::query(sql).execute(&app.pool).await.unwrap();
    }
    let again = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(again, StatusCode::CREATED).await;
}

async fn is_whole(app: &App, api: &Api, site: &str, what: &str) {
    let before = kept(app).await;
    assert!(!before.is_empty());
    made_anew(app, api, site).await;
    let after = kept(app).await;
    assert_eq!(before.len(), after.len(), "{what}");
    for (a, b) in before.iter().zip(&after) {
        let near = |x: f64, y: f64| (x - y).abs() < 1e-9;
        assert!(
            (a.0, &a.1) == (b.0, &b.1) && near(a.2, b.2) && near(a.3, b.3) && near(a.4, b.4),
            "{what}: kept {a:?}, made anew {b:?}"
        );
    }
}

async fn put_zone(api: &Api, site: &str, zone: &Value, holds: &str) -> Value {
    let path = format!("{site}/zones/{}?holds={holds}", zone["id"]);
    let version = zone["version"].as_i64().unwrap();
    let answer = api
        .edit(Method::PUT, &path, version, zone["zone"].clone())
        .await;
    expect(answer, StatusCode::OK).await
}

#[tokio::test]
async fn a_ledger_carried_on_is_the_one_that_the_whole_record_gives() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let site = "/sites/1".to_owned();
    is_whole(&app, &api, &site, "the demo as it was loaded").await;

    // A gauge read late, a run by hand, a run that did not run.
    let day = "2026-06-14";
    let gauge = json!({ "date": day, "rain_mm": 12.0 });
    let answer = api
        .send(Method::POST, &format!("{site}/gauge-readings"), gauge)
        .await;
    assert!(
        answer.status().is_success(),
        "{}",
        answer.text().await.unwrap()
    );
    is_whole(&app, &api, &site, "a gauge read late").await;
    let runs = api
        .json(&format!("{site}/runs?from=2026-06-01&to=2026-06-18"))
        .await;
    let assumed = runs
        .as_array()
        .unwrap()
        .iter()
        .find(|r| r["source"] == "assumed")
        .unwrap();
    let answer = api
        .send(
            Method::PUT,
            &format!("{site}/runs/{}/answer", assumed["id"]),
            json!({ "answer": "did_not_run" }),
        )
        .await;
    expect(answer, StatusCode::OK).await;
    is_whole(&app, &api, &site, "a run that did not run").await;

    // Roots deeper from a day on, another rate always so, a day later.
    let zones = api.json(&format!("{site}/zones")).await;
    let mut zone = zones[0].clone();
    zone["zone"]["root_depth_mm"] = json!({
        "value": 260.0, "low": 260.0, "high": 260.0, "source": { "kind": "entered", "date": "2026-06-18" }
    });
    zone["zone"]["slope_pct"] = json!(4.0);
    put_zone(
        &api,
        &site,
        &zone,
        "root_depth_mm:2026-06-03,slope_pct:always",
    )
    .await;
    is_whole(&app, &api, &site, "roots from a day on").await;
    step(&api, &site, 2).await;
    is_whole(&app, &api, &site, "two days later").await;
}

#[tokio::test]
async fn what_holds_from_a_day_leaves_the_days_before_and_always_so_does_not() {
    let (app, api, site) = App::with_dry_zone().await;
    let days = async || {
        let all = kept(&app).await;
        all.into_iter().map(|d| (d.1, d.2)).collect::<Vec<_>>()
    };
    let before = days().await;
    let zone = api.json(&format!("{site}/zones")).await[0].clone();
    let turn: Date = before[before.len() - 3].0.parse().unwrap();
    let mut kept_greener = zone.clone();
    kept_greener["zone"]["how_green"] = json!("lush");
    let now = put_zone(&api, &site, &kept_greener, &format!("how_green:{turn}")).await;
    let after = days().await;
    for ((day, was), (_, is)) in before.iter().zip(&after) {
        let earlier = day.parse::<Date>().unwrap() < turn;
        assert_eq!(
            earlier,
            (was - is).abs() < 1e-12,
            "{day}: {was} was, {is} is"
        );
    }
    assert_eq!(now["zone"]["facts"].as_array().unwrap().len(), 2);
    // Always so: the days before too.
    let mut always = now.clone();
    always["zone"]["how_green"] = json!("hardy");
    let now = put_zone(&api, &site, &always, "how_green:always").await;
    assert!(now["zone"]["facts"].is_null());
    let all = days().await;
    assert!(
        before
            .iter()
            .zip(&all)
            .skip(1)
            .all(|(a, b)| (a.1 - b.1).abs() > 1e-9)
    );
    // A day to come is refused at its field, and nothing is changed.
    let tomorrow = before[before.len() - 1]
        .0
        .parse::<Date>()
        .unwrap()
        .saturating_add(9.days());
    let mut later = now.clone();
    later["zone"]["how_green"] = json!("good");
    let path = format!("{site}/zones/{}?holds=how_green:{tomorrow}", now["id"]);
    let version = now["version"].as_i64().unwrap();
    let answer = api
        .edit(Method::PUT, &path, version, later["zone"].clone())
        .await;
    assert_eq!(answer.status(), StatusCode::UNPROCESSABLE_ENTITY);
    let problem: Value = answer.json().await.unwrap();
    assert_eq!(problem["field"], "holds.how_green");
    assert_eq!(days().await, all);
}

/// A record that ended two months ago is still what the balance stands on: the days since are filled, and said to be.
#[tokio::test]
async fn a_site_whose_weather_ended_long_ago_is_still_planned_from_it() {
    let (app, api, site) = App::with_dry_zone().await;
    let last = kept(&app).await.pop().unwrap();
    sqlx::query("UPDATE site SET simulated_now = simulated_now + interval '60 days'")
        .execute(&app.pool)
        .await
        .unwrap();
    let again = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(again, StatusCode::CREATED).await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    assert_eq!(plan["notes"][0]["note"], "weather_missing");
    let zone = &plan["zones"][0];
    let runs: f64 = sqlx::query_scalar("SELECT count(*)::float8 FROM run")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert!(runs > 0.0, "what was planned has run since");
    // Two dry months with the runs of one planned week: all is used but what stress leaves.
    let used = zone["cells"][2]["depletion_start_mm"].as_f64().unwrap();
    assert!(used > 0.9 * zone["taw_mm"].as_f64().unwrap(), "{used}");
    // The ledger ends where the record does.
    assert_eq!(kept(&app).await.pop().unwrap().1, last.1);
}
