//! A published week on the phone: put in force, withdrawn, by rule; and a viewer, who sees it and cannot touch it.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use super::Screen;
use super::page::with_page;
use crate::controllers::connected;
use crate::edits::planned;
use crate::harness::{EMAIL, expect};
use crate::liars::{line, published};
use crate::publications::publish;
use crate::rounds::step;

#[tokio::test]
async fn a_week_is_published_withdrawn_and_published_each_morning_on_the_phone() {
    let (app, api, site, _) = planned().await;
    with_page(&app, Screen::Phone, "publishing", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.see("Nothing is published").await;
        page.press("Publish").await;
        page.press("Publish this week").await;
        page.see("it runs up to Wed 24 June").await;
        page.fits("a published week").await;
        page.press("What is published").await;
        page.press_label("Publish each morning by itself, with the day’s first plan")
            .await;
        page.is_accessible("what is published").await;
        page.fits("what is published").await;
        page.press("Withdraw it").await;
        page.press("Close the published week").await;
        page.see("Nothing is published").await;
        page
    })
    .await;
    let is = api.json(&format!("{site}/publishing")).await;
    assert_eq!(
        (&is["each_morning"], &is["published"]),
        (&json!(true), &json!(null))
    );
}

#[tokio::test]
async fn a_viewer_sees_what_is_published_and_cannot_touch_it() {
    let (app, api, site, day) = planned().await;
    let viewer = app.account("clover@meadow.example").await;
    let id = site.trim_start_matches("/sites/").parse().unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(id), viewer, "viewer")
        .await
        .unwrap();
    publish(&api, &site, "viewer").await;
    let skip = json!({ "act": { "kind": "skip" }, "date": day, "reason": "a fair", "idempotency_key": "viewer-skip" });
    let sent = api
        .send(Method::POST, &format!("{site}/zones/1/edits"), skip)
        .await;
    expect(sent, StatusCode::CREATED).await;
    with_page(&app, Screen::Desk, "publishing-viewer", |page| async move {
        page.sign_in("clover@meadow.example").await;
        page.see("What runs is the published week.").await;
        page.press("See what changed").await;
        page.press("What changed").await;
        page.see("What the newest plan changes of it").await;
        for hidden in [
            "Publish the newest plan",
            "Withdraw it",
            "Undo",
            "Change, Front",
        ] {
            page.gone(&format!(
                "//button[normalize-space(.)='{hidden}' or @aria-label='{hidden}']"
            ))
            .await;
        }
        page.press("Close the published week").await;
        // Keys do no more than buttons.
        page.client
            .execute(
                "document.querySelector('[role=grid] [tabindex=\"0\"]').focus()",
                vec![],
            )
            .await
            .unwrap();
        page.keys("s").await;
        page.see("This day of the zone is not changed by hand.")
            .await;
        page
    })
    .await;
}

#[tokio::test]
async fn what_the_controller_holds_and_what_it_missed_is_said_on_the_phone() {
    let (app, api, site, _, standin) = connected("screens").await;
    publish(&api, &site, "first").await;
    standin.mood("refuse").await;
    publish(&api, &site, "second").await;
    with_page(&app, Screen::Phone, "controller", |page| async move {
        page.sign_in(EMAIL).await;
        let other = "The controller holds another week than the one published: it answered with status 503.";
        page.see(other).await;
        page.press("Week").await;
        page.see(other).await;
        page.press("What is published").await;
        page.see("It is tried again, and nothing is sent late.").await;
        page.is_accessible("a controller that holds another week").await;

        // A night on, its valve did not open: Morning, the published week and the record say so.
        standin.mood("fine").await;
        standin.stick("1").await;
        step(&api, &site, 1).await;
        page.open(&format!("{}/morning", site.replace("sites", "site"))).await;
        page.see("The controller did not run all that was published.").await;
        page.see("did not run, the controller says").await;
        // What did not run has to be made up for: the newest plan is another.
        page.press("See what changed").await;
        page.press("What changed").await;
        page.see("the controller did not run all of it").await;
        page.see("What is missing is not sent late; the plan counts on it no more.").await;
        page.see("nothing flowed while its valve was open").await;
        page.see("It holds the published week and runs it.").await;
        page.is_accessible("a controller that missed a pass").await;
        page.fits("a controller that missed a pass").await;
        page
    })
    .await;
}

#[tokio::test]
async fn lines_of_a_controller_that_cannot_be_so_are_said_on_the_week() {
    let (app, api, site, day, liar) = published().await;
    step(&api, &site, 1).await;
    let sent = liar.sent();
    let stopped = |number, pass: &Value, seconds: i64| {
        line(number, pass, "stopped", &json!({ "seconds": seconds }))
    };
    liar.tells(vec![
        stopped(1, &sent[0], i64::from(i32::MAX)),
        stopped(2, &sent[0], -5),
        stopped(3, &sent[1], sent[1]["seconds"].as_i64().unwrap()),
        stopped(4_000_000_000, &sent[0], 60),
    ]);
    liar.heard(&app).await;
    // A run of an earlier version's.
    sqlx::query("UPDATE run SET run_s = 2147483647 WHERE source = 'controller' AND voided_at IS NULL AND date = $1::date")
        .bind(&day)
        .execute(&app.pool)
        .await
        .unwrap();
    for screen in [Screen::Desk, Screen::Phone] {
        with_page(&app, screen, "liar", |page| async move {
            page.sign_in(EMAIL).await;
            page.press("Week").await;
            page.see("The controller put a run into the record that cannot be so.")
                .await;
            page.press("What changed").await;
            page.see("3 lines of its log cannot be so and are left out of the record")
                .await;
            page.see("That cannot be so. What is so?").await;
            page.is_accessible(&format!("a controller that cannot be right, {screen:?}"))
                .await;
            page
        })
        .await;
    }
    with_page(&app, Screen::Desk, "liar-answered", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("What changed").await;
        page.tap("It ran ").await;
        page.gone("//*[contains(text(), 'What is so?')]").await;
        page.press("I have looked at them").await;
        page.gone("//*[contains(text(), 'lines of its log')]").await;
        page
    })
    .await;
    // One that was replaced, and does not say so.
    liar.tells(vec![line(1, &sent[0], "missed", &json!({}))]);
    liar.heard(&app).await;
    with_page(&app, Screen::Phone, "replaced", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("What is published").await;
        page.press("It was replaced by another").await;
        page.gone("//button[.='It was replaced by another']").await;
        page
    })
    .await;
}
