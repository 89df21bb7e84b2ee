//! What is refused at the door, and what an error looks like wherever it arises.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, EMAIL, NIGHT, PASSWORD, credentials, expect, small_site};

/// A problem as RFC 9457 has it: its media type, and its status the answer's.
pub async fn problem(answer: reqwest::Response, status: StatusCode) -> Value {
    let kind = answer.headers()["content-type"]
        .to_str()
        .unwrap()
        .to_owned();
    let body = expect(answer, status).await;
    assert_eq!(kind, "application/problem+json", "{body}");
    assert_eq!(body["status"], status.as_u16());
    assert!(!body["detail"].as_str().unwrap().is_empty());
    body
}

#[tokio::test]
async fn without_a_public_origin_only_names_of_this_machine_are_served() {
    let app = App::start().await;
    let port = app.address.port();
    let ask = |host: &str, path: &str| {
        let request = crate::harness::plain()
            .build()
            .unwrap()
            .get(format!("http://127.0.0.1:{port}{path}"))
            .header("host", host);
        async move { request.send().await.unwrap() }
    };
    for host in [
        "rebound.example",
        "rebound.example:80",
        "127.0.0.1.rebound.example",
    ] {
        for path in ["/", "/api/v1/session", "/healthz"] {
            problem(ask(host, path).await, StatusCode::MISDIRECTED_REQUEST).await;
        }
    }
    let named = format!("localhost:{port}");
    assert_eq!(ask(&named, "/healthz").await.status(), StatusCode::OK);

    let public =
        App::start_with(|s| s.public_origin = Some("https://lawn.example.org".to_owned())).await;
    let answer = crate::harness::plain()
        .build()
        .unwrap()
        .get(format!("http://{}/healthz", public.address))
        .header("host", "lawn.example.org")
        .send()
        .await
        .unwrap();
    assert_eq!(answer.status(), StatusCode::OK);
}

#[tokio::test]
async fn every_refusal_is_a_problem_whatever_it_is_about() {
    let (app, api, site) = App::with_dry_zone().await;
    let base = app.origin();
    let send = |method: Method, path: &str| {
        let request = api.client.request(method, format!("{base}{path}"));
        async move { request.send().await.unwrap() }
    };
    for (method, path, status) in [
        (Method::GET, "/api/v1/nothing", StatusCode::NOT_FOUND),
        (Method::GET, "/api", StatusCode::NOT_FOUND),
        (Method::GET, "/api/v2/session", StatusCode::NOT_FOUND),
        (
            Method::PATCH,
            "/api/v1/session",
            StatusCode::METHOD_NOT_ALLOWED,
        ),
        (
            Method::DELETE,
            "/api/v1/sites/1",
            StatusCode::METHOD_NOT_ALLOWED,
        ),
        (
            Method::POST,
            "/api/v1/sites/1/plan",
            StatusCode::METHOD_NOT_ALLOWED,
        ),
        (Method::POST, "/readyz", StatusCode::METHOD_NOT_ALLOWED),
        (
            Method::POST,
            "/site/1/morning",
            StatusCode::METHOD_NOT_ALLOWED,
        ),
        (Method::GET, "/api/v1/sites/x/plan", StatusCode::NOT_FOUND),
        (
            Method::PUT,
            "/api/v1/sites/1/zones/x",
            StatusCode::NOT_FOUND,
        ),
        (
            Method::PUT,
            "/api/v1/sites/1/rain-choices/yesterday",
            StatusCode::NOT_FOUND,
        ),
        (
            Method::GET,
            "/api/v1/sites/1/weather",
            StatusCode::BAD_REQUEST,
        ),
        (
            Method::GET,
            "/api/v1/sites/1/weather?from=x&to=y",
            StatusCode::BAD_REQUEST,
        ),
        (
            Method::GET,
            "/api/v1/sites/1/history?before=x",
            StatusCode::BAD_REQUEST,
        ),
        (
            Method::GET,
            "/api/v1/sites/99999999999999999999/plan",
            StatusCode::NOT_FOUND,
        ),
    ] {
        problem(send(method, path).await, status).await;
    }
    let wrong = send(Method::DELETE, &format!("/api/v1{site}/plan")).await;
    assert_eq!(wrong.headers()["allow"], "GET, HEAD");
    let foreign = crate::harness::plain()
        .build()
        .unwrap()
        .post(format!("{base}/api/v1/session"))
        .header("origin", "http://other.example")
        .json(&credentials(EMAIL, PASSWORD))
        .send()
        .await
        .unwrap();
    assert_eq!(foreign.headers()["x-content-type-options"], "nosniff");
    problem(foreign, StatusCode::FORBIDDEN).await;

    let post = |body: &'static str| {
        let request = api
            .client
            .post(format!("{}/session", api.base))
            .header("content-type", "application/json")
            .body(body);
        async move { request.send().await.unwrap() }
    };
    for body in [
        "",
        "{",
        r#"{"email":"a@b","password":"x"} trailing"#,
        r#"{"email":"a@b","password":"x"}{}"#,
        r#"{"email":"a@b"}"#,
        r#"[[[[[[[[[[[[[[[[]]]]"#,
    ] {
        problem(post(body).await, StatusCode::BAD_REQUEST).await;
    }
    let large = api
        .client
        .post(format!("{}/session", api.base))
        .body("x".repeat(2_000_000))
        .send()
        .await
        .unwrap();
    problem(large, StatusCode::PAYLOAD_TOO_LARGE).await;
    let large = api
        .client
        .post(format!("{}{site}/weather-imports/preview", api.base))
        .body("x".repeat(11_000_000))
        .send()
        .await;
    // The server may close before the client has written it all.
    if let Ok(answer) = large {
        problem(answer, StatusCode::PAYLOAD_TOO_LARGE).await;
    }
}

#[tokio::test]
async fn what_can_be_read_can_be_asked_after_and_private_answers_are_kept_by_no_cache() {
    let (app, api, site) = App::with_dry_zone().await;
    for path in ["/readyz", "/healthz", "/api/v1/session", "/"] {
        let url = format!("{}{path}", app.origin());
        let head = api.client.head(&url).send().await.unwrap();
        let get = api.client.get(&url).send().await.unwrap();
        assert_eq!(head.status(), get.status(), "{path}");
        assert_eq!(
            head.headers().get("content-type"),
            get.headers().get("content-type"),
            "{path}"
        );
        assert!(head.bytes().await.unwrap().is_empty(), "{path}");
    }
    for path in [
        "/session",
        "/catalogue",
        &site,
        &format!("{site}/plan"),
        &format!("{site}/runs.csv"),
        "/nothing",
    ] {
        let answer = api.get(path).await;
        assert_eq!(answer.headers()["cache-control"], "no-store", "{path}");
    }
    let refused = app.stranger().get(&site).await;
    assert_eq!(refused.headers()["cache-control"], "no-store");
}

#[tokio::test]
async fn a_plan_is_packed_once_and_sent_again_only_when_it_is_new() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{}{site}/plan", api.base);
    let ask = |accept: &'static str, known: Option<String>| {
        let mut request = api.client.get(&path).header("accept-encoding", accept);
        if let Some(known) = known {
            request = request.header("if-none-match", known);
        }
        async move { request.send().await.unwrap() }
    };
    let plain = ask("identity", None).await;
    let tag = plain.headers()["etag"].to_str().unwrap().to_owned();
    assert!(plain.headers().get("content-encoding").is_none());
    let plain: Value = plain.json().await.unwrap();
    assert_eq!(tag, format!("W/\"{}\"", plain["current"]["id"]));
    let packed = ask("br;q=1, gzip", None).await;
    assert_eq!(packed.headers()["content-encoding"], "gzip");
    assert_eq!(packed.headers()["vary"], "accept-encoding");
    let bytes = packed.bytes().await.unwrap();
    let unpacked: Value =
        serde_json::from_reader(flate2::read::GzDecoder::new(bytes.as_ref())).unwrap();
    assert_eq!(unpacked, plain);
    assert!(
        ask("gzip;q=0", None)
            .await
            .headers()
            .get("content-encoding")
            .is_none()
    );

    let same = ask("gzip", Some(format!("\"x\", {tag}"))).await;
    assert_eq!(same.status(), StatusCode::NOT_MODIFIED);
    assert_eq!(same.headers()["etag"], tag.as_str());
    assert!(same.bytes().await.unwrap().is_empty());
    // Planned again, it is the same plan.
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let same = ask("gzip", Some(tag.clone())).await;
    assert_eq!(same.status(), StatusCode::NOT_MODIFIED);
    let gauge = api
        .send(
            Method::POST,
            &format!("{site}/gauge-readings"),
            serde_json::json!({ "rain_mm": 7.5 }),
        )
        .await;
    assert!(gauge.status().is_success());
    let newer = ask("gzip", Some(tag.clone())).await;
    assert_eq!(newer.status(), StatusCode::OK);
    assert_ne!(newer.headers()["etag"], tag.as_str());
}

#[tokio::test]
async fn more_requests_than_are_let_in_are_told_when_to_go_on() {
    let app = App::start_with(|s| {
        s.account_requests_per_s = 1;
        s.peer_requests_per_s = 3;
    })
    .await;
    for email in [EMAIL, "rush@meadow.example"] {
        app.account(email).await;
    }
    let owner = app.account("owner@meadow.example").await;
    app.site(owner, &small_site(), NIGHT).await;
    let hazel = app.sign_in(EMAIL).await;
    let mut answers = Vec::new();
    for _ in 0..12 {
        answers.push(hazel.get("/session").await);
    }
    let refused = answers
        .iter()
        .filter(|a| a.status() == StatusCode::TOO_MANY_REQUESTS)
        .count();
    assert!((1..=2).contains(&refused), "ten at once, {refused} refused");
    let last = answers.pop().unwrap();
    let wait: u64 = last.headers()["retry-after"]
        .to_str()
        .unwrap()
        .parse()
        .unwrap();
    assert!((1..=10).contains(&wait), "{wait}");
    problem(last, StatusCode::TOO_MANY_REQUESTS).await;
    // Another account goes on, until the peer's own limit.
    let rush = app.sign_in("rush@meadow.example").await;
    assert_eq!(rush.get("/session").await.status(), StatusCode::OK);
    let mut refused = false;
    for _ in 0..40 {
        refused |= app.stranger().get("/session").await.status() == StatusCode::TOO_MANY_REQUESTS;
    }
    assert!(
        refused,
        "thirty at once from one peer, with and without a session"
    );
    let other = crate::harness::plain()
        .local_address("127.0.0.2".parse::<std::net::IpAddr>().ok())
        .build()
        .unwrap();
    let answer = other
        .get(format!("{}/api/v1/session", app.origin()))
        .send()
        .await
        .unwrap();
    assert_eq!(
        answer.status(),
        StatusCode::UNAUTHORIZED,
        "another peer is not held back"
    );
}

/// What the API answers is what its description says: statuses of each operation, by asking each without a session, with nonsense, and as
/// its owner.
#[tokio::test]
async fn the_description_says_the_statuses_that_operations_give() {
    let document = serde_json::to_value(fresh_meadow::api::openapi()).unwrap();
    let (app, api, _) = App::with_dry_zone().await;
    let stranger = app.stranger();
    for (path, item) in document["paths"].as_object().unwrap() {
        for (method, operation) in item.as_object().unwrap() {
            let id = operation["operationId"].as_str().unwrap();
            if ["sign_out", "sign_out_everywhere", "leave_site"].contains(&id) {
                continue;
            }
            for parameter in operation["parameters"].as_array().into_iter().flatten() {
                let name = parameter["name"].as_str().unwrap();
                let wanted = if path.contains(&format!("{{{name}}}")) {
                    "path"
                } else {
                    parameter["in"].as_str().unwrap()
                };
                assert_eq!(parameter["in"], wanted, "{id}: {name}");
            }
            let url = path
                .trim_start_matches("/api/v1")
                .replace("{site}", "1")
                .replace("{date}", "2026-06-10");
            let url = url
                .split('/')
                .map(|part| if part.starts_with('{') { "1" } else { part })
                .collect::<Vec<_>>()
                .join("/");
            let method: Method = method.to_uppercase().parse().unwrap();
            for (who, client) in [("nobody", &stranger), ("the owner", &api)] {
                for body in [
                    Value::Null,
                    json!({ "unknown": 1 }),
                    json!({ "name": "\u{0}" }),
                ] {
                    let answer = client
                        .client
                        .request(method.clone(), format!("{}{url}", client.base))
                        .header("if-match", if body.is_null() { "*" } else { "\"1\"" })
                        .json(&body)
                        .send()
                        .await
                        .unwrap();
                    let status = answer.status();
                    assert!(!status.is_server_error(), "{id} {status}");
                    assert!(
                        operation["responses"].get(status.as_str()).is_some(),
                        "{id} answered {who} with {status}, which its description does not say"
                    );
                    if status.is_client_error() {
                        problem(answer, status).await;
                    }
                }
            }
            for (status, response) in operation["responses"].as_object().unwrap() {
                if status.as_str() >= "400" {
                    assert!(
                        response["content"]
                            .get("application/problem+json")
                            .is_some(),
                        "{id} {status}"
                    );
                }
            }
        }
    }
    // Nothing of that nonsense was kept.
    let zones = api.json("/sites/1/zones").await;
    assert_eq!(zones.as_array().unwrap().len(), 1);
}
