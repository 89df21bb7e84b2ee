//! Who may do what: every mutating operation of the OpenAPI document, for every kind of reader.

use std::collections::BTreeMap;

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, EMAIL, NIGHT, small_site, weather, zone};
use crate::sprinkler_tests::can_test;

/// Least role that an operation of a site asks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Least {
    Viewer,
    Crew,
    Manager,
    Owner,
}

/// Operations that are not of a site: anyone, or anyone who is signed in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Asks {
    Anyone,
    SignedIn,
    Of(Least),
}

/// The table. An operation that is missing here fails the test.
pub fn table() -> BTreeMap<&'static str, (Asks, Value)> {
    use Asks::{Anyone, Of, SignedIn};
    use Least::{Crew, Manager, Owner, Viewer};
    let csv = Value::String(weather(|_| None));
    BTreeMap::from([
        (
            "sign_in",
            (Anyone, json!({ "email": EMAIL, "password": "x" })),
        ),
        ("sign_out", (Anyone, Value::Null)),
        ("accept_invitation", (Anyone, json!({}))),
        (
            "create_account",
            (
                Anyone,
                json!({ "code": null, "name": "Fern", "email": "fern@meadow.example", "password": "four dry days" }),
            ),
        ),
        (
            "grass_key",
            (
                Anyone,
                json!({ "signs": ["green_in_winter"], "open": ["runners"] }),
            ),
        ),
        (
            "begin_site",
            (
                SignedIn,
                json!({ "name": "Home", "time_zone": "America/Denver", "latitude": 39.7, "longitude": -105.0 }),
            ),
        ),
        ("sign_out_everywhere", (SignedIn, Value::Null)),
        (
            "change_password",
            (
                SignedIn,
                json!({ "current": "wrong", "password": "four dry days" }),
            ),
        ),
        (
            "create_site",
            (SignedIn, serde_json::to_value(small_site()).unwrap()),
        ),
        ("leave_site", (Of(Viewer), Value::Null)),
        ("add_gauge_reading", (Of(Crew), json!({ "rain_mm": 2.0 }))),
        ("create_plan", (Of(Crew), Value::Null)),
        (
            "update_rules",
            (
                Of(Manager),
                json!({ "list": [{ "name": "Even dates", "says": { "kind": "only_on", "dates": "even" } }] }),
            ),
        ),
        (
            "preview_rules",
            (
                Of(Viewer),
                json!({ "list": [{ "name": "Even dates", "says": { "kind": "only_on", "dates": "even" } }] }),
            ),
        ),
        (
            "minutes_give",
            (Of(Viewer), json!({ "run_minutes": 20.0, "times": 3 })),
        ),
        ("compare_schools", (Of(Viewer), Value::Null)),
        (
            "try_school",
            (
                Of(Manager),
                json!({ "school": { "kind": "fixed_interval", "depth_mm": 12.7, "every_days": 3 } }),
            ),
        ),
        ("forget_weather", (Of(Crew), Value::Null)),
        (
            "tell_weather",
            (
                Of(Crew),
                json!({ "days": [{ "date": "2026-06-17", "tmin_c": 14.0, "tmax_c": 29.0, "rain_mm": 0.0 }] }),
            ),
        ),
        (
            "add_run",
            (
                Of(Crew),
                json!({ "zone": 1, "started_at": "2026-06-17T08:00:00-04:00", "seconds": 600, "how": "hose", "idempotency_key": "rights-1" }),
            ),
        ),
        ("confirm_runs", (Of(Crew), json!({ "runs": [1] }))),
        ("answer_run", (Of(Crew), json!({ "answer": "did_not_run" }))),
        (
            "lay_out_cans",
            (
                Of(Crew),
                json!({ "shape": { "shape": "circle", "diameter_m": 9 }, "heads": "middle", "columns": 4, "rows": 4 }),
            ),
        ),
        (
            "note_head_fault",
            (
                Of(Crew),
                json!({ "head": 2, "fault": "clogged", "idempotency_key": "rights-3" }),
            ),
        ),
        ("mend_head", (Of(Crew), Value::Null)),
        (
            "add_wet_check",
            (
                Of(Crew),
                json!({ "zones": [1], "idempotency_key": "rights-12" }),
            ),
        ),
        ("reopen_head_fault", (Of(Crew), Value::Null)),
        (
            "note_patch",
            (
                Of(Crew),
                json!({ "name": "by the drive", "area_m2": 2.0, "idempotency_key": "rights-13" }),
            ),
        ),
        (
            "look_at_patch",
            (
                Of(Crew),
                json!({ "alive": true, "idempotency_key": "rights-14" }),
            ),
        ),
        (
            "count_stand",
            (
                Of(Crew),
                json!({ "frame_mm": 100, "counts": [40, 55, 38], "idempotency_key": "rights-15" }),
            ),
        ),
        ("undo_count", (Of(Crew), Value::Null)),
        ("repair_patch", (Of(Crew), Value::Null)),
        ("reopen_patch", (Of(Crew), Value::Null)),
        ("undo_patch", (Of(Crew), Value::Null)),
        (
            "put_patch_photo",
            (Of(Crew), Value::String("GIF89a".to_owned())),
        ),
        ("take_back_answer", (Of(Crew), Value::Null)),
        (
            "reckon_soil_test",
            (
                Of(Crew),
                json!({ "method": "drops", "seconds": [2.0, 8.0] }),
            ),
        ),
        (
            "add_soil_test",
            (
                Of(Crew),
                json!({ "test": { "method": "drops", "seconds": [2.0, 8.0] }, "idempotency_key": "rights-5" }),
            ),
        ),
        (
            "set_soil_test_standing",
            (Of(Manager), json!({ "standing": "void" })),
        ),
        (
            "note_seen",
            (
                Of(Crew),
                json!({ "seen": { "seen": "footprints" }, "idempotency_key": "rights-6" }),
            ),
        ),
        ("put_photo", (Of(Crew), Value::String("GIF89a".to_owned()))),
        ("undo_seen", (Of(Crew), Value::Null)),
        ("keep_dry", (Of(Crew), json!({ "note": "a match" }))),
        ("lift_dry_day", (Of(Crew), Value::Null)),
        (
            "add_constraint",
            (
                Of(Crew),
                json!({ "asks": { "kind": "keep_dry" }, "hours": 24, "idempotency_key": "rights-9" }),
            ),
        ),
        ("lift_constraint", (Of(Crew), Value::Null)),
        (
            "update_tariffs",
            (
                Of(Manager),
                json!([{ "from": "2026-01-01", "tiers": [{ "price_per_m3": 2.0 }] }]),
            ),
        ),
        (
            "update_caps",
            (
                Of(Manager),
                json!([{ "name": "Town", "from": "2026-01-01", "says": { "kind": "volume", "cap_m3": 300, "per": "month" } }]),
            ),
        ),
        (
            "add_meter",
            (
                Of(Manager),
                json!({ "name": "Lawn", "unit": "m3", "digits": 5 }),
            ),
        ),
        (
            "update_meter",
            (
                Of(Manager),
                json!({ "name": "Lawn", "unit": "m3", "digits": 5 }),
            ),
        ),
        (
            "add_reading",
            (
                Of(Crew),
                json!({ "register": 12.0, "idempotency_key": "rights-11" }),
            ),
        ),
        ("void_reading", (Of(Crew), Value::Null)),
        (
            "tell_pulses",
            (
                Of(Crew),
                json!({ "from": "2026-06-17T08:00:00Z", "counts": [1, 2] }),
            ),
        ),
        (
            "import_minutes",
            (Of(Manager), Value::String("minute,pulses\n".to_owned())),
        ),
        (
            "import_readings",
            (
                Of(Crew),
                json!([{ "read_at": "2026-06-17T08:00:00Z", "meter": "1", "register": 12.0 }]),
            ),
        ),
        (
            "turn_regime",
            (Of(Manager), json!({ "regime": "dormant", "note": "dry" })),
        ),
        (
            "import_runs",
            (
                Of(Crew),
                json!([{ "date": "2026-06-17", "started_at": "2026-06-17T08:00:00Z", "zone": "1", "passes": 1, "run_s": 60, "said": "hand" }]),
            ),
        ),
        (
            "put_meter_photo",
            (Of(Crew), Value::String("GIF89a".to_owned())),
        ),
        ("change_day", (Of(Manager), edit())),
        ("try_change_day", (Of(Manager), edit())),
        ("undo_edit", (Of(Manager), Value::Null)),
        ("redo_edit", (Of(Manager), Value::Null)),
        (
            "publish",
            (
                Of(Manager),
                json!({ "plan": 1, "idempotency_key": "rights-publish" }),
            ),
        ),
        ("withdraw_publication", (Of(Manager), Value::Null)),
        (
            "connect_controller",
            (Of(Manager), json!({ "connected": true })),
        ),
        (
            "set_mornings",
            (Of(Manager), json!({ "each_morning": true })),
        ),
        ("reckon_sprinkler_test", (Of(Crew), can_test())),
        (
            "add_sprinkler_test",
            (
                Of(Crew),
                json!({ "test": can_test(), "idempotency_key": "rights-2" }),
            ),
        ),
        (
            "set_sprinkler_test_standing",
            (Of(Manager), json!({ "standing": "void" })),
        ),
        (
            "update_site",
            (
                Of(Manager),
                json!({ "site": small_site().site, "windows": [], "supply": {}, "controller": {} }),
            ),
        ),
        ("create_zone", (Of(Manager), zone("New"))),
        (
            "draft_zone",
            (
                Of(Manager),
                json!({ "name": "Back", "sprinkler": "rotor", "soil": { "texture": "loam" }, "area": { "m2": 200 } }),
            ),
        ),
        ("add_device", (Of(Manager), json!({ "name": "Roof" }))),
        ("revoke_device", (Of(Manager), Value::Null)),
        ("update_zone", (Of(Manager), zone("Front"))),
        (
            "keep_sowing",
            (
                Of(Manager),
                json!({ "grass": "tall_fescue", "method": "seed", "spray": null, "soil_work": "2026-09-05", "sow": "2026-09-07", "wait_days": 28 }),
            ),
        ),
        ("forget_sowing", (Of(Manager), Value::Null)),
        (
            "end_zone",
            (Of(Manager), json!({ "last_day": "2026-07-01" })),
        ),
        ("preview_weather", (Of(Manager), csv.clone())),
        ("import_weather", (Of(Manager), csv)),
        ("choose_rain", (Of(Manager), json!({ "counts": "station" }))),
        (
            "connect_weather_feed",
            (Of(Manager), json!({ "climate": "transition" })),
        ),
        ("disconnect_weather_feed", (Of(Manager), Value::Null)),
        ("fetch_weather", (Of(Manager), Value::Null)),
        (
            "step_clock",
            (Of(Manager), json!({ "from": NIGHT, "days": 1 })),
        ),
        (
            "invite",
            (Of(Owner), json!({ "name": "Fern", "role": "crew" })),
        ),
        ("revoke_invitation", (Of(Owner), Value::Null)),
        ("replace_controller", (Of(Manager), Value::Null)),
        ("clear_left_out", (Of(Manager), Value::Null)),
        ("set_role", (Of(Owner), json!({ "role": "crew" }))),
        ("remove_member", (Of(Owner), Value::Null)),
    ])
}

pub fn mutating() -> Vec<(Method, String, String)> {
    let document = serde_json::to_value(fresh_meadow::api::openapi()).unwrap();
    let mut found = Vec::new();
    for (path, item) in document["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            let method: Method = method.to_uppercase().parse().unwrap();
            if [Method::POST, Method::PUT, Method::PATCH, Method::DELETE].contains(&method) {
                let id = operation["operationId"].as_str().unwrap().to_owned();
                found.push((method, path.trim_start_matches("/api/v1").to_owned(), id));
            }
        }
    }
    found
}

/// A day skipped.
fn edit() -> Value {
    json!({ "act": { "kind": "skip" }, "date": "2026-06-18", "reason": "a fair", "idempotency_key": "rights-10" })
}

#[tokio::test]
async fn every_mutating_operation_is_kept_to_its_role() {
    let table = table();
    let operations = mutating();
    for (_, _, id) in &operations {
        assert!(
            table.contains_key(id.as_str()),
            "{id} is not in the table of rights"
        );
    }
    assert_eq!(
        operations.len(),
        table.len(),
        "the table names an operation that is gone"
    );

    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let mut readers = Vec::new();
    for (name, least) in [
        ("viewer", Least::Viewer),
        ("crew", Least::Crew),
        ("manager", Least::Manager),
    ] {
        let email = format!("{name}@meadow.example");
        let account = app.account(&email).await;
        fresh_meadow::db::sites::add_member(&app.pool, site, account, name)
            .await
            .unwrap();
        readers.push((least, email));
    }
    app.account("stranger@meadow.example").await;

    for (method, path, id) in operations {
        let (asks, body) = &table[id.as_str()];
        let path = path
            .replace("{site}", &site.0.to_string())
            .replace("{zone}", "1")
            .replace("{run}", "1")
            .replace("{account}", "1")
            .replace("{invitation}", "1")
            .replace("{test}", "1")
            .replace("{device}", "1")
            .replace("{seen}", "1")
            .replace("{count}", "1")
            .replace("{constraint}", "1")
            .replace("{edit}", "1")
            .replace("{publication}", "1")
            .replace("{meter}", "1")
            .replace("{reading}", "1")
            .replace("{fault}", "1")
            .replace("{patch}", "1")
            .replace("{look}", "1")
            .replace("{date}", "2026-06-10");
        // A file of weather says what becomes of days that are there.
        let query = if path.contains("/weather-imports") {
            "?conflicts=keep"
        } else {
            ""
        };
        let ask = async |api: &crate::harness::Api| {
            let request = api
                .client
                .request(method.clone(), format!("{}{path}{query}", api.base))
                .header("if-match", "\"1\"");
            let request = match body {
                Value::String(csv) => request.header("content-type", "text/csv").body(csv.clone()),
                Value::Null => request,
                body => request.json(body),
            };
            request.send().await.unwrap().status()
        };
        let signed_out = ask(&app.stranger()).await;
        match asks {
            Asks::Anyone => continue,
            Asks::SignedIn | Asks::Of(_) => {
                assert_eq!(signed_out, StatusCode::UNAUTHORIZED, "{id}, signed out");
            }
        }
        let Asks::Of(least) = asks else { continue };
        let stranger = app.sign_in("stranger@meadow.example").await;
        assert_eq!(
            ask(&stranger).await,
            StatusCode::NOT_FOUND,
            "{id}, a stranger"
        );
        for (role, email) in &readers {
            let status = ask(&app.sign_in(email).await).await;
            if role < least {
                assert_eq!(status, StatusCode::FORBIDDEN, "{id}, {role:?}");
            } else {
                assert_ne!(status, StatusCode::FORBIDDEN, "{id}, {role:?}");
                assert_ne!(status, StatusCode::UNAUTHORIZED, "{id}, {role:?}");
                assert!(!status.is_server_error(), "{id}, {role:?}: {status}");
            }
        }
        // Who left, or what was changed, is as it was for the next operation.
        for (role, email) in &readers {
            let name = format!("{role:?}").to_lowercase();
            sqlx::query("INSERT INTO membership (site_id, account_id, role) SELECT $1, id, $2 FROM account WHERE email = $3 ON CONFLICT DO NOTHING")
                .bind(site.0)
                .bind(name)
                .bind(email)
                .execute(&app.pool)
                .await
                .unwrap();
        }
    }
}
