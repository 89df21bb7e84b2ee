//! People: roles, leaving, passwords, and what slows a guesser.

use std::io::Write;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, NIGHT, PASSWORD, credentials, expect, small_site};
use crate::invitations::{invite, join, with_site};

#[tokio::test]
async fn the_first_account_is_made_on_the_command_line() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let add = |email: &str, password: &str, more: &[&str]| {
        let mut child = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .args(["account", "add", "--email", email, "--name", "Rush Teasel"])
            .args(more)
            .env("FRESH_MEADOW_DATABASE_URL", &app.database_url)
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            .stderr(Stdio::piped())
            .spawn()
            .unwrap();
        let mut stdin = child.stdin.take().unwrap();
        // A refused command may not wait for it.
        let _ = writeln!(stdin, "{password}");
        drop(stdin);
        let output = child.wait_with_output().unwrap();
        (
            output.status.code(),
            String::from_utf8(output.stderr).unwrap(),
        )
    };
    let id = site.0.to_string();
    let crew = ["--site", id.as_str(), "--role", "crew"];
    assert_eq!(
        add("rush@meadow.example", PASSWORD, &crew),
        (Some(0), String::new())
    );
    let rush = app.sign_in("rush@meadow.example").await;
    assert_eq!(rush.json("/session").await["sites"][0]["role"], "crew");
    for (email, password, more, said) in [
        (
            "rush@meadow.example",
            PASSWORD,
            &[][..],
            "has an account already",
        ),
        (
            "other@meadow.example",
            "short",
            &[][..],
            "password: a password has 10",
        ),
        ("nowhere", PASSWORD, &[][..], "email: \"nowhere\" is not"),
        (
            "other@meadow.example",
            PASSWORD,
            &["--site", "99", "--role", "crew"][..],
            "there is no site 99",
        ),
        (
            "other@meadow.example",
            PASSWORD,
            &["--site", "1"][..],
            "--role",
        ),
    ] {
        let (code, stderr) = add(email, password, more);
        assert_eq!(code, Some(2), "{stderr}");
        assert!(
            stderr.contains(said) && stderr.lines().count() == 1,
            "{stderr}"
        );
    }
}

#[tokio::test]
async fn the_last_owner_stays_and_a_removed_member_is_signed_out_everywhere() {
    let (app, owner, site) = with_site().await;
    let token = invite(&owner, &site, "crew").await;
    let (fern, _) = join(&app, &token, "fern@meadow.example").await;
    let people = owner.json(&format!("{site}/people")).await;
    let account = |name: &str| {
        let members = people["members"].as_array().unwrap();
        members.iter().find(|m| m["name"] == name).unwrap()["account"].clone()
    };
    let (me, her) = (account("Hazel Fern"), account("Fern Sedge"));
    for (method, path, body) in [
        (Method::DELETE, format!("{site}/membership"), Value::Null),
        (Method::DELETE, format!("{site}/people/{me}"), Value::Null),
        (
            Method::PUT,
            format!("{site}/people/{me}"),
            json!({ "role": "crew" }),
        ),
    ] {
        let said = expect(owner.send(method, &path, body).await, StatusCode::CONFLICT).await;
        assert!(
            said["detail"].as_str().unwrap().contains("only owner"),
            "{said}"
        );
    }
    assert_eq!(fern.get(&site).await.status(), StatusCode::OK);
    let removed = owner
        .send(Method::DELETE, &format!("{site}/people/{her}"), Value::Null)
        .await;
    assert_eq!(removed.status(), StatusCode::NO_CONTENT);
    // Her old cookie.
    assert_eq!(
        fern.get("/session").await.status(),
        StatusCode::UNAUTHORIZED
    );

    let history = owner.json(&format!("{site}/history")).await;
    let events: Vec<&str> = history["entries"]
        .as_array()
        .unwrap()
        .iter()
        .map(|e| e["what"]["event"].as_str().unwrap())
        .collect();
    assert_eq!(events, ["removed", "joined", "invited"]);
    assert_eq!(history["entries"][1]["who"], "Fern Sedge");
}

#[tokio::test]
async fn two_owners_who_leave_at_once_leave_one() {
    let (app, owner, site) = with_site().await;
    let second = app.account("rush@meadow.example").await;
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(1), second, "owner")
        .await
        .unwrap();
    let rush = app.sign_in("rush@meadow.example").await;
    let path = format!("{site}/membership");
    let (a, b) = tokio::join!(
        owner.send(Method::DELETE, &path, Value::Null),
        rush.send(Method::DELETE, &path, Value::Null),
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::NO_CONTENT, StatusCode::CONFLICT]);
}

#[tokio::test]
async fn a_new_password_ends_the_other_sessions() {
    let (app, here, _) = with_site().await;
    let there = app.sign_in(EMAIL).await;
    let wrong = json!({ "current": "not this one", "password": "four dry days" });
    expect(
        here.send(Method::PUT, "/session/password", wrong).await,
        StatusCode::FORBIDDEN,
    )
    .await;
    assert_eq!(there.get("/session").await.status(), StatusCode::OK);
    let right = json!({ "current": PASSWORD, "password": "four dry days" });
    let changed = here.send(Method::PUT, "/session/password", right).await;
    assert_eq!(changed.status(), StatusCode::NO_CONTENT);
    assert_eq!(
        here.get("/session").await.status(),
        StatusCode::OK,
        "the one that changed it goes on"
    );
    assert_eq!(
        there.get("/session").await.status(),
        StatusCode::UNAUTHORIZED
    );
    let old = app
        .stranger()
        .send(Method::POST, "/session", credentials(EMAIL, PASSWORD))
        .await;
    assert_eq!(old.status(), StatusCode::UNAUTHORIZED);

    let gone = here.send(Method::DELETE, "/sessions", Value::Null).await;
    assert_eq!(gone.status(), StatusCode::NO_CONTENT);
    assert_eq!(
        here.get("/session").await.status(),
        StatusCode::UNAUTHORIZED
    );
}

#[tokio::test]
async fn the_sixth_quick_attempt_is_slowed_known_address_or_not() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.stranger();
    for email in [EMAIL, "nobody@meadow.example"] {
        for _ in 0..5 {
            let answer = api
                .send(Method::POST, "/session", credentials(email, "guess"))
                .await;
            assert_eq!(answer.status(), StatusCode::UNAUTHORIZED);
        }
        let sixth = api
            .send(Method::POST, "/session", credentials(email, PASSWORD))
            .await;
        let wait: u64 = sixth.headers()["retry-after"]
            .to_str()
            .unwrap()
            .parse()
            .unwrap();
        assert!((1..=5).contains(&wait), "{wait}");
        expect(sixth, StatusCode::TOO_MANY_REQUESTS).await;
    }
    // Once the wait is over the right password works, and clears the count.
    sqlx::query("UPDATE sign_in_failure SET at = at - interval '5 seconds'")
        .execute(&app.pool)
        .await
        .unwrap();
    let right = api
        .send(Method::POST, "/session", credentials(EMAIL, PASSWORD))
        .await;
    assert_eq!(right.status(), StatusCode::OK);
    let left: i64 = sqlx::query_scalar("SELECT count(*) FROM sign_in_failure WHERE email = $1")
        .bind(EMAIL)
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(left, 0);
}

#[tokio::test]
async fn many_guesses_at_once_get_no_further_than_five() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let guesses = (0..12).map(|_| {
        let api = app.stranger();
        async move {
            api.send(Method::POST, "/session", credentials(EMAIL, "guess"))
                .await
                .status()
        }
    });
    let mut tasks = tokio::task::JoinSet::new();
    for guess in guesses {
        tasks.spawn(guess);
    }
    let answers = tasks.join_all().await;
    let looked_at = answers
        .iter()
        .filter(|s| **s == StatusCode::UNAUTHORIZED)
        .count();
    assert_eq!(looked_at, 5, "{answers:?}");
}

/// Not a timed test: the two kinds of failure are taken in turns, and their medians may differ by no more than a factor of two, where a
/// skipped hash would be a factor of ten.
#[tokio::test]
async fn an_unknown_address_takes_as_long_as_a_wrong_password() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.stranger();
    let mut times: [Vec<Duration>; 2] = [Vec::new(), Vec::new()];
    for round in 0..7 {
        for (kind, email) in [EMAIL, "nobody@meadow.example"].into_iter().enumerate() {
            let begin = Instant::now();
            api.send(Method::POST, "/session", credentials(email, "guess"))
                .await;
            if round > 0 {
                times[kind].push(begin.elapsed());
            }
            sqlx::query("DELETE FROM sign_in_failure")
                .execute(&app.pool)
                .await
                .unwrap();
        }
    }
    let [known, unknown] = times.map(|mut t| {
        t.sort();
        t[t.len() / 2].as_secs_f64()
    });
    let ratio = known / unknown;
    assert!((0.5..2.0).contains(&ratio), "{ratio}");
}

/// A token that a manager made for a station.
async fn station(api: &Api, site: &str, name: &str) -> String {
    let made = api
        .send(
            Method::POST,
            &format!("{site}/device-tokens"),
            json!({ "name": name }),
        )
        .await;
    let made = expect(made, StatusCode::CREATED).await;
    made["token"].as_str().unwrap().to_owned()
}

/// What a station is answered that sends a day of heavy rain.
async fn sends(app: &App, site: &str, token: &str) -> StatusCode {
    let url = format!("{}/api/v1{site}/weather-days", app.origin());
    let sent = crate::harness::plain().build().unwrap().post(url);
    let sent = sent
        .bearer_auth(token)
        .header("content-type", "text/csv")
        .body("date,tmin_c,tmax_c,rain_mm\n2026-06-16,17,31,40\n");
    sent.send().await.unwrap().status()
}

#[tokio::test]
async fn the_tokens_of_who_manages_no_more_end_or_are_taken_over() {
    let (app, owner, site) = App::with_dry_zone().await;
    for (n, lowered, taken_over) in [
        (0, false, false),
        (1, true, false),
        (2, false, true),
        (3, true, true),
    ] {
        let email = format!("fern{n}@meadow.example");
        let fern = app.manager(&email, &site).await;
        let token = station(&fern, &site, &format!("Roof {n}")).await;
        let taken = sends(&app, &site, &token).await;
        assert!(taken.is_success(), "{taken}");
        let listed = owner.json(&format!("{site}/device-tokens")).await;
        let listed = listed.as_array().unwrap().last().unwrap().clone();
        assert_eq!(listed["made_by"], "Hazel Fern");
        assert_ne!(listed["last_used_at"], Value::Null);
        let member = format!("{site}/people/{}", listed["maker"]);
        let tokens = if taken_over { "take_over" } else { "end" };
        let done = if lowered {
            let given = json!({ "role": "crew", "tokens": tokens });
            owner.send(Method::PUT, &member, given).await
        } else {
            let member = match taken_over {
                true => format!("{member}?tokens={tokens}"),
                false => member,
            };
            owner.request(Method::DELETE, &member).send().await.unwrap()
        };
        assert_eq!(done.status(), StatusCode::NO_CONTENT);
        let after = sends(&app, &site, &token).await;
        assert_eq!(after.is_success(), taken_over, "{after}");
        if !taken_over {
            assert_eq!(after, StatusCode::UNAUTHORIZED);
        }
    }
    let history = owner.json(&format!("{site}/history")).await.to_string();
    for event in ["devices_ended", "devices_taken_over"] {
        assert_eq!(history.matches(event).count(), 2, "{history}");
    }
    // Who leaves cannot say that another answers for them.
    let fern = app.manager("fern@meadow.example", &site).await;
    let token = station(&fern, &site, "Shed").await;
    let left = fern
        .request(Method::DELETE, &format!("{site}/membership"))
        .send()
        .await
        .unwrap();
    assert_eq!(left.status(), StatusCode::NO_CONTENT);
    assert_eq!(sends(&app, &site, &token).await, StatusCode::UNAUTHORIZED);
}
