//! Bodies of requests: never unpacked, read once it is known who sends them, given up when they do not come.

use std::io::Write;
use std::time::{Duration, Instant};

use flate2::Compression;
use flate2::write::GzEncoder;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;

use crate::door::problem;
use crate::harness::{App, EMAIL, PASSWORD, PATIENCE, credentials, expect};

/// Sends text as it stands over a connection of its own; what comes back until the server closes it, and how long that took.
async fn raw(app: &App, text: &str) -> (String, Duration) {
    let begun = Instant::now();
    let mut stream = TcpStream::connect(app.address).await.unwrap();
    stream.write_all(text.as_bytes()).await.unwrap();
    let mut answer = Vec::new();
    let read = stream.read_to_end(&mut answer);
    tokio::time::timeout(PATIENCE, read)
        .await
        .expect("the server ends the connection")
        .unwrap();
    (
        String::from_utf8_lossy(&answer).into_owned(),
        begun.elapsed(),
    )
}

#[tokio::test]
async fn packed_bodies_are_refused_before_they_are_unpacked() {
    let app = App::start().await;
    let api = app.stranger();
    // Two hundred megabytes of spaces before a sign-in; well below the largest body while packed.
    let mut bomb = GzEncoder::new(Vec::new(), Compression::best());
    let spaces = vec![b' '; 1024 * 1024];
    for _ in 0..200 {
        bomb.write_all(&spaces).unwrap();
    }
    bomb.write_all(credentials(EMAIL, PASSWORD).to_string().as_bytes())
        .unwrap();
    let bomb = bomb.finish().unwrap();
    assert!(bomb.len() < 300_000);
    for coding in [
        "gzip",
        "br",
        "deflate",
        "zstd",
        "gzip, identity",
        "unheard-of",
    ] {
        let answer = api
            .client
            .post(format!("{}/session", api.base))
            .header("content-encoding", coding)
            .header("content-type", "application/json")
            .body(bomb.clone())
            .send()
            .await
            .unwrap();
        problem(answer, StatusCode::UNSUPPORTED_MEDIA_TYPE).await;
    }
    app.account(EMAIL).await;
    let plain = api
        .client
        .post(format!("{}/session", api.base))
        .header("content-encoding", "identity")
        .json(&credentials(EMAIL, PASSWORD))
        .send()
        .await
        .unwrap();
    assert_eq!(plain.status(), StatusCode::OK);
}

#[tokio::test]
async fn slow_heads_slow_bodies_and_idle_connections_end() {
    let app = App::start_with(|s| s.slow_body_s = 0.3).await;
    app.account(EMAIL).await;
    let host = app.address;
    let head = format!(
        "POST /api/v1/session HTTP/1.1\r\nHost: {host}\r\nOrigin: http://{host}\r\nContent-Type: application/json\r\nContent-Length: 60\r\n\r\n"
    );
    let (answer, took) = raw(&app, &format!("{head}{{\"email\":")).await;
    assert!(answer.starts_with("HTTP/1.1 408 "), "{answer}");
    assert!(answer.contains("application/problem+json"), "{answer}");
    assert!(took < Duration::from_secs(20), "{took:?}");
    // A head that never ends, and a connection that asks nothing more. Both run side by side: each takes its time.
    let ready = format!("GET /healthz HTTP/1.1\r\nHost: {host}\r\n\r\n");
    let (endless, idle) = tokio::join!(
        raw(&app, "GET /healthz HTTP/1.1\r\nHost: x"),
        raw(&app, &ready)
    );
    assert!(
        endless.0.is_empty() || endless.0.starts_with("HTTP/1.1 408"),
        "{}",
        endless.0
    );
    assert!(idle.0.starts_with("HTTP/1.1 200 "), "{}", idle.0);
}

/// A body that is refused costs no connection to the database, though the question whose session this is was under way.
#[tokio::test]
async fn refused_bodies_keep_the_connections_of_the_database() {
    let (app, api, site) = App::with_dry_zone().await;
    let connections = || async {
        sqlx::query_scalar::<_, i32>(
            "SELECT pid FROM pg_stat_activity WHERE application_name = 'fresh-meadow' AND datname = current_database() ORDER BY pid",
        )
        .fetch_all(&app.pool)
        .await
        .unwrap()
    };
    let ask = || api.send(Method::GET, "/session", Value::Null);
    tokio::join!(ask(), ask(), ask());
    let before = connections().await;
    for path in ["plans", "runs", "gauge-readings", "clock-steps"] {
        for body in [
            "{",
            "[1, 2",
            "{\"date\": \"2026-06-10\", \"rain_mm\": \"much\"}",
        ] {
            let answer = api
                .client
                .post(format!("{}{site}/{path}", api.base))
                .header("content-type", "application/json")
                .body(body)
                .send()
                .await
                .unwrap();
            // A plan asks for no body.
            assert!(path == "plans" || answer.status().is_client_error());
        }
    }
    let after = connections().await;
    let kept = before.iter().filter(|pid| after.contains(pid)).count();
    assert_eq!(kept, before.len(), "{before:?}, then {after:?}");
}

/// Sessions that are asked after at the moment, and wait for the table that a test holds.
async fn asked_after(pool: &sqlx::PgPool) -> i64 {
    sqlx::query_scalar(
        "SELECT count(*) FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock'",
    )
    .fetch_one(pool)
    .await
    .unwrap()
}

#[tokio::test]
async fn what_cannot_be_read_is_refused_before_anybody_is_asked_and_a_body_is_read_after_it() {
    let (app, api, site) = App::with_dry_zone().await;
    // Whose session it is cannot be asked at the moment.
    let mut held = app.pool.begin().await.unwrap();
    sqlx::query("LOCK TABLE session IN ACCESS EXCLUSIVE MODE")
        .execute(&mut *held)
        .await
        .unwrap();
    for path in [
        format!("{site}/runs?from=x"),
        format!("{site}/weather?from=2026-06-01"),
        format!("{site}/zones/1/sowing-weeks?hours=never"),
    ] {
        let answer = api.get(&path).await;
        problem(answer, StatusCode::BAD_REQUEST).await;
        assert_eq!(asked_after(&app.pool).await, 0, "{path}");
    }
    // A body waits until it is known who sends it, whether it can be read or not.
    let sent = api.request(Method::POST, &format!("{site}/gauge-readings"));
    let sent = sent.header("content-type", "application/json").body("{");
    let sent = tokio::spawn(async move { sent.send().await.unwrap() });
    let deadline = Instant::now() + PATIENCE;
    while asked_after(&app.pool).await == 0 {
        assert!(
            Instant::now() < deadline,
            "nobody asked whose session it is"
        );
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    assert!(!sent.is_finished());
    held.rollback().await.unwrap();
    problem(sent.await.unwrap(), StatusCode::BAD_REQUEST).await;
}

#[tokio::test]
async fn a_body_that_trickles_in_is_given_up() {
    let app = App::start_with(|s| s.slow_body_s = 1.0).await;
    let (host, owner) = (app.address, app.account(EMAIL).await);
    let api = app.sign_in(EMAIL).await;
    let site = app.dry_zone(owner, &api).await;
    let noted = json!({ "seen": { "seen": "footprints" }, "idempotency_key": "wilt-00001" });
    let noted = api
        .send(Method::POST, &format!("{site}/zones/1/seen"), noted)
        .await;
    let id = expect(noted, StatusCode::CREATED).await["id"].clone();
    let session = app.session(EMAIL).await;
    let head = format!(
        "PUT /api/v1{site}/seen/{id}/photo HTTP/1.1\r\nHost: {host}\r\nOrigin: http://{host}\r\nCookie: {session}\r\nContent-Length: 1000000\r\n\r\n"
    );
    let mut stream = TcpStream::connect(host).await.unwrap();
    stream.write_all(head.as_bytes()).await.unwrap();
    let (mut answers, mut asks) = stream.into_split();
    // A byte comes often enough, but they come to nothing.
    let trickle = tokio::spawn(async move {
        while asks.write_all(b"x").await.is_ok() {
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    });
    let mut answer = Vec::new();
    let read = answers.read_to_end(&mut answer);
    // Where the server has closed first, what was still on its way is an error.
    let _ = tokio::time::timeout(PATIENCE, read)
        .await
        .expect("the server gives up");
    let answer = String::from_utf8_lossy(&answer);
    assert!(answer.starts_with("HTTP/1.1 408 "), "{answer}");
    trickle.abort();
}
