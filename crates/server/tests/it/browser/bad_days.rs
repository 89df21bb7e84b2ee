//! Bad days in the browser: a site that is not planned says so, an address that has an account signs in, a plan that is known is not sent
//! again.

use reqwest::{Method, StatusCode};
use serde_json::json;

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL, PASSWORD, expect};

#[tokio::test]
async fn a_site_that_is_not_planned_says_so_on_morning() {
    let (app, _api, _site) = App::with_dry_zone().await;
    sqlx::query("UPDATE site SET trouble = 'its record cannot be read', trouble_since = '2026-06-18T03:00:00-04:00'")
        .execute(&app.pool)
        .await
        .unwrap();
    for (screen, name) in [
        (Screen::Desk, "trouble-desk"),
        (Screen::Phone, "trouble-phone"),
    ] {
        with_page(&app, screen, name, |page| async move {
            page.sign_in(EMAIL).await;
            page.see("This site has not been planned anew since Thu 18 June, 03:00")
                .await;
            page.is_accessible("Morning of a site in trouble").await;
            page
        })
        .await;
    }
}

#[tokio::test]
async fn an_invited_address_that_has_an_account_signs_in_with_its_own_password() {
    let (app, api, site) = App::with_dry_zone().await;
    app.account("fern@meadow.example").await;
    let invited = api
        .send(
            Method::POST,
            &format!("{site}/invitations"),
            json!({ "name": "Fern", "role": "crew" }),
        )
        .await;
    let token = expect(invited, StatusCode::CREATED).await["token"]
        .as_str()
        .unwrap()
        .to_owned();
    with_page(&app, Screen::Phone, "known", |page| async move {
        page.open(&format!("/invitation#{token}")).await;
        page.fill("Your name", "Fern Sedge").await;
        page.fill("E-mail address", "fern@meadow.example").await;
        page.fill("Password", "a meadow at noon").await;
        page.press("Join").await;
        page.see("This address and this password do not sign in.")
            .await;
        page.is_accessible("invitation of a known address").await;
        page.press("Sign in first").await;
        page.see("Which zones to water").await;
        page.open(&format!("/invitation#{token}")).await;
        page.see("An account was asked for with this link.").await;
        page.is_accessible("invitation with which an account was asked for")
            .await;
        page.press("Sign in").await;
        page.fill("E-mail address", "fern@meadow.example").await;
        page.fill("Password", PASSWORD).await;
        page.press("Sign in").await;
        page.press("Join as Hazel Fern").await;
        page.see("What ran").await;
        page
    })
    .await;
    let people = api.json(&format!("{site}/people")).await;
    assert_eq!(people["members"].as_array().unwrap().len(), 2);
}

#[tokio::test]
async fn a_plan_that_is_known_is_not_sent_again() {
    let (app, _api, _site) = App::with_dry_zone().await;
    with_page(&app, Screen::Desk, "known-plan", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Clover Green").await;
        page.press("Site").await;
        page.press("People").await;
        // Whatever is changed on a site has its views asked again.
        page.fill("Name", "Fern").await;
        page.press("Make a link").await;
        page.see("It works once").await;
        page.press("Morning").await;
        page.see("What ran").await;
        let script = "return performance.getEntriesByType('resource').filter((e) => e.name.endsWith('/plan')).map((e) => e.responseStatus)";
        let asked = || page.client.execute(script, vec![]);
        while asked().await.unwrap().as_array().unwrap().len() < 2 {}
        let statuses = asked().await.unwrap();
        assert_eq!(statuses, json!([200, 304]));
        page.see("Front").await;
        page
    })
    .await;
}
