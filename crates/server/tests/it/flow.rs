//! Flow meters: what is counted by the minute is kept once, however it comes; a leak and a broken head are named by it.

use std::process::Stdio;

use jiff::{SignedDuration, Timestamp};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::controllers::{Standin, connected};
use crate::harness::{Api, App, Process, expect};
use crate::rounds::step;

/// A site with a dry zone and a flow meter of 1 L a pulse; its path and the meter's.
pub async fn counted() -> (App, Api, String, String) {
    let (app, api, site) = App::with_dry_zone().await;
    let meter = json!({ "name": "Lawn", "unit": "m3", "digits": 5, "pulse_l": 1.0 });
    let added = api
        .send(Method::POST, &format!("{site}/meters"), meter)
        .await;
    let id = expect(added, StatusCode::CREATED).await["id"].clone();
    (app, api, site.clone(), format!("{site}/meters/{id}"))
}

pub async fn told(api: &Api, meter: &str, from: &str, counts: Value) -> reqwest::Response {
    let body = json!({ "from": from, "counts": counts });
    api.send(Method::POST, &format!("{meter}/pulses"), body)
        .await
}

/// All that is kept: minutes that were counted, and their pulses.
pub async fn kept(app: &App) -> (i64, i64) {
    sqlx::query_as("SELECT count(n), coalesce(sum(n), 0)::int8 FROM flow_hour, unnest(counts) AS n")
        .fetch_one(&app.pool)
        .await
        .unwrap()
}

#[tokio::test]
async fn a_minute_is_kept_once_however_it_is_told() {
    let (app, api, site, meter) = counted().await;
    // A batch over the turn of an hour; sent again; a later one first, with a gap that is told later.
    let first = told(&api, &meter, "2026-06-17T07:58:00Z", json!([3, 4, 5, 6])).await;
    assert_eq!(expect(first, StatusCode::OK).await["minutes"], 4);
    let again = told(&api, &meter, "2026-06-17T07:58:00Z", json!([3, 4, 5, 6])).await;
    expect(again, StatusCode::OK).await;
    assert_eq!(kept(&app).await, (4, 18));
    let late = told(&api, &meter, "2026-06-17T08:00:00Z", json!([9, 9, null, 2])).await;
    expect(late, StatusCode::OK).await;
    assert_eq!(kept(&app).await, (5, 20), "what was told stands");
    let gap = told(&api, &meter, "2026-06-17T08:02:00Z", json!([7])).await;
    expect(gap, StatusCode::OK).await;
    assert_eq!(kept(&app).await, (6, 27));
    for (from, counts, field) in [
        ("2026-06-17T08:00:30Z", json!([1]), "from"),
        ("2026-06-17T08:00:00Z", json!([]), "counts"),
        ("2026-06-18T05:00:00Z", json!([1, 1, 1]), "counts"),
        ("2026-06-17T08:00:00Z", json!([1, 30_001]), "counts[1]"),
        ("1890-06-17T08:00:00Z", json!([1]), "from"),
    ] {
        let refused = told(&api, &meter, from, counts).await;
        let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert_eq!(problem["field"], field, "{problem}");
    }
    // By a device of the site, and by no other.
    let device = api
        .send(
            Method::POST,
            &format!("{site}/device-tokens"),
            json!({ "name": "Valve box" }),
        )
        .await;
    let token = expect(device, StatusCode::CREATED).await["token"]
        .as_str()
        .unwrap()
        .to_owned();
    let stranger = app.stranger();
    let by_device = async |token: &str, path: &str| {
        let body = json!({ "from": "2026-06-17T09:00:00Z", "counts": [1] });
        let request = stranger.request(Method::POST, &format!("{path}/pulses"));
        let request = request.bearer_auth(token).json(&body);
        request.send().await.unwrap().status()
    };
    let last_used = async || {
        let devices = api.json(&format!("{site}/device-tokens")).await;
        devices[0]["last_used_at"].clone()
    };
    assert_eq!(last_used().await, Value::Null);
    assert_eq!(by_device(&token, &meter).await, StatusCode::OK);
    assert!(last_used().await.is_string());
    let unknown = by_device("no-such-token", &meter).await;
    assert_eq!(unknown, StatusCode::UNAUTHORIZED);
    let other = by_device(&token, &format!("{site}/meters/999")).await;
    assert_eq!(other, StatusCode::NOT_FOUND);
    assert_eq!(kept(&app).await, (7, 28));
}

/// What the zone's passes take each minute of a day, with a leak; the day from its midnight on.
async fn minutes_of(
    api: &Api,
    site: &str,
    day: &str,
    flow_l_min: u64,
    leak_l_h: u64,
) -> (String, Vec<u16>) {
    let midnight: Timestamp = format!("{day}T04:00:00Z").parse().unwrap();
    let runs = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    let mut flow = vec![leak_l_h * 1000 / 60; 24 * 60];
    for run in runs.as_array().unwrap() {
        let starts: Timestamp = run["started_at"].as_str().unwrap().parse().unwrap();
        let from = usize::try_from(starts.duration_since(midnight).as_secs() / 60).unwrap();
        let minutes = usize::try_from(run["seconds"].as_i64().unwrap() / 60).unwrap();
        for millilitres in flow.iter_mut().skip(from).take(minutes) {
            *millilitres += flow_l_min * 1000;
        }
    }
    let mut rest = 0;
    let counts = flow.into_iter().map(|millilitres| {
        rest += millilitres;
        let pulses = rest / 1000;
        rest %= 1000;
        u16::try_from(pulses).unwrap()
    });
    (midnight.to_string(), counts.collect())
}

#[tokio::test]
async fn a_leak_is_named_within_two_days_of_its_start_on_the_stepped_clock() {
    let (_app, api, site, meter) = counted().await;
    let found = async |api: &Api| api.json(&format!("{site}/findings")).await["flow"].clone();
    assert_eq!(found(&api).await, json!([]));
    let mut day = jiff::civil::date(2026, 6, 18);
    let mut named = Vec::new();
    for number in 0..10 {
        step(&api, &site, 1).await;
        let leak = if number >= 7 { 45 } else { 0 };
        let (from, counts) = minutes_of(&api, &site, &day.to_string(), 88, leak).await;
        expect(
            told(&api, &meter, &from, json!(counts)).await,
            StatusCode::OK,
        )
        .await;
        let kinds: Vec<String> = (found(&api).await.as_array().unwrap().iter())
            .map(|f| f["named"]["kind"].as_str().unwrap().to_owned())
            .collect();
        named.push(kinds.contains(&"leak".to_owned()));
        day = day.tomorrow().unwrap();
    }
    assert_eq!(named[..7], [false; 7]);
    assert!(named[8], "within two days: {named:?}");
    let leak = found(&api).await[0].clone();
    assert!(
        (leak["named"]["litres_an_hour"].as_f64().unwrap() - 45.0).abs() < 1.5,
        "{leak}"
    );
    assert_eq!(leak["since"], "2026-06-25T04:00:00Z", "{leak}");
    assert_eq!(leak["zone"], Value::Null);
}

#[tokio::test]
async fn the_demos_leak_and_broken_head_are_found_by_its_flow() {
    let app = App::own_demo().await;
    let api = app.sign_in(crate::harness::EMAIL).await;
    let found = api.json("/sites/1/findings").await;
    let flow = found["flow"].as_array().unwrap();
    let kinds: Vec<&str> = flow
        .iter()
        .map(|f| f["named"]["kind"].as_str().unwrap())
        .collect();
    assert_eq!(kinds, ["leak", "more_than_normal"], "{found}");
    let leak = &flow[0];
    assert!(
        (leak["named"]["litres_an_hour"].as_f64().unwrap() - 110.0).abs() < 6.0,
        "{leak}"
    );
    let since: Timestamp = leak["since"].as_str().unwrap().parse().unwrap();
    let began: Timestamp = "2026-06-03T21:00:00-04:00".parse().unwrap();
    assert!(
        since.duration_since(began).abs() <= SignedDuration::from_hours(48),
        "{leak}"
    );
    let head = &flow[1];
    assert_eq!(head["zone_name"], "Library lawn");
    let times = head["named"]["now_l_min"].as_f64().unwrap()
        / head["named"]["normal_l_min"].as_f64().unwrap();
    assert!((times - 1.4).abs() < 0.05, "{head}");
    assert!(leak["cost_a_week"].as_f64().unwrap() > 20.0, "{leak}");
    // What repairing them would save, and what even sprinklers would, by the water of the last twelve months.
    let savings = api.json("/sites/1/savings").await;
    let told: Vec<(&str, &Value)> = (savings.as_array().unwrap().iter())
        .map(|s| (s["what"]["kind"].as_str().unwrap(), &s["zone_name"]))
        .collect();
    let (library, west) = (json!("Library lawn"), json!("West bank"));
    assert_eq!(
        told,
        [
            ("leak", &Value::Null),
            ("head", &library),
            ("evenness", &west)
        ],
        "{savings}"
    );
    let leaks = savings[0]["litres_a_year"].as_f64().unwrap();
    assert!((leaks / (110.0 * 8760.0) - 1.0).abs() < 0.06, "{savings}");
    // If it fed the house too, nobody would know whose water that is.
    let view = api.json("/sites/1/meters").await[0].clone();
    let mut house = view["meter"].clone();
    house["house"] = json!(true);
    let version = view["version"].as_i64().unwrap();
    let put = api
        .edit(Method::PUT, "/sites/1/meters/1", version, house)
        .await;
    expect(put, StatusCode::OK).await;
    let found = api.json("/sites/1/findings").await;
    assert_eq!(found, json!({ "readings": [], "flow": [] }));
}

#[tokio::test]
async fn a_killed_server_loses_no_minute_that_it_acknowledged_and_keeps_none_twice() {
    const BATCHES: i64 = 40;
    const MINUTES: i64 = 45;
    let (app, _, _, meter) = counted().await;
    let first: Timestamp = "2026-06-16T00:00:00Z".parse().unwrap();
    let batch = move |n: i64| {
        let from = first + SignedDuration::from_mins(n * MINUTES);
        let counts: Vec<i64> = (0..MINUTES).map(|m| (n * 7 + m) % 11).collect();
        (from.to_string(), json!(counts))
    };
    let pulses = |n: i64| (0..MINUTES).map(|m| (n * 7 + m) % 11).sum::<i64>();
    // A second server process on the same database, to be killed in the middle of the batches.
    let mut server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let api = server.app.sign_in(crate::harness::EMAIL).await;
    let (acknowledged, heard) = tokio::sync::watch::channel(0_i64);
    let sending = tokio::spawn({
        let meter = meter.clone();
        async move {
            for n in 0..BATCHES {
                let (from, counts) = batch(n);
                let body = json!({ "from": from, "counts": counts });
                let request = api.request(Method::POST, &format!("{meter}/pulses"));
                match request.json(&body).send().await {
                    Ok(answer) if answer.status() == StatusCode::OK => {
                        acknowledged.send_replace(n + 1)
                    }
                    _ => break,
                };
            }
        }
    });
    let mut seen = heard.clone();
    seen.wait_for(|n| *n >= 9).await.unwrap();
    server.kill();
    sending.await.unwrap();
    let told = *heard.borrow();
    assert!(
        (9..BATCHES).contains(&told),
        "it was killed in the middle: {told}"
    );
    let (minutes, sum) = kept(&app).await;
    let of_told: i64 = (0..told).map(pulses).sum();
    assert!(minutes >= told * MINUTES, "{minutes} of {}", told * MINUTES);
    assert!(sum >= of_told);
    // The meter does not know what came: it sends all of it again, the last first.
    let api = app.sign_in(crate::harness::EMAIL).await;
    for n in (0..BATCHES).rev() {
        let (from, counts) = batch(n);
        expect(
            self::told(&api, &meter, &from, counts).await,
            StatusCode::OK,
        )
        .await;
    }
    let all: i64 = (0..BATCHES).map(pulses).sum();
    assert_eq!(kept(&app).await, (BATCHES * MINUTES, all));
}

/// A site that waters every other day by what it publishes each morning, run by the simulated controller, whose flow meter of so many litres a pulse sends what it counts.
pub async fn run_and_counted(name: &str, pulse_l: f64) -> (App, Api, String, Standin) {
    let (app, api, site, _, standin) = connected(name).await;
    let zone = api.json(&format!("{site}/zones")).await[0].clone();
    let mut often = zone["zone"].clone();
    often["school"] = json!({ "kind": "every_other_day", "run_minutes": 20.0, "every_days": 2 });
    let path = format!("{site}/zones/{}", zone["id"]);
    let version = zone["version"].as_i64().unwrap();
    expect(
        api.edit(Method::PUT, &path, version, often).await,
        StatusCode::OK,
    )
    .await;
    let mornings = json!({ "each_morning": true });
    let set = api
        .send(Method::PUT, &format!("{site}/publishing"), mornings)
        .await;
    assert!(set.status().is_success(), "{}", set.status());
    let meter = json!({ "name": "Lawn", "unit": "m3", "digits": 5, "pulse_l": pulse_l });
    let added = api
        .send(Method::POST, &format!("{site}/meters"), meter)
        .await;
    let id = expect(added, StatusCode::CREATED).await["id"].clone();
    let device = json!({ "name": "Valve box" });
    let device = api
        .send(Method::POST, &format!("{site}/device-tokens"), device)
        .await;
    let token = expect(device, StatusCode::CREATED).await["token"].clone();
    let sink = json!({ "url": format!("{}/api/v1{site}/meters/{id}/pulses", app.origin()), "token": token });
    let now = api.json(&site).await["now"].as_str().unwrap().to_owned();
    let path = format!("{site}/flow-meter?as_of={now}");
    let put = standin
        .ask(
            Method::PUT,
            &path,
            json!({ "sink": sink, "pulse_l": pulse_l }),
        )
        .await;
    assert_eq!(put.0, StatusCode::NO_CONTENT);
    (app, api, site, standin)
}

#[tokio::test]
async fn planned_run_and_metered_agree_within_a_pulse_through_the_stand_ins() {
    for (name, pulse_l, late) in [("agrees", 1.0, false), ("agrees-late", 10.0, true)] {
        let (app, api, site, standin) = run_and_counted(name, pulse_l).await;
        let quirks = format!("{site}/flow-meter/quirks");
        standin
            .ask(Method::PUT, &quirks, json!({ "late": late }))
            .await;
        for _ in 0..12 {
            step(&api, &site, 1).await;
        }
        // What it held back comes too.
        standin
            .ask(Method::PUT, &quirks, json!({ "late": false }))
            .await;
        step(&api, &site, 1).await;
        let book = api
            .json(&format!("{site}/book?from=2026-06-18&to=2026-07-31"))
            .await;
        let sum = |key: &str| book["total"][key].as_f64().unwrap();
        assert!(sum("run_l") > 5000.0, "{book}");
        assert!(
            (sum("planned_l") - sum("run_l")).abs() < 1e-6 * sum("run_l"),
            "{name}: {book}"
        );
        assert!(
            sum("assumed_l") < 1e-9,
            "the controller told all of it: {book}"
        );
        let (minutes, pulses) = kept(&app).await;
        assert_eq!(minutes, 13 * 24 * 60, "{name}");
        let metered = f64::from(i32::try_from(pulses).unwrap()) * pulse_l;
        assert!(
            (metered - sum("run_l")).abs() <= pulse_l + 1e-6,
            "{name}: {metered} of {}",
            sum("run_l")
        );
        let found = api.json(&format!("{site}/findings")).await;
        assert_eq!(found["flow"], json!([]), "{name}");
    }
}

#[tokio::test]
async fn a_broken_head_is_named_within_three_runs_and_a_valve_that_closes_late_with_the_first() {
    let (_app, api, site, standin) = run_and_counted("broken", 10.0).await;
    let kinds = async || -> Vec<String> {
        let found = api.json(&format!("{site}/findings")).await;
        let flow = found["flow"].as_array().unwrap().iter();
        flow.map(|f| f["named"]["kind"].as_str().unwrap().to_owned())
            .collect()
    };
    let runs = async || {
        let runs = api
            .json(&format!("{site}/runs?from=2026-06-18&to=2026-07-31"))
            .await;
        runs.as_array()
            .unwrap()
            .iter()
            .filter(|r| r["passes"] != 0)
            .count()
    };
    for _ in 0..12 {
        step(&api, &site, 1).await;
        assert_eq!(kinds().await, Vec::<String>::new());
    }
    let before = runs().await;
    assert!(before >= 5, "{before}");
    let faults = format!("{site}/faults");
    standin
        .ask(Method::PUT, &faults, json!({ "broken": ["1"] }))
        .await;
    while !kinds().await.contains(&"more_than_normal".to_owned()) {
        step(&api, &site, 1).await;
        assert!(
            runs().await <= before + 3,
            "it has run three times: {:?}",
            kinds().await
        );
    }
    // These are other nozzles: their rate is tested, and with the next run that is its normal.
    let test = json!({ "method": "quick", "way": "to_depth", "mark_mm": 13.0, "minutes": [40.0, 42.0, 44.0] });
    let body = json!({ "test": test, "idempotency_key": "other-nozzles" });
    let tested = format!("{site}/zones/1/sprinkler-tests");
    let sent = api.send(Method::POST, &tested, body).await;
    expect(sent, StatusCode::CREATED).await;
    let after_the_test = runs().await;
    while runs().await < after_the_test + 2 {
        step(&api, &site, 1).await;
    }
    assert_eq!(kinds().await, Vec::<String>::new());
    // Repaired, and the next run says so; then its valve closes late.
    standin.ask(Method::PUT, &faults, json!({})).await;
    let mended = runs().await;
    while runs().await == mended {
        step(&api, &site, 1).await;
    }
    assert_eq!(kinds().await, Vec::<String>::new());
    standin
        .ask(
            Method::PUT,
            &faults,
            json!({ "stays_open_min": { "1": 15 } }),
        )
        .await;
    let before = runs().await;
    while runs().await == before {
        step(&api, &site, 1).await;
    }
    assert_eq!(kinds().await, ["stays_open"]);
}

#[tokio::test]
async fn a_rate_that_is_another_is_offered_as_a_quick_test_and_taken_it_is_no_finding_any_more() {
    let (_app, api, site, standin) = run_and_counted("rate", 1.0).await;
    // From the first pass on it takes more than its rate and area say.
    let faults = json!({ "broken": ["1"] });
    standin
        .ask(Method::PUT, &format!("{site}/faults"), faults)
        .await;
    let flow = async || api.json(&format!("{site}/findings")).await["flow"].clone();
    for _ in 0..20 {
        if flow().await != json!([]) {
            break;
        }
        step(&api, &site, 1).await;
    }
    let found = flow().await[0].clone();
    assert_eq!(found["named"]["kind"], "wrong_rate", "{found}");
    let named = &found["named"];
    let times = named["now_l_min"].as_f64().unwrap() / named["rated_l_min"].as_f64().unwrap();
    let rate = |zone: &Value| zone["measured"]["rate_mm_h"]["value"].as_f64();
    let rated = {
        let zone = api.json(&format!("{site}/zones")).await[0].clone();
        rate(&zone).or(zone["zone"]["rate_mm_h"].as_f64())
    };
    let offered = found["offers"]["rate_mm_h"].as_f64().unwrap();
    if let Some(rated) = rated {
        assert!(
            (offered / rated / times - 1.0).abs() < 0.03,
            "{found}, {rated}"
        );
    }
    // Its area is 400 m².
    let by_hand = named["now_l_min"].as_f64().unwrap() * 60.0 / 400.0;
    assert!(
        (offered / by_hand - 1.0).abs() < 0.03,
        "{offered} {by_hand}"
    );
    let body = json!({ "test": found["offers"]["test"], "idempotency_key": "by-the-meter" });
    let sent = api
        .send(
            Method::POST,
            &format!("{site}/zones/1/sprinkler-tests"),
            body,
        )
        .await;
    let test = expect(sent, StatusCode::CREATED).await;
    assert!(
        (test["result"]["rate_mm_h"]["value"].as_f64().unwrap() - offered).abs() < 1e-6,
        "{test}"
    );
    assert_eq!(flow().await, json!([]));
    for _ in 0..6 {
        step(&api, &site, 1).await;
        assert_eq!(flow().await, json!([]));
    }
}
