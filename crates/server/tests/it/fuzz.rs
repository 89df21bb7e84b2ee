//! Whatever JSON comes in, every operation answers with something that its description knows, and never with a defect. Bodies are made by
//! spoiling good ones. `PROPTEST_CASES` says how many over all operations; ten thousand by default.

use std::time::Duration;

use proptest::prelude::*;
use proptest::strategy::ValueTree;
use proptest::test_runner::{Config, RngAlgorithm, TestRng, TestRunner};
use reqwest::{Method, RequestBuilder, StatusCode};
use serde_json::{Value, json};
use tokio::task::JoinSet;

use crate::harness::{App, EMAIL};
use crate::rights::{mutating, table};

fn cases() -> usize {
    std::env::var("PROPTEST_CASES")
        .ok()
        .and_then(|n| n.parse().ok())
        .unwrap_or(10_000)
}

/// What a number may be replaced by.
fn number() -> impl Strategy<Value = Value> {
    prop_oneof![
        Just(json!(0)),
        Just(json!(-1)),
        Just(json!(1)),
        Just(json!(2)),
        Just(json!(7.5)),
        Just(json!(399)),
        Just(json!(86_401)),
        Just(json!(1e308)),
        Just(json!(1e-320)),
        Just(json!(u64::MAX)),
        Just(json!(i64::MIN)),
        Just(json!(65_536)),
        (0..100i64).prop_map(|x| json!(x)),
        (-5.0..500.0).prop_map(|x: f64| json!(x)),
        any::<i64>().prop_map(|x| json!(x)),
        any::<f64>().prop_map(|x| json!(x)),
    ]
}

/// What a text may be replaced by.
fn text() -> impl Strategy<Value = Value> {
    prop_oneof![
        Just(json!("")),
        Just(json!("\u{0}")),
        Just(json!("a\u{0}b")),
        Just(json!("\u{a0}")),
        Just(json!("\u{202e}x")),
        Just(json!("İ@m.example")),
        Just(json!("x".repeat(9000))),
        Just(json!("y".repeat(121))),
        Just(json!("key-".repeat(20))),
        Just(json!("0000-01-01")),
        Just(json!("1900-01-01")),
        Just(json!("2026-06-18")),
        Just(json!("2027-06-18")),
        Just(json!("-009999-01-01")),
        Just(json!("9999-12-31")),
        Just(json!("2026-02-30")),
        Just(json!("2026-06-17T05:00:00Z")),
        Just(json!("9999-12-30T22:00:00Z")),
        Just(json!("-009998-01-01T00:00:00Z")),
        Just(json!("../../etc/localtime")),
        Just(json!("Pacific/Apia")),
        Just(json!("24:00")),
        Just(json!("00:00")),
        Just(json!("crew")),
        Just(json!("transition")),
        "\\PC{0,20}".prop_map(|x| json!(x)),
        "[a-zA-Z \u{e4}-\u{fc}]{8,80}".prop_map(|x| json!(x)),
        any::<String>().prop_map(|x| json!(x)),
    ]
}

/// What anything may be replaced by.
fn oddity() -> impl Strategy<Value = Value> {
    prop_oneof![
        Just(Value::Null),
        Just(json!(true)),
        Just(json!([])),
        Just(json!({})),
        number(),
        text(),
    ]
}

/// The places of a value, each as a JSON pointer.
fn places(value: &Value, at: &str, found: &mut Vec<String>) {
    found.push(at.to_owned());
    match value {
        Value::Object(fields) => {
            for (key, value) in fields {
                places(value, &format!("{at}/{key}"), found);
            }
        }
        Value::Array(values) => {
            for (i, value) in values.iter().enumerate() {
                places(value, &format!("{at}/{i}"), found);
            }
        }
        _ => {}
    }
}

/// A change of a value: which place, what happens there, with which number, text or anything, under which key.
type Change = (usize, u8, Value, Value, Value, String);

fn spoil(value: &mut Value, (at, what, number, text, any, key): Change) {
    let mut all = Vec::new();
    places(value, "", &mut all);
    let Some(place) = value.pointer_mut(&all[at % all.len()]) else {
        return;
    };
    match (what % 8, place) {
        (0, Value::Object(fields)) => {
            fields.insert(key, any);
        }
        (1, Value::Object(fields)) => {
            if let Some(first) = fields.keys().nth(at % fields.len().max(1)).cloned() {
                fields.remove(&first);
            }
        }
        (2..=4, Value::Array(values)) => {
            let copies = values.first().cloned().unwrap_or(any);
            values.extend(std::iter::repeat_n(copies, 1 + at % 500));
        }
        (7, place) => *place = any,
        (_, place @ Value::Number(_)) => *place = number,
        (_, place @ Value::String(_)) => *place = text,
        _ => {}
    }
}

/// Operations that would end the session, or the site's membership, with which all others are asked.
const ENDS: [&str; 4] = [
    "sign_out",
    "sign_out_everywhere",
    "leave_site",
    "change_password",
];

#[tokio::test]
async fn no_json_makes_an_operation_break() {
    let (app, api, _) = App::with_dry_zone().await;
    let document = serde_json::to_value(fresh_meadow::api::openapi()).unwrap();
    let table = table();
    let operations: Vec<_> = mutating()
        .into_iter()
        .filter(|(_, _, id)| !ENDS.contains(&id.as_str()))
        .filter_map(|(method, path, id)| {
            let body = table[id.as_str()].1.clone();
            body.is_object().then_some((method, path, id, body))
        })
        .collect();
    let mut runner = TestRunner::new_with_rng(
        Config::default(),
        TestRng::deterministic_rng(RngAlgorithm::ChaCha),
    );
    let change = (
        any::<usize>(),
        any::<u8>(),
        number(),
        text(),
        oddity(),
        "\\PC{1,8}",
    );
    let several = prop::collection::vec(change, 1..3);
    let mut answers = Vec::new();
    let mut running = JoinSet::new();
    for case in 0..cases() {
        let (method, path, id, body) = &operations[case % operations.len()];
        let mut body = body.clone();
        for change in several.new_tree(&mut runner).unwrap().current() {
            spoil(&mut body, change);
        }
        let mut text = body.to_string();
        if case % 17 == 0 {
            let cut = text.floor_char_boundary(case % text.len().max(1));
            text.truncate(cut);
        }
        let site = 1;
        let url = path
            .replace("{site}", &site.to_string())
            .replace("{date}", "2026-06-10");
        let url = url
            .split('/')
            .map(|part| if part.starts_with('{') { "1" } else { part })
            .collect::<Vec<_>>()
            .join("/");
        let request = api
            .client
            .request(method.clone(), format!("{}{url}", api.base))
            .header("if-match", format!("\"{}\"", 1 + case % 3))
            .header("content-type", "application/json")
            .body(text.clone());
        let id = id.clone();
        running.spawn(async move { (id, text, answered(request).await) });
        let clears = case % 500 == 499;
        // As many at once as there are connections: more would wait for one, and be told so.
        while running.len() >= if clears { 1 } else { 4 } {
            let answered = running.join_next().await.unwrap().unwrap();
            check(&document, &answered);
            answers.push(answered.2);
        }
        if clears {
            clear(&app.pool).await;
        }
    }
    while let Some(answered) = running.join_next().await {
        check(&document, &answered.unwrap());
    }
    // The bodies are neither all nonsense nor all good.
    let share = |wanted: fn(&StatusCode) -> bool| {
        answers.iter().filter(|s| wanted(s)).count() * 100 / answers.len()
    };
    let (good, malformed) = (
        share(StatusCode::is_success),
        share(|s| *s == StatusCode::BAD_REQUEST),
    );
    assert!(
        good >= 3 && malformed >= 20 && good + malformed < 95,
        "{good} % good, {malformed} % malformed"
    );
    println!("{good} % good, {malformed} % malformed");
    // It still plans, and is still who it was.
    let planned = api.send(Method::POST, "/sites/1/plans", Value::Null).await;
    assert_eq!(planned.status(), StatusCode::CREATED);
    assert_eq!(api.json("/session").await["email"], EMAIL);
}

/// The status of an answer. A server on a busy machine may say when to come again (docs/ARCHITECTURE.md): then it is asked again.
async fn answered(request: RequestBuilder) -> StatusCode {
    for _ in 0..30 {
        let again = request.try_clone().expect("its body is at hand");
        let answer = again.send().await.unwrap();
        let later = answer.headers().get("retry-after").cloned();
        match (answer.status(), later) {
            (StatusCode::SERVICE_UNAVAILABLE, Some(seconds)) => {
                let seconds = seconds.to_str().unwrap().parse().unwrap();
                tokio::time::sleep(Duration::from_secs(seconds)).await;
            }
            (status, _) => return status,
        }
    }
    StatusCode::SERVICE_UNAVAILABLE
}

/// What accepted bodies left, but for the rows that the paths name: a million cases would plan over all of it.
async fn clear(pool: &sqlx::PgPool) {
    for statement in [
        "DELETE FROM sign_in_failure",
        "DELETE FROM site WHERE id > 1",
        "DELETE FROM zone WHERE id > 3",
        "DELETE FROM plan WHERE id < (SELECT max(id) FROM plan)",
        "DELETE FROM history WHERE id > 100",
        "DELETE FROM run WHERE id > 5",
        "DELETE FROM gauge_reading WHERE id > 5",
        "DELETE FROM sprinkler_test WHERE id > 5",
        "DELETE FROM head_fault WHERE id > 5",
    ] {
        sqlx::query(statement).execute(pool).await.unwrap();
    }
}

fn check(document: &Value, (id, text, status): &(String, String, StatusCode)) {
    assert!(
        !status.is_server_error(),
        "{id} answered {status} to {text}"
    );
    let operation = document["paths"]
        .as_object()
        .unwrap()
        .values()
        .flat_map(|item| item.as_object().unwrap().values())
        .find(|o| o["operationId"] == *id)
        .unwrap();
    assert!(
        operation["responses"].get(status.as_str()).is_some(),
        "{id} answered {status} to {text}, which its description does not say"
    );
}
