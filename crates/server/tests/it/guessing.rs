//! Guessing passwords: who guesses is slowed, whoever is at home is not.

use std::net::IpAddr;
use std::process::Stdio;
use std::time::Duration;

use reqwest::{Method, StatusCode};
use serde_json::json;

use crate::harness::{Api, App, EMAIL, PASSWORD, Process, credentials, expect};

/// A client that connects from another address of loopback.
fn from(app: &App, address: &str) -> Api {
    let client = crate::harness::plain()
        .cookie_store(true)
        .local_address(address.parse::<IpAddr>().unwrap())
        .default_headers(app.own_origin())
        .build()
        .unwrap();
    app.api(client)
}

async fn try_as(api: &Api, email: &str, password: &str) -> StatusCode {
    let body = credentials(email, password);
    api.send(Method::POST, "/session", body).await.status()
}

#[tokio::test]
async fn who_guesses_locks_out_nobody_from_another_peer_and_nobody_who_is_at_home() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let home = "127.0.0.1";
    assert_eq!(
        try_as(&from(&app, home), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
    // Five guesses and one more every quarter second, from elsewhere.
    let guesser = from(&app, "127.0.0.2");
    for _ in 0..5 {
        assert_eq!(
            try_as(&guesser, EMAIL, "guess").await,
            StatusCode::UNAUTHORIZED
        );
    }
    for _ in 0..4 {
        assert_eq!(
            try_as(&guesser, EMAIL, "guess").await,
            StatusCode::TOO_MANY_REQUESTS
        );
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    assert_eq!(
        try_as(&guesser, EMAIL, PASSWORD).await,
        StatusCode::TOO_MANY_REQUESTS
    );
    // At home, and from a peer where the account never signed in.
    assert_eq!(
        try_as(&from(&app, home), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
    assert_eq!(
        try_as(&from(&app, "127.0.0.3"), EMAIL, PASSWORD).await,
        StatusCode::OK
    );

    // Invented addresses from one peer: strangers there must wait, who has signed in there before need not.
    let office = "127.0.0.4";
    assert_eq!(
        try_as(&from(&app, office), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
    app.account("rush@meadow.example").await;
    for i in 0..25 {
        let invented = format!("nobody{i}@meadow.example");
        assert_eq!(
            try_as(&from(&app, office), &invented, "guess").await,
            StatusCode::UNAUTHORIZED
        );
    }
    let stranger = try_as(&from(&app, office), "rush@meadow.example", PASSWORD).await;
    assert_eq!(stranger, StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(
        try_as(&from(&app, office), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
    // Who has signed in there is no open door: guesses at that account from there count by themselves.
    for _ in 0..5 {
        assert_eq!(
            try_as(&from(&app, office), EMAIL, "guess").await,
            StatusCode::UNAUTHORIZED
        );
    }
    assert_eq!(
        try_as(&from(&app, office), EMAIL, PASSWORD).await,
        StatusCode::TOO_MANY_REQUESTS
    );
}

#[tokio::test]
async fn many_peers_that_guess_at_one_address_are_slowed_together() {
    let app = App::start().await;
    app.account(EMAIL).await;
    assert_eq!(
        try_as(&from(&app, "127.0.0.1"), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
    let mut looked_at = 0;
    for peer in 2..20 {
        let guesser = from(&app, &format!("127.0.1.{peer}"));
        for _ in 0..4 {
            if try_as(&guesser, EMAIL, "guess").await == StatusCode::UNAUTHORIZED {
                looked_at += 1;
            }
        }
    }
    assert!((50..60).contains(&looked_at), "{looked_at} of 72 guesses");
    assert_eq!(
        try_as(&from(&app, "127.0.0.1"), EMAIL, PASSWORD).await,
        StatusCode::OK
    );
}

#[tokio::test]
async fn many_guesses_at_once_from_one_peer_get_no_further_than_its_limit() {
    let app = App::start().await;
    let mut tasks = tokio::task::JoinSet::new();
    for i in 0..40 {
        let api = app.stranger();
        tasks.spawn(
            async move { try_as(&api, &format!("nobody{i}@meadow.example"), "guess").await },
        );
    }
    let answers = tasks.join_all().await;
    let count = |status| answers.iter().filter(|s| **s == status).count();
    // On a busy machine some may find the database busy; never are more than 25 looked at.
    let busy = count(StatusCode::SERVICE_UNAVAILABLE);
    let looked_at = count(StatusCode::UNAUTHORIZED);
    assert!(looked_at <= 25 && looked_at + busy >= 25, "{answers:?}");
    let late = count(StatusCode::TOO_MANY_REQUESTS);
    assert_eq!(looked_at + busy + late, 40, "{answers:?}");
}

#[tokio::test]
async fn the_current_password_is_guessed_no_faster_than_at_sign_in() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let change = |current: &str| {
        let body = json!({ "current": current, "password": "four dry days" });
        api.send(Method::PUT, "/session/password", body)
    };
    for _ in 0..5 {
        expect(change("guess").await, StatusCode::FORBIDDEN).await;
    }
    let slowed = change(PASSWORD).await;
    assert!(slowed.headers().contains_key("retry-after"));
    expect(slowed, StatusCode::TOO_MANY_REQUESTS).await;
}

#[tokio::test]
async fn a_proxy_is_believed_only_where_the_settings_trust_it() {
    for (trusted, wanted) in [
        (Vec::new(), StatusCode::TOO_MANY_REQUESTS),
        (vec!["127.0.0.1"], StatusCode::OK),
    ] {
        let app = App::start_with(|s| {
            s.trusted_proxies = trusted.iter().map(|t| t.parse().unwrap()).collect();
        })
        .await;
        app.account(EMAIL).await;
        let named = |peer: &'static str, password: &'static str| {
            let api = app.stranger();
            async move {
                let request = api
                    .client
                    .post(format!("{}/session", api.base))
                    .header("x-forwarded-for", peer);
                request
                    .json(&credentials(EMAIL, password))
                    .send()
                    .await
                    .unwrap()
                    .status()
            }
        };
        for _ in 0..5 {
            assert_eq!(
                named("198.51.100.1", "guess").await,
                StatusCode::UNAUTHORIZED
            );
        }
        assert_eq!(
            named("198.51.100.1", PASSWORD).await,
            StatusCode::TOO_MANY_REQUESTS
        );
        assert_eq!(named("198.51.100.2", PASSWORD).await, wanted);
    }
}

/// Sign-ins whose password is changed while it is looked at: none of their sessions lives on.
#[tokio::test]
async fn no_session_of_an_old_password_survives_its_change() {
    let app = App::start().await;
    let account = app.account(EMAIL).await;
    let mut changer = app.sign_in(EMAIL).await;
    let (mut old, mut new) = (PASSWORD.to_owned(), "four dry days".to_owned());
    for round in 0..6 {
        let mut tasks = tokio::task::JoinSet::new();
        for i in 0..6 {
            let peer = from(&app, &format!("127.0.{}.{}", round + 2, i + 1));
            let password = old.clone();
            tasks.spawn(async move {
                let body = credentials(EMAIL, &password);
                let status = peer.send(Method::POST, "/session", body).await.status();
                (peer, status)
            });
        }
        let body = json!({ "current": old, "password": new });
        let changed = changer.send(Method::PUT, "/session/password", body).await;
        assert_eq!(changed.status(), StatusCode::NO_CONTENT);
        for (peer, status) in tasks.join_all().await {
            assert!(
                matches!(status, StatusCode::OK | StatusCode::UNAUTHORIZED),
                "{status}"
            );
            let lives = peer.get("/session").await.status();
            assert_eq!(lives, StatusCode::UNAUTHORIZED, "signed in with {status}");
        }
        let sessions: i64 =
            sqlx::query_scalar("SELECT count(*) FROM session WHERE account_id = $1")
                .bind(account.0)
                .fetch_one(&app.pool)
                .await
                .unwrap();
        assert_eq!(sessions, 1, "the one that changed it");
        std::mem::swap(&mut old, &mut new);
        changer = app.sign_in_as(EMAIL, &old).await;
        sqlx::query("DELETE FROM session WHERE id_hash NOT IN (SELECT id_hash FROM session ORDER BY created_at DESC LIMIT 1)")
            .execute(&app.pool)
            .await
            .unwrap();
    }
}

/// A hundred hashes leave no more memory than the two that go on at once need.
#[tokio::test]
async fn hashes_use_the_same_memory_again() {
    let app = App::start().await;
    let server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let resident_mb = || {
        let status = std::fs::read_to_string(format!("/proc/{}/statm", server.child.id())).unwrap();
        let pages: f64 = status.split(' ').nth(1).unwrap().parse().unwrap();
        pages * 4096.0 / 1e6
    };
    let sign_ins = async |round: usize| {
        let mut tasks = tokio::task::JoinSet::new();
        for i in 0..12 {
            let api = from(&server.app, &format!("127.{round}.0.{}", i + 1));
            tasks.spawn(async move { try_as(&api, "nobody@meadow.example", PASSWORD).await });
        }
        tasks.join_all().await
    };
    sign_ins(1).await;
    let before = resident_mb();
    for round in 2..10 {
        sign_ins(round).await;
        // All from other peers, at an address that is slowed by then.
        sqlx::query("DELETE FROM sign_in_failure")
            .execute(&app.pool)
            .await
            .unwrap();
    }
    let grown = resident_mb() - before;
    assert!(
        grown < 40.0,
        "{grown:.0} MB more after 96 hashes; before, {before:.0} MB"
    );
}
