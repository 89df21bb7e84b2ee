//! Invitations: links that work once, for whom, how long, and what they tell.

use std::time::{Duration, Instant};

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, NIGHT, PASSWORD, credentials, expect, small_site};

pub async fn with_site() -> (App, Api, String) {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    (app, api, format!("/sites/{}", site.0))
}

/// The token of a new invitation.
pub async fn invite(api: &Api, site: &str, role: &str) -> String {
    let body = json!({ "name": "Fern", "role": role });
    let answer = api
        .send(Method::POST, &format!("{site}/invitations"), body)
        .await;
    expect(answer, StatusCode::CREATED).await["token"]
        .as_str()
        .unwrap()
        .to_owned()
}

const ACCEPTANCE: &str = "/invitation/acceptance";
/// The password of [`new_account`].
const NOON: &str = "a meadow at noon";

fn new_account(email: &str) -> Value {
    json!({ "account": { "name": "Fern Sedge", "email": email, "password": NOON } })
}

/// Accepts an invitation as a new account: asks for it, signs in, joins.
pub async fn join(app: &App, token: &str, email: &str) -> (Api, Value) {
    let api = app.stranger().holding(token);
    let asked = api.send(Method::POST, ACCEPTANCE, new_account(email)).await;
    expect(asked, StatusCode::ACCEPTED).await;
    let signed_in = api
        .send(Method::POST, "/session", credentials(email, NOON))
        .await;
    expect(signed_in, StatusCode::OK).await;
    let me = expect(
        api.send(Method::POST, ACCEPTANCE, json!({})).await,
        StatusCode::OK,
    )
    .await;
    (api, me)
}

#[tokio::test]
async fn an_invitation_works_once_and_gives_its_role() {
    let (app, owner, site) = with_site().await;
    let token = invite(&owner, &site, "crew").await;
    let fern = app.stranger().holding(&token);
    let offer = fern.json("/invitation").await;
    assert_eq!(
        (&offer["site"], &offer["role"]),
        (&json!("Clover Green"), &json!("crew"))
    );

    let acceptance = "/invitation/acceptance";
    let short = json!({ "account": { "name": "Fern", "email": "fern@meadow.example", "password": "short" } });
    let refused = expect(
        fern.send(Method::POST, acceptance, short).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(refused["field"], "account.password");
    let (fern, me) = join(&app, &token, "fern@meadow.example").await;
    assert_eq!(me["sites"][0]["role"], "crew");
    assert_eq!(fern.json("/session").await["email"], "fern@meadow.example");

    let late = app.stranger().holding(&token);
    let again = late
        .send(Method::POST, acceptance, new_account("late@meadow.example"))
        .await;
    expect(again, StatusCode::NOT_FOUND).await;
    assert_eq!(
        late.holding(&token).get("/invitation").await.status(),
        StatusCode::NOT_FOUND
    );
    let kept: i64 =
        sqlx::query_scalar("SELECT count(*) FROM account WHERE email = 'late@meadow.example'")
            .fetch_one(&app.pool)
            .await
            .unwrap();
    assert_eq!(kept, 0, "a refused acceptance leaves no account");
    let stored: Vec<u8> = sqlx::query_scalar("SELECT token_hash FROM invitation")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_ne!(stored, token.as_bytes(), "the token itself is not kept");
}

#[tokio::test]
async fn of_two_who_accept_at_once_one_joins() {
    let (app, owner, site) = with_site().await;
    let token = invite(&owner, &site, "viewer").await;
    let (a, b) = (
        app.stranger().holding(&token),
        app.stranger().holding(&token),
    );
    let (a, b) = tokio::join!(
        a.send(Method::POST, ACCEPTANCE, new_account("a@meadow.example")),
        b.send(Method::POST, ACCEPTANCE, new_account("b@meadow.example")),
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::ACCEPTED, StatusCode::NOT_FOUND]);

    // Two who have accounts, and one who opens the link twice at once.
    for (emails, mut wanted) in [
        (
            ["c@meadow.example", "d@meadow.example"],
            [StatusCode::OK, StatusCode::NOT_FOUND],
        ),
        (
            ["e@meadow.example", "e@meadow.example"],
            [StatusCode::OK, StatusCode::NOT_FOUND],
        ),
    ] {
        let token = invite(&owner, &site, "viewer").await;
        let mut readers = Vec::new();
        for (i, email) in emails.into_iter().enumerate() {
            if i == 0 || email != emails[0] {
                app.account(email).await;
            }
            readers.push(app.sign_in(email).await.holding(&token));
        }
        let (a, b) = tokio::join!(
            readers[0].send(Method::POST, ACCEPTANCE, json!({})),
            readers[1].send(Method::POST, ACCEPTANCE, json!({})),
        );
        let mut got = [a.status(), b.status()];
        got.sort();
        wanted.sort();
        assert_eq!(got, wanted);
    }
    // Two links of one site at once: one of them joins, the other finds a member.
    let (first, second) = (
        invite(&owner, &site, "viewer").await,
        invite(&owner, &site, "crew").await,
    );
    app.account("f@meadow.example").await;
    let api = app.sign_in("f@meadow.example").await;
    let (a, b) = (api.holding(&first), api.holding(&second));
    let (a, b) = tokio::join!(
        a.send(Method::POST, ACCEPTANCE, json!({})),
        b.send(Method::POST, ACCEPTANCE, json!({})),
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::OK, StatusCode::CONFLICT]);
}

#[tokio::test]
async fn a_revoked_or_old_link_is_dead_and_one_who_is_signed_in_joins_as_themselves() {
    let (app, owner, site) = with_site().await;
    let token = invite(&owner, &site, "crew").await;
    let people = owner.json(&format!("{site}/people")).await;
    let id = &people["invitations"][0]["id"];
    let answer = owner
        .send(
            Method::DELETE,
            &format!("{site}/invitations/{id}"),
            Value::Null,
        )
        .await;
    assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    assert_eq!(
        app.stranger()
            .holding(&token)
            .get("/invitation")
            .await
            .status(),
        StatusCode::NOT_FOUND
    );

    let token = invite(&owner, &site, "crew").await;
    sqlx::query(
        "UPDATE invitation SET expires_at = now() - interval '1 second' WHERE revoked_at IS NULL",
    )
    .execute(&app.pool)
    .await
    .unwrap();
    assert_eq!(
        app.stranger()
            .holding(&token)
            .get("/invitation")
            .await
            .status(),
        StatusCode::NOT_FOUND
    );

    let token = invite(&owner, &site, "manager").await;
    let path = "/invitation/acceptance";
    expect(
        app.stranger()
            .holding(&token)
            .send(Method::POST, path, json!({}))
            .await,
        StatusCode::UNAUTHORIZED,
    )
    .await;
    app.account("rush@meadow.example").await;
    let rush = app.sign_in("rush@meadow.example").await.holding(&token);
    let me = expect(
        rush.send(Method::POST, path, json!({})).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(me["sites"][0]["role"], "manager");
}

#[tokio::test]
async fn a_link_dies_with_the_ownership_of_who_made_it() {
    let (app, owner, site) = with_site().await;
    let id = fresh_meadow::db::SiteId(1);
    for (way, email) in [
        ("removed", "a@meadow.example"),
        ("demoted", "b@meadow.example"),
        ("left", "c@meadow.example"),
    ] {
        let account = app.account(email).await;
        fresh_meadow::db::sites::add_member(&app.pool, id, account, "owner")
            .await
            .unwrap();
        let second = app.sign_in(email).await;
        let token = invite(&second, &site, "owner").await;
        let holder = app.stranger().holding(&token);
        assert_eq!(
            holder.get("/invitation").await.status(),
            StatusCode::OK,
            "{way}"
        );
        let member = format!("{site}/people/{}", account.0);
        let done = match way {
            "removed" => owner.send(Method::DELETE, &member, Value::Null).await,
            "demoted" => {
                owner
                    .send(Method::PUT, &member, json!({ "role": "manager" }))
                    .await
            }
            _ => {
                second
                    .send(Method::DELETE, &format!("{site}/membership"), Value::Null)
                    .await
            }
        };
        assert_eq!(done.status(), StatusCode::NO_CONTENT, "{way}");
        // By their own link they do not come back, nor does anybody else by it.
        let again = app.sign_in(email).await.holding(&token);
        let answer = again.send(Method::POST, ACCEPTANCE, json!({})).await;
        expect(answer, StatusCode::NOT_FOUND).await;
        let claimed = holder
            .send(Method::POST, ACCEPTANCE, new_account("d@meadow.example"))
            .await;
        expect(claimed, StatusCode::NOT_FOUND).await;
        // Also not once they are owners again.
        sqlx::query("INSERT INTO membership VALUES (1, $1, 'owner') ON CONFLICT (site_id, account_id) DO UPDATE SET role = 'owner'")
            .bind(account.0)
            .execute(&app.pool)
            .await
            .unwrap();
        assert_eq!(
            holder.get("/invitation").await.status(),
            StatusCode::NOT_FOUND,
            "{way}"
        );
    }
}

#[tokio::test]
async fn accepting_does_not_tell_who_has_an_account() {
    let (app, owner, site) = with_site().await;
    app.account("known@meadow.example").await;
    let mut seen = Vec::new();
    for email in ["known@meadow.example", "new@meadow.example"] {
        let token = invite(&owner, &site, "crew").await;
        let holder = app.stranger().holding(&token);
        let asked = holder
            .send(Method::POST, ACCEPTANCE, new_account(email))
            .await;
        let mut headers: Vec<String> = asked.headers().keys().map(ToString::to_string).collect();
        headers.sort();
        let answer = (asked.status(), headers, asked.text().await.unwrap());
        let offer = holder.json("/invitation").await;
        // The same again, another address, and no session by it.
        let again = holder
            .send(Method::POST, ACCEPTANCE, new_account(email))
            .await
            .status();
        let other = holder
            .send(
                Method::POST,
                ACCEPTANCE,
                new_account("other@meadow.example"),
            )
            .await
            .status();
        let session = holder.get("/session").await.status();
        assert_eq!(
            (again, other, session),
            (
                StatusCode::ACCEPTED,
                StatusCode::NOT_FOUND,
                StatusCode::UNAUTHORIZED
            )
        );
        assert_eq!(offer["claimed"], true);
        seen.push(answer);
    }
    assert_eq!(seen[0], seen[1]);
    // What the account had is as it was: its own password signs in, the one that the link's holder made up does not.
    let stranger = app.stranger();
    let made_up = stranger
        .send(
            Method::POST,
            "/session",
            credentials("known@meadow.example", NOON),
        )
        .await;
    expect(made_up, StatusCode::UNAUTHORIZED).await;
    let own = stranger
        .send(
            Method::POST,
            "/session",
            credentials("known@meadow.example", PASSWORD),
        )
        .await;
    expect(own, StatusCode::OK).await;
}

/// Not a timed test: a stranger without a link costs far less than a hash.
#[tokio::test]
async fn without_a_link_nothing_is_hashed() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.stranger();
    let mut times: [Vec<Duration>; 2] = [Vec::new(), Vec::new()];
    for round in 0..6 {
        let stranger = api.holding(&"0".repeat(64));
        let begun = Instant::now();
        let answer = stranger
            .send(Method::POST, ACCEPTANCE, new_account("x@meadow.example"))
            .await;
        expect(answer, StatusCode::NOT_FOUND).await;
        let looked = begun.elapsed();
        let begun = Instant::now();
        api.send(Method::POST, "/session", credentials(EMAIL, "guess"))
            .await;
        let hashed = begun.elapsed();
        sqlx::query("DELETE FROM sign_in_failure")
            .execute(&app.pool)
            .await
            .unwrap();
        if round > 0 {
            times[0].push(looked);
            times[1].push(hashed);
        }
    }
    let [looked, hashed] = times.map(|mut t| {
        t.sort();
        t[t.len() / 2]
    });
    assert!(
        looked * 2 < hashed,
        "{looked:?} against {hashed:?} with a hash"
    );
}
