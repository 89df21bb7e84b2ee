//! A person's changes of the plan: tried, kept once, obeyed, survived by replans, undone by who made them, and refused where they do not hold.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect};

async fn cell(api: &Api, site: &str, date: &str) -> Value {
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().iter();
    cells.clone().find(|c| c["date"] == date).unwrap().clone()
}

/// A site with a plan, and the day on which its zone waters.
async fn planned() -> (App, Api, String, String) {
    let (app, api, site) = App::with_dry_zone().await;
    let first = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(first, StatusCode::CREATED).await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap().iter();
    let day = cells.clone().find(|c| !c["run"].is_null()).unwrap()["date"].clone();
    let day = day.as_str().unwrap().to_owned();
    (app, api, site, day)
}

fn change(act: &Value, date: &str, seen: Option<i64>, key: &str) -> Value {
    json!({ "act": act, "date": date, "seen": seen, "reason": "a fair", "idempotency_key": format!("edits-{key}") })
}

#[tokio::test]
async fn a_day_is_skipped_set_and_undone_and_replans_keep_it() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let skip = change(&json!({ "kind": "skip" }), &day, None, "skip");
    // What follows is told, and nothing kept.
    let tried = api
        .send(Method::POST, &format!("{path}/preview"), skip.clone())
        .await;
    let tried = expect(tried, StatusCode::OK).await;
    assert_ne!(tried["before"], tried["after"], "{tried}");
    assert!(!cell(&api, &site, &day).await["run"].is_null());
    let kept = expect(
        api.send(Method::POST, &path, skip.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(kept["after"], tried["after"]);
    expect(
        api.send(Method::POST, &path, skip).await,
        StatusCode::CREATED,
    )
    .await;
    let out = cell(&api, &site, &day).await;
    assert_eq!(
        (&out["state"], &out["edit"]["kind"]),
        (&json!("skip"), &json!("taken_out"))
    );
    // A replan keeps it.
    let again = api
        .send(Method::POST, &format!("{site}/plans"), Value::Null)
        .await;
    expect(again, StatusCode::CREATED).await;
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");

    // Set to minutes, seen the skip; then undone: the skip holds again; undone too: as planned.
    let edits = api.json(&format!("{site}/edits")).await;
    let first = edits[0]["id"].as_i64().unwrap();
    let set = change(
        &json!({ "kind": "minutes", "run_minutes": 24 }),
        &day,
        Some(first),
        "set",
    );
    expect(
        api.send(Method::POST, &path, set).await,
        StatusCode::CREATED,
    )
    .await;
    let run = cell(&api, &site, &day).await["run"].clone();
    assert_eq!(run["run_s"], 24 * 60, "{run}");
    let second = api.json(&format!("{site}/edits")).await[0]["id"]
        .as_i64()
        .unwrap();
    let undo = async |id: i64| {
        api.send(Method::DELETE, &format!("{site}/edits/{id}"), Value::Null)
            .await
            .status()
    };
    assert_eq!(undo(first).await, StatusCode::CONFLICT);
    assert_eq!(undo(second).await, StatusCode::NO_CONTENT);
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");
    assert_eq!(undo(first).await, StatusCode::NO_CONTENT);
    assert_eq!(undo(first).await, StatusCode::NOT_FOUND);
    assert!(cell(&api, &site, &day).await["edit"].is_null());
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("day_edited") && history.contains("edit_undone"));
}

#[tokio::test]
async fn a_watering_moves_is_locked_and_goes_back_to_the_plan() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let cells = plan["zones"][0]["cells"].as_array().unwrap();
    let to = cells
        .iter()
        .rev()
        .find(|c| c["date"].as_str().unwrap() != day)
        .unwrap()["date"]
        .clone();
    let to = to.as_str().unwrap().to_owned();
    let planned = cell(&api, &site, &day).await["run"].clone();
    let moved = change(&json!({ "kind": "move", "to": to }), &day, None, "move");
    expect(
        api.send(Method::POST, &path, moved.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    let there = cell(&api, &site, &to).await["run"].clone();
    assert_eq!(
        (&there["passes"], &there["pass_s"]),
        (&planned["passes"], &planned["pass_s"])
    );
    assert_eq!(cell(&api, &site, &day).await["state"], "skip");
    // Sent again it is the same; another onto a day that is changed is refused.
    expect(
        api.send(Method::POST, &path, moved).await,
        StatusCode::CREATED,
    )
    .await;
    let held = api.json(&format!("{site}/edits")).await;
    let of_day = held.as_array().unwrap().iter().find(|e| e["date"] == to);
    let seen = of_day.unwrap()["id"].as_i64();
    let back = change(&json!({ "kind": "move", "to": day }), &to, seen, "back");
    let said = api.send(Method::POST, &path, back).await;
    let said = expect(said, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "act.to", "{said}");
    // Both days of the act are undone together.
    let edits = api.json(&format!("{site}/edits")).await;
    assert_eq!(edits.as_array().unwrap().len(), 2, "{edits}");
    let undone = api
        .send(
            Method::DELETE,
            &format!("{site}/edits/{}", edits[0]["id"]),
            Value::Null,
        )
        .await;
    assert_eq!(undone.status(), StatusCode::NO_CONTENT);
    assert_eq!(api.json(&format!("{site}/edits")).await, json!([]));
    let lock = change(&json!({ "kind": "lock" }), &day, None, "lock");
    expect(
        api.send(Method::POST, &path, lock).await,
        StatusCode::CREATED,
    )
    .await;
    let locked = cell(&api, &site, &day).await;
    assert_eq!(
        (&locked["verdict"]["verdict"], &locked["run"]["run_s"]),
        (&json!("fixed"), &planned["run_s"])
    );
    let held = api.json(&format!("{site}/edits")).await[0]["id"].as_i64();
    let release = change(&json!({ "kind": "release" }), &day, held, "release");
    expect(
        api.send(Method::POST, &path, release).await,
        StatusCode::CREATED,
    )
    .await;
    assert!(cell(&api, &site, &day).await["edit"].is_null());
}

#[tokio::test]
async fn a_stale_change_shows_what_holds_and_anothers_is_not_undone() {
    let (app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let other = app.account("clover@meadow.example").await;
    let id: i64 = site.trim_start_matches("/sites/").parse().unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(id), other, "manager")
        .await
        .unwrap();
    let clover = app.sign_in("clover@meadow.example").await;
    let skip = change(&json!({ "kind": "skip" }), &day, None, "hazels");
    expect(
        api.send(Method::POST, &path, skip).await,
        StatusCode::CREATED,
    )
    .await;
    let stale = change(
        &json!({ "kind": "minutes", "run_minutes": 20 }),
        &day,
        None,
        "clovers",
    );
    let said = expect(
        clover.send(Method::POST, &path, stale).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
    assert!(said.to_string().contains("taken_out"), "{said}");
    let held = api.json(&format!("{site}/edits")).await[0]["id"]
        .as_i64()
        .unwrap();
    let undone = clover
        .send(Method::DELETE, &format!("{site}/edits/{held}"), Value::Null)
        .await;
    assert_eq!(undone.status(), StatusCode::CONFLICT);
    // Seen, it is replaced; then Hazel's can no longer be undone, and who changed it after is said.
    let seen = change(
        &json!({ "kind": "minutes", "run_minutes": 20 }),
        &day,
        Some(held),
        "clovers",
    );
    expect(
        clover.send(Method::POST, &path, seen).await,
        StatusCode::CREATED,
    )
    .await;
    let api = app.sign_in(EMAIL).await;
    let undone = api
        .send(Method::DELETE, &format!("{site}/edits/{held}"), Value::Null)
        .await;
    let said = expect(undone, StatusCode::CONFLICT).await.to_string();
    assert!(said.contains("changed this day after it"), "{said}");
}

#[tokio::test]
async fn changes_that_do_not_hold_are_refused_at_their_field() {
    let (_app, api, site, day) = planned().await;
    let path = format!("{site}/zones/1/edits");
    let mut without = change(&json!({ "kind": "skip" }), &day, None, "none");
    without["reason"] = Value::Null;
    let minutes = |min: f64| {
        change(
            &json!({ "kind": "minutes", "run_minutes": min }),
            &day,
            None,
            "min",
        )
    };
    for (field, entry) in [
        ("reason", without),
        (
            "date",
            change(&json!({ "kind": "lock" }), "2026-05-01", None, "past"),
        ),
        ("act.run_minutes", minutes(0.0)),
        ("act.run_minutes", minutes(5000.0)),
        // Longer than the four hours of the night.
        ("act.run_minutes", minutes(300.0)),
        (
            "act.to",
            change(&json!({ "kind": "move", "to": day }), &day, None, "same"),
        ),
        (
            "act.to",
            change(
                &json!({ "kind": "move", "to": "2026-08-01" }),
                &day,
                None,
                "far",
            ),
        ),
    ] {
        let answer = api.send(Method::POST, &path, entry).await;
        let said = expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(said["field"], field, "{said}");
    }
    assert_eq!(api.json(&format!("{site}/edits")).await, json!([]));
}
