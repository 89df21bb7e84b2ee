//! The first ten minutes: the code, the first account, the site and its zones as answers.

use std::io::Write;
use std::process::{Command, Stdio};

use fresh_meadow::first_account;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, EMAIL, NIGHT, PASSWORD, empty_database, expect, small_site};

fn account(code: Option<&str>, email: &str) -> Value {
    json!({ "code": code, "name": "Linnet Ash", "email": email, "password": PASSWORD })
}

#[tokio::test]
async fn the_code_makes_the_first_account_and_no_other() {
    let app = App::start().await;
    let stranger = app.stranger();
    assert_eq!(
        stranger.json("/welcome").await,
        json!({ "first_account": true, "open_sign_up": false })
    );
    let code = first_account::offer(&app.pool).await.unwrap().unwrap();
    let make = async |code: Option<&str>, email: &str| {
        stranger
            .send(Method::POST, "/accounts", account(code, email))
            .await
    };

    for wrong in [None, Some(""), Some("AAAA-AAAA")] {
        let refused = expect(make(wrong, EMAIL).await, StatusCode::FORBIDDEN).await;
        let said = refused["detail"].as_str().unwrap();
        assert!(said.contains("not the code"), "{said}");
    }
    let bad = expect(
        make(Some(&code), "no address").await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(bad["field"], "email");
    // In any case, without its dash: as a thumb types it.
    let typed = code.to_lowercase().replace('-', " ");
    expect(make(Some(&typed), EMAIL).await, StatusCode::ACCEPTED).await;
    app.sign_in(EMAIL).await;
    assert_eq!(stranger.json("/welcome").await["first_account"], false);
    // It worked once; a server that starts again offers no other.
    for late in [&code, "AAAA-AAAA"] {
        let other = make(Some(late), "other@meadow.example").await;
        let refused = expect(other, StatusCode::FORBIDDEN).await;
        let said = refused["detail"].as_str().unwrap();
        assert!(said.contains("by invitation"), "{said}");
    }
    assert_eq!(first_account::offer(&app.pool).await.unwrap(), None);
}

#[tokio::test]
async fn the_demo_is_loaded_into_a_database_without_tables() {
    let url = empty_database().await;
    // Nobody listens there: it comes as far as asking for the weather.
    let loaded = std::process::Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
        .arg("load-demo")
        .env("FRESH_MEADOW_DATABASE_URL", &url)
        .env("FRESH_MEADOW_WEATHER_URL", "http://127.0.0.1:9")
        .output()
        .unwrap();
    let said = String::from_utf8_lossy(&loaded.stderr).into_owned();
    assert!(said.contains("does not answer"), "{said}");
    let pool = fresh_meadow::db::connect(&url, 1).await.unwrap();
    let tables: bool = sqlx::query_scalar("SELECT to_regclass('device_token') IS NOT NULL")
        .fetch_one(&pool)
        .await
        .unwrap();
    assert!(tables);
}

#[tokio::test]
async fn a_newer_code_makes_an_older_void_and_guesses_are_slowed() {
    let app = App::start().await;
    let stranger = app.stranger();
    // A server that is up has offered its own.
    assert_eq!(stranger.json("/welcome").await["first_account"], true);
    let old = first_account::offer(&app.pool).await.unwrap().unwrap();
    let new = first_account::offer(&app.pool).await.unwrap().unwrap();
    assert_ne!(old, new);
    let make = async |code: &str| {
        stranger
            .send(Method::POST, "/accounts", account(Some(code), EMAIL))
            .await
            .status()
    };
    assert_eq!(make(&old).await, StatusCode::FORBIDDEN);
    let mut last = StatusCode::OK;
    for _ in 0..6 {
        last = make("AAAA-AAAA").await;
    }
    assert_eq!(last, StatusCode::TOO_MANY_REQUESTS);
}

#[tokio::test]
async fn where_anybody_may_an_address_that_is_taken_is_not_told() {
    let app = App::start_with(|s| s.open_sign_up = true).await;
    app.account(EMAIL).await;
    let stranger = app.stranger();
    for email in [EMAIL, "new@meadow.example"] {
        let made = stranger
            .send(Method::POST, "/accounts", account(None, email))
            .await;
        expect(made, StatusCode::ACCEPTED).await;
    }
    app.sign_in("new@meadow.example").await;
    let accounts: i64 = sqlx::query_scalar("SELECT count(*) FROM account")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(accounts, 2);
}

#[tokio::test]
async fn a_lost_password_is_set_anew_on_the_command_line() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let signed_in = app.sign_in(EMAIL).await;
    let set = |email: &str, password: &str| {
        let mut child = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .args(["account", "password", "--email", email])
            .env("FRESH_MEADOW_DATABASE_URL", &app.database_url)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        writeln!(child.stdin.take().unwrap(), "{password}").unwrap();
        child.wait_with_output().unwrap()
    };
    assert!(
        !set("nobody@meadow.example", "clover by the gate")
            .status
            .success()
    );
    assert!(!set(EMAIL, "short").status.success());
    let done = set("Hazel@Meadow.example", "clover by the gate");
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    assert_eq!(
        signed_in.get("/session").await.status(),
        StatusCode::UNAUTHORIZED
    );
    app.sign_in_as(EMAIL, "clover by the gate").await;
}

#[tokio::test]
async fn a_site_and_a_zone_of_answers() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let places = api.json("/places?latitude=36.5&longitude=-87").await;
    let nearest = places["nearest"]["time_zone"].as_str().unwrap();
    assert!(nearest.starts_with("America/"), "{nearest}");
    assert!(places["places"].as_array().unwrap().len() > 300);

    let answers = json!({ "name": "Home", "time_zone": nearest, "latitude": 36.5, "longitude": -87.0, "flow": { "bucket_l": 10, "seconds": 20 } });
    let mut wrong = answers.clone();
    wrong["flow"]["seconds"] = json!(0);
    let refused = api.send(Method::POST, "/site-drafts", wrong).await;
    assert_eq!(
        expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "flow.seconds"
    );
    let made = expect(
        api.send(Method::POST, "/site-drafts", answers).await,
        StatusCode::CREATED,
    )
    .await;
    assert_eq!(made["supply"]["flow_l_min"], 30.0);
    let site = format!("/sites/{}", made["id"]);

    // What the plan would do, from the first zone on; nothing is written.
    let drafts = format!("{site}/zone-drafts");
    let unknown = expect(
        api.send(Method::POST, &drafts, json!({ "name": "Front" }))
            .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(unknown["plan"], Value::Null, "no weather, no normals");
    let told = json!({
        "name": "Front", "sprinkler": "rotor", "grass": "tall_fescue", "soil": { "squeezed": { "ball": "short_ribbon", "feel": "neither" } },
        "exposure": "full_sun", "fall_m": 0.1, "area": { "tape": { "shape": "rectangle", "width_m": 12, "length_m": 20 } }, "soaked_days_ago": 4,
    });
    let drafted = expect(
        api.send(Method::POST, &drafts, told.clone()).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(drafted["zone"]["soil"], "loam");
    let wide = |drafted: &Value| {
        let minutes = &drafted["first_look"]["minutes"];
        minutes["high"].as_f64().unwrap() / minutes["low"].as_f64().unwrap()
    };
    assert!(wide(&drafted) < wide(&unknown));
    assert_eq!(api.json(&format!("{site}/zones")).await, json!([]));
    let refused = api
        .send(
            Method::POST,
            &drafts,
            json!({ "name": "Front", "fall_m": 50 }),
        )
        .await;
    assert_eq!(
        expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "fall_m"
    );

    let zone = drafted["zone"].clone();
    let added = expect(
        api.send(Method::POST, &format!("{site}/zones"), zone).await,
        StatusCode::CREATED,
    )
    .await;
    let facts = api
        .json(&format!("{site}/zones/{}/facts", added["id"]))
        .await;
    let rate = &facts[0];
    assert_eq!(
        (&rate["figure"], &rate["sharpen"]),
        (&json!("rate"), &json!("quick_test"))
    );
    assert!(
        rate["low"].as_f64() < rate["value"].as_f64()
            && rate["value"].as_f64() < rate["high"].as_f64()
    );
    assert_eq!(
        api.get(&format!("{site}/zones/999999/facts"))
            .await
            .status(),
        StatusCode::NOT_FOUND
    );
}

#[tokio::test]
async fn a_draft_is_planned_beside_the_zones_that_are_there_and_leaves_no_trace() {
    let (app, api, site) = App::with_dry_zone().await;
    let traces = async || -> Vec<i64> {
        let mut counts = Vec::new();
        for table in [
            "zone",
            "plan",
            "weather_ledger",
            "zone_day",
            "run",
            "history",
        ] {
            let sql = format!("SELECT count(*) FROM {table}");
            counts.push(
                sqlx::query_scalar(sqlx::AssertSqlSafe(sql))
                    .fetch_one(&app.pool)
                    .await
                    .unwrap(),
            );
        }
        counts
    };
    let before = traces().await;
    let draft = json!({ "name": "Back", "sprinkler": "fixed_spray", "grass": "tall_fescue", "soil": { "texture": "loam" }, "soaked_days_ago": 16 });
    let drafted = expect(
        api.send(Method::POST, &format!("{site}/zone-drafts"), draft)
            .await,
        StatusCode::OK,
    )
    .await;
    let runs = drafted["plan"]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .filter(|c| !c["run"].is_null())
        .count();
    assert!(runs > 0, "dry for sixteen days: {drafted}");
    assert_eq!(traces().await, before);
    // A viewer may look at plans, not draft zones.
    let viewer = app.account("fern@meadow.example").await;
    let id = site.rsplit('/').next().unwrap().parse().unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(id), viewer, "viewer")
        .await
        .unwrap();
    let fern = app.sign_in("fern@meadow.example").await;
    let refused = fern
        .send(
            Method::POST,
            &format!("{site}/zone-drafts"),
            json!({ "name": "Back" }),
        )
        .await;
    assert_eq!(refused.status(), StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn the_key_asks_until_it_knows() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let mut signs: Vec<Value> = Vec::new();
    for _ in 0..9 {
        let step = expect(
            api.send(
                Method::POST,
                "/grass-key",
                json!({ "signs": signs, "open": [] }),
            )
            .await,
            StatusCode::OK,
        )
        .await;
        let answers = step["answers"].as_array().unwrap().clone();
        let Some(first) = answers.first() else {
            assert!(!step["found"]["grasses"].as_array().unwrap().is_empty());
            return;
        };
        signs.push(first.clone());
    }
    panic!("it asks for ever");
}
