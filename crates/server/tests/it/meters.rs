//! Meters and the water book: readings that are asked about, corrected, voided; what water costs; who may what.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, NIGHT, expect, small_site, zone};
use crate::rounds::step;

/// A site with a dry zone and a meter in m³ of five digits and one after the point.
async fn metered() -> (App, Api, String, i64) {
    let (app, api, site) = App::with_dry_zone().await;
    let id = add_meter(&api, &site, json!({})).await;
    (app, api, site, id)
}

async fn add_meter(api: &Api, site: &str, more: Value) -> i64 {
    let mut meter = json!({ "name": "Lawn", "unit": "m3", "digits": 5, "decimals": 1 });
    for (key, value) in more.as_object().unwrap() {
        meter[key] = value.clone();
    }
    let sent = api
        .send(Method::POST, &format!("{site}/meters"), meter)
        .await;
    expect(sent, StatusCode::CREATED).await["id"]
        .as_i64()
        .unwrap()
}

/// Sends a reading of a local time of 2026.
async fn read(
    api: &Api,
    site: &str,
    meter: i64,
    at: &str,
    register: f64,
    more: Value,
) -> reqwest::Response {
    let mut body = json!({
        "read_at": format!("2026-{at}"), "register": register, "idempotency_key": format!("reading-{at}-{register}"),
    });
    for (key, value) in more.as_object().unwrap() {
        body[key] = value.clone();
    }
    api.send(
        Method::POST,
        &format!("{site}/meters/{meter}/readings"),
        body,
    )
    .await
}

async fn taken(api: &Api, site: &str, meter: i64, at: &str, register: f64) -> i64 {
    let sent = read(api, site, meter, at, register, json!({})).await;
    expect(sent, StatusCode::CREATED).await["id"]
        .as_i64()
        .unwrap()
}

async fn asked(sent: reqwest::Response) -> Value {
    let problem = expect(sent, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert!(problem["unlikely"].is_object(), "{problem}");
    problem["unlikely"].clone()
}

async fn readings(api: &Api, site: &str, meter: i64) -> Value {
    api.json(&format!("{site}/meters/{meter}/readings")).await
}

#[tokio::test]
async fn odd_figures_are_asked_about_and_none_is_lost() {
    let (_app, api, site, meter) = metered().await;
    taken(&api, &site, meter, "06-10T08:00:00", 412.6).await;
    // 3713 m³ since, and nothing ran.
    let much = asked(read(&api, &site, meter, "06-12T08:00:00", 4126.0, json!({})).await).await;
    assert_eq!(much["unlikely"], "much_used", "{much}");
    assert_eq!(
        much["meant"], 412.6,
        "one digit less, and nothing flowed: {much}"
    );
    let lower = asked(
        read(
            &api,
            &site,
            meter,
            "06-12T08:00:00",
            142.6,
            json!({ "sure": true }),
        )
        .await,
    )
    .await;
    assert_eq!(
        (&lower["unlikely"], &lower["last"]),
        (&json!("lower_reading"), &json!(412.6))
    );
    assert_eq!(
        readings(&api, &site, meter).await.as_array().unwrap().len(),
        1
    );
    // Insisted on, it is taken.
    let sure = read(
        &api,
        &site,
        meter,
        "06-12T08:00:00",
        4126.0,
        json!({ "sure": true }),
    )
    .await;
    let wrong = expect(sure, StatusCode::CREATED).await["id"]
        .as_i64()
        .unwrap();
    // Sent twice, written once.
    let again = read(&api, &site, meter, "06-12T08:00:00", 4126.0, json!({})).await;
    assert_eq!(expect(again, StatusCode::OK).await["id"], wrong);
    // Corrected: voided, and another in its place, at its instant.
    let right = json!({ "register": 413.4, "replaces": wrong, "idempotency_key": "correction-1" });
    let sent = api
        .send(
            Method::POST,
            &format!("{site}/meters/{meter}/readings"),
            right,
        )
        .await;
    expect(sent, StatusCode::CREATED).await;
    let now = readings(&api, &site, meter).await;
    assert_eq!(
        (now.as_array().unwrap().len(), &now[0]["register"]),
        (2, &json!(413.4))
    );
    assert_eq!(now[0]["at"], "2026-06-12T12:00:00Z");
    assert!((now[0]["used_l"].as_f64().unwrap() - 800.0).abs() < 1e-6);
    // The same instant is taken; a figure that the counter cannot show, a day to come, an earlier one above the later: each at its field.
    let twice = read(&api, &site, meter, "06-12T08:00:00", 417.0, json!({})).await;
    expect(twice, StatusCode::CONFLICT).await;
    for (at, register, field) in [
        ("06-13T08:00:00", 100_000.0, "register"),
        ("06-13T08:00:00", -1.0, "register"),
        ("07-13T08:00:00", 420.0, "read_at"),
    ] {
        let problem = read(&api, &site, meter, at, register, json!({})).await;
        let problem = expect(problem, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(problem["field"], field, "{problem}");
    }
    let above = asked(
        read(
            &api,
            &site,
            meter,
            "06-11T08:00:00",
            420.0,
            json!({ "sure": true }),
        )
        .await,
    )
    .await;
    assert_eq!(above["unlikely"], "above_next_reading");
    let csv = api.text(&format!("{site}/meter-readings.csv")).await;
    let lines: Vec<&str> = csv.lines().collect();
    assert_eq!(lines.len(), 3, "{csv}");
    assert_eq!(
        lines[2],
        format!("2026-06-12T08:00:00-04:00,{meter},Lawn,413.4,on,,,Hazel Fern")
    );
}

#[tokio::test]
async fn a_counter_that_turned_and_a_meter_that_was_changed() {
    let (_app, api, site, meter) = metered().await;
    taken(&api, &site, meter, "06-10T08:00:00", 99_998.0).await;
    let turned = asked(read(&api, &site, meter, "06-12T08:00:00", 0.5, json!({})).await).await;
    assert!(
        (turned["rolled_over_l"].as_f64().unwrap() - 2500.0).abs() < 1e-6,
        "{turned}"
    );
    // 2.5 m³ of which nothing ran are asked about too, and may be so.
    let follows = json!({ "follows": { "follows": "rolled_over" }, "sure": true });
    let told = read(&api, &site, meter, "06-12T08:00:00", 0.5, follows).await;
    let turn = expect(told, StatusCode::CREATED).await["id"]
        .as_i64()
        .unwrap();
    let changed = json!({ "follows": { "follows": "new_meter", "old_register": 1.5, "began_with": 20.0 }, "sure": true });
    let new = read(&api, &site, meter, "06-14T08:00:00", 20.4, changed).await;
    let new = expect(new, StatusCode::CREATED).await["id"]
        .as_i64()
        .unwrap();
    let used: Vec<f64> = readings(&api, &site, meter)
        .await
        .as_array()
        .unwrap()
        .iter()
        .filter_map(|r| r["used_l"].as_f64())
        .map(|l| l.round())
        .collect();
    assert_eq!(used, [1400.0, 2500.0]);
    // The turn cannot be taken out alone: what follows would go back. The last can.
    let path = |id: i64| format!("{site}/readings/{id}");
    taken(&api, &site, meter, "06-15T08:00:00", 21.0).await;
    expect(
        api.send(Method::DELETE, &path(new), Value::Null).await,
        StatusCode::NO_CONTENT,
    )
    .await;
    let why = expect(
        api.send(Method::DELETE, &path(turn), Value::Null).await,
        StatusCode::CONFLICT,
    )
    .await;
    assert!(why["detail"].as_str().unwrap().contains("lower"), "{why}");
    expect(
        api.send(Method::DELETE, &path(new), Value::Null).await,
        StatusCode::NOT_FOUND,
    )
    .await;
}

#[tokio::test]
async fn the_nights_on_which_the_clock_is_set() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app
        .site(owner, &small_site(), "2026-11-03T12:00:00-05:00")
        .await;
    let api = app.sign_in(EMAIL).await;
    let site = format!("/sites/{}", site.0);
    let meter = add_meter(&api, &site, json!({})).await;
    let twice = asked(read(&api, &site, meter, "11-01T01:30:00", 10.0, json!({})).await).await;
    assert_eq!(twice["first"], "2026-11-01T05:30:00Z");
    let second = read(
        &api,
        &site,
        meter,
        "11-01T01:30:00",
        10.0,
        json!({ "which": "second" }),
    )
    .await;
    expect(second, StatusCode::CREATED).await;
    assert_eq!(
        readings(&api, &site, meter).await[0]["at"],
        "2026-11-01T06:30:00Z"
    );
    let never = read(&api, &site, meter, "03-08T02:30:00", 9.0, json!({})).await;
    let never = expect(never, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(never["field"], "read_at");
    assert!(
        never["detail"].as_str().unwrap().contains("03:30"),
        "{never}"
    );
}

#[tokio::test]
async fn the_book_of_some_days_beside_the_meter() {
    let (_app, api, site, meter) = metered().await;
    let view = api.json(&site).await;
    let version = view["version"].as_i64().unwrap();
    let tariffs = json!([{ "from": "2026-01-01", "fixed_per_month": 8.0, "tiers": [{ "up_to_m3": 2.0, "price_per_m3": 1.0 }, { "price_per_m3": 4.0 }] }]);
    let path = format!("{site}/tariffs");
    let saved = api.edit(Method::PUT, &path, version, tariffs.clone()).await;
    assert_eq!(
        expect(saved, StatusCode::OK).await["tariffs"][0]["tiers"],
        tariffs[0]["tiers"]
    );
    expect(
        api.edit(Method::PUT, &path, version, tariffs).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
    let now = api.json(&site).await["version"].as_i64().unwrap();
    let wrong = json!([{ "from": "2026-01-01", "tiers": [{ "price_per_m3": -1 }] }]);
    let wrong = expect(
        api.edit(Method::PUT, &path, now, wrong).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(wrong["field"], "tariffs[0].tiers[0].price_per_m3");

    taken(&api, &site, meter, "06-18T00:30:00", 412.6).await;
    for _ in 0..6 {
        step(&api, &site, 1).await;
    }
    let runs = api
        .json(&format!("{site}/runs?from=2026-06-18&to=2026-06-23"))
        .await;
    let runs = runs.as_array().unwrap();
    assert!(!runs.is_empty());
    let book = api
        .json(&format!("{site}/book?from=2026-06-18&to=2026-07-31"))
        .await;
    assert_eq!(book["to"], "2026-06-23", "it ends yesterday");
    let zone = &book["zones"][0];
    // Litres by the zone's own rate: 400 m² times its mm/h.
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let rate = plan["zones"][0]["rate_mm_h"].as_f64().unwrap();
    let seconds: f64 = runs.iter().map(|r| r["seconds"].as_f64().unwrap()).sum();
    let litres = rate * seconds / 3600.0 * 400.0;
    assert!(
        (zone["sums"]["run_l"].as_f64().unwrap() - litres).abs() < 1e-6 * litres,
        "{zone} {litres}"
    );
    assert_eq!(zone["sums"]["planned_l"], zone["sums"]["run_l"]);
    assert_eq!(zone["sums"]["assumed_l"], zone["sums"]["run_l"]);
    let m3 = litres / 1000.0;
    let cost = 2.0 + (m3 - 2.0) * 4.0;
    assert!(
        (book["total"]["cost"].as_f64().unwrap() - cost).abs() < 1e-6,
        "{book}"
    );
    assert_eq!(book["next_m3"], 4.0);
    // Plans tell what they cost at the price of the next water.
    let totals = &plan["totals"];
    if totals["volume_l"].as_f64().unwrap() > 0.0 {
        let per_m3 =
            totals["cost"].as_f64().unwrap() / totals["volume_l"].as_f64().unwrap() * 1000.0;
        assert!((per_m3 - 4.0).abs() < 1e-9, "{totals}");
    }
    // The depths are those of the ledger, of the days whose weather is known.
    let known = api
        .json(&format!("{site}/book?from=2026-06-08&to=2026-06-17"))
        .await;
    let (total, zone) = (&known["total"], &known["zones"][0]["sums"]);
    assert!(zone["etc_mm"].as_f64().unwrap() > 30.0, "{known}");
    assert_eq!(total["etc_mm"], zone["etc_mm"], "it is the only zone");
    let weeks = known["weeks"].as_array().unwrap();
    let et0: f64 = weeks.iter().map(|w| w["et0_mm"].as_f64().unwrap()).sum();
    assert!(et0 > 45.0, "{known}");

    // The meter counted 0.2 m³ more than ran.
    let register = 412.6 + m3 + 0.2;
    let register = (register * 10.0).round() / 10.0;
    taken(&api, &site, meter, "06-24T00:30:00", register).await;
    let book = api
        .json(&format!("{site}/book?from=2026-06-20&to=2026-06-24"))
        .await;
    let between = &book["metered"][0];
    assert!(
        (between["run_l"].as_f64().unwrap() - litres).abs() < 1e-6 * litres,
        "{between}"
    );
    let metered = between["metered_l"].as_f64().unwrap();
    assert!(
        (metered - (register - 412.6) * 1000.0).abs() < 1e-6,
        "{between}"
    );
    let early = api
        .get(&format!("{site}/book?from=2026-07-01&to=2026-07-31"))
        .await;
    assert_eq!(
        expect(early, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "from"
    );
    let long = api
        .get(&format!("{site}/book?from=1900-01-01&to=2026-07-31"))
        .await;
    assert_eq!(
        expect(long, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "from"
    );
}

#[tokio::test]
async fn meters_are_kept_to_what_they_count_and_travel_with_the_document() {
    let (_app, api, site, meter) = metered().await;
    let zone = api.json(&format!("{site}/zones")).await[0]["id"].to_string();
    let path = format!("{site}/meters/{meter}");
    let named = json!({ "name": "Front lawn", "unit": "m3", "digits": 5, "decimals": 1, "feeds": [zone], "house": true });
    let saved = expect(
        api.edit(Method::PUT, &path, 1, named.clone()).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&saved["meter"]["name"], &saved["version"]),
        (&json!("Front lawn"), &json!(2))
    );
    expect(
        api.edit(Method::PUT, &path, 1, named.clone()).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
    taken(&api, &site, meter, "06-10T08:00:00", 412.6).await;
    let mut other = named.clone();
    other["unit"] = json!("gal");
    let kept = expect(
        api.edit(Method::PUT, &path, 2, other).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(kept["field"], "unit");
    for (change, field) in [
        (json!({ "feeds": ["99"] }), "feeds[0]"),
        (json!({ "digits": 2 }), "digits"),
        (json!({ "multiplier": 0 }), "multiplier"),
        (json!({ "name": " " }), "name"),
    ] {
        let mut bad = named.clone();
        for (key, value) in change.as_object().unwrap() {
            bad[key] = value.clone();
        }
        let problem = api.send(Method::POST, &format!("{site}/meters"), bad).await;
        let problem = expect(problem, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(problem["field"], field, "{problem}");
    }
    // Out and in again: another site, the same but for the numbers.
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(document["meters"][0]["house"], true);
    let copy = expect(
        api.send(Method::POST, "/sites", document.clone()).await,
        StatusCode::CREATED,
    )
    .await;
    let copy = format!("/sites/{}", copy["id"]);
    let again = api.json(&format!("{copy}/document")).await;
    let own_zone = api.json(&format!("{copy}/zones")).await[0]["id"].to_string();
    assert_eq!(again["meters"][0]["feeds"], json!([own_zone]));
    assert_eq!(again["meters"][0]["name"], document["meters"][0]["name"]);
    assert_eq!(again["tariffs"], document["tariffs"]);
    // Taken out, it keeps its readings and is read no more.
    let mut ended = named;
    ended["active_to"] = json!("2026-06-12");
    let ended = expect(api.edit(Method::PUT, &path, 2, ended).await, StatusCode::OK).await;
    assert_eq!(ended["last"]["register"], 412.6);
    let late = read(&api, &site, meter, "06-13T08:00:00", 413.0, json!({})).await;
    assert_eq!(
        expect(late, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "read_at"
    );
    let history = api.json(&format!("{site}/history")).await;
    let events: Vec<&str> = history["entries"]
        .as_array()
        .unwrap()
        .iter()
        .map(|e| e["what"]["event"].as_str().unwrap())
        .collect();
    for event in ["meter_added", "meter_changed", "meter_read", "meter_ended"] {
        assert!(events.contains(&event), "{event}: {events:?}");
    }
}

#[tokio::test]
async fn the_crew_reads_and_a_viewer_looks() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let id = app.site(owner, &small_site(), NIGHT).await;
    let site = format!("/sites/{}", id.0);
    let manager = app.sign_in(EMAIL).await;
    expect(
        manager
            .send(Method::POST, &format!("{site}/zones"), zone("Front"))
            .await,
        StatusCode::CREATED,
    )
    .await;
    let meter = add_meter(&manager, &site, json!({})).await;
    for (role, may_read) in [("viewer", false), ("crew", true)] {
        let email = format!("{role}@meadow.example");
        let account = app.account(&email).await;
        fresh_meadow::db::sites::add_member(&app.pool, id, account, role)
            .await
            .unwrap();
        let api = app.sign_in(&email).await;
        let sent = read(&api, &site, meter, "06-10T08:00:00", 1.0, json!({})).await;
        assert_eq!(sent.status() == StatusCode::CREATED, may_read, "{role}");
        let book = api
            .json(&format!("{site}/book?from=2026-06-10&to=2026-06-17"))
            .await;
        assert_eq!(book["zones"][0]["name"], "Front");
        let new = api
            .send(
                Method::POST,
                &format!("{site}/meters"),
                json!({ "name": "x", "unit": "l", "digits": 4 }),
            )
            .await;
        assert_eq!(new.status(), StatusCode::FORBIDDEN, "{role}");
    }
}

#[tokio::test]
async fn a_meter_is_to_be_read_again_a_week_after_while_water_runs_and_days_come_out_as_a_file() {
    let (_app, api, site, meter) = metered().await;
    let due = async || api.json(&format!("{site}/meters")).await[0]["due"].clone();
    assert_eq!(due().await, true, "never read");
    taken(&api, &site, meter, "06-18T00:30", 120.0).await;
    assert_eq!(due().await, false);
    // The dry zone is watered meanwhile.
    step(&api, &site, 6).await;
    assert_eq!(due().await, false, "not a week yet");
    step(&api, &site, 3).await;
    assert_eq!(due().await, true);
    taken(&api, &site, meter, "06-26T00:30", 136.0).await;
    assert_eq!(due().await, false);

    let span = "from=2026-06-18&to=2026-06-26";
    let days = api.json(&format!("{site}/reconciliation?{span}")).await;
    assert_eq!((&days["meter"], &days["heard"]), (&Value::Null, &json!([])));
    let book = api.json(&format!("{site}/book?{span}")).await;
    let csv = api.text(&format!("{site}/days.csv?{span}")).await;
    let mut run = 0.0;
    for line in csv.lines().skip(1) {
        let cells: Vec<&str> = line.split(',').collect();
        assert_eq!(
            (cells.len(), cells[1], cells[2], cells[5]),
            (10, "1", "Front", ""),
            "{line}"
        );
        run += cells[4].parse::<f64>().unwrap();
    }
    let all = book["total"]["run_l"].as_f64().unwrap();
    assert!(all > 1000.0 && (run - all).abs() < 1e-6, "{run} of {all}");
    let unknown = api
        .get(&format!("{site}/reconciliation?{span}&meter={meter}"))
        .await;
    assert_eq!(
        unknown.status(),
        StatusCode::NOT_FOUND,
        "it counts no minutes"
    );
    let refused = api
        .get(&format!(
            "{site}/reconciliation?from=2024-01-01&to=2026-06-26"
        ))
        .await;
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(problem["field"], "from");
}

#[tokio::test]
async fn what_may_be_used_is_kept_and_told_and_travels_with_the_document() {
    let (_app, api, site, _) = metered().await;
    let view = api.json(&site).await;
    assert_eq!(view["caps"], json!([]));
    assert_eq!(api.json(&format!("{site}/caps")).await, json!([]));
    let caps = json!([
        { "name": "Town", "from": "2026-06-01", "says": { "kind": "volume", "cap_m3": 12.0, "per": "month" } },
        { "name": "Drought", "from": "2026-06-01", "to": "2026-09-30", "says": { "kind": "cut", "cut_pct": 20.0, "base_year": 2025 } },
    ]);
    let version = view["version"].as_i64().unwrap();
    let path = format!("{site}/caps");
    for (field, at, value) in [
        ("caps[0].says.cap_m3", "/0/says/cap_m3", json!(0)),
        ("caps[1].says.base_year", "/1/says/base_year", json!(2026)),
        ("caps[0].name", "/0/name", json!("")),
    ] {
        let mut bad = caps.clone();
        *bad.pointer_mut(at).unwrap() = value;
        let refused = api.edit(Method::PUT, &path, version, bad).await;
        let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(problem["field"], field, "{problem}");
    }
    let set = api.edit(Method::PUT, &path, version, caps.clone()).await;
    assert_eq!(expect(set, StatusCode::OK).await["caps"], caps);
    let stale = api.edit(Method::PUT, &path, version, json!([])).await;
    assert_eq!(stale.status(), StatusCode::PRECONDITION_FAILED);
    step(&api, &site, 3).await;
    let found = api.json(&path).await;
    let book = api
        .json(&format!("{site}/book?from=2026-06-01&to=2026-06-20"))
        .await;
    assert_eq!(
        (&found[0]["name"], &found[0]["to"]),
        (&json!("Town"), &json!("2026-06-30"))
    );
    assert_eq!(found[0]["allowed_l"], 12_000.0);
    let used = found[0]["used_l"].as_f64().unwrap();
    assert!(
        used >= book["total"]["run_l"].as_f64().unwrap() - 1e-6 && used > 0.0,
        "{found}"
    );
    assert_eq!(
        (&found[0]["outlook"], &found[1]["allowed_l"]),
        (&Value::Null, &Value::Null)
    );
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(document["caps"], caps);
    let copy = api.send(Method::POST, "/sites", document).await;
    assert_eq!(expect(copy, StatusCode::CREATED).await["caps"], caps);
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("caps_changed"), "{history}");
}
