//! People in the browser: invite, accept, and a viewer's screens without edit controls.

use fantoccini::Locator;

use super::Screen;
use super::page::{Page, with_page};
use crate::harness::{App, EMAIL};

/// The link that the page shows.
async fn link(page: &Page) -> String {
    page.see("It works once").await;
    page.value("Link for Fern").await
}

async fn texts(page: &Page, css: &str) -> Vec<String> {
    let mut texts = Vec::new();
    for element in page.client.find_all(Locator::Css(css)).await.unwrap() {
        if element.is_displayed().await.unwrap() {
            let label = element.attr("aria-label").await.unwrap();
            texts.push(match label {
                Some(label) => label,
                None => element.text().await.unwrap(),
            });
        }
    }
    texts
}

#[tokio::test]
async fn a_viewer_is_invited_accepts_and_reads_without_edit_controls() {
    let app = App::with_demo().await;
    let owner = app.account(EMAIL).await;
    let site = fresh_meadow::db::SiteId(1);
    fresh_meadow::db::sites::add_member(&app.pool, site, owner, "owner")
        .await
        .unwrap();
    let (sender, receiver) = tokio::sync::oneshot::channel();
    with_page(&app, Screen::Desk, "invite", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings?tab=people").await;
        page.fill("Name", "Fern").await;
        page.choose("Role", "Viewer: reads").await;
        page.press("Make a link").await;
        sender.send(link(&page).await).unwrap();
        page.see("open for 7 days").await;
        page.is_accessible("people").await;
        page
    })
    .await;
    let url = receiver.await.unwrap();

    with_page(&app, Screen::Phone, "viewer", |page| async move {
        page.client.goto(&url).await.unwrap();
        page.see("to look after the watering here, as viewer").await;
        page.is_accessible("invitation").await;
        page.fill("Your name", "Fern Sedge").await;
        page.fill("E-mail address", "fern@meadow.example").await;
        page.fill("Password", "short").await;
        page.press("Join").await;
        page.see("a password has 10 to 200 characters").await;
        page.fill("Password", "a meadow at noon").await;
        page.press("Join").await;
        page.see("What ran").await;

        // Nothing on Morning asks to be said, noted or planned.
        let buttons = texts(&page, "main button").await;
        let reads = ["Why", "More", "reference ET"];
        assert!(
            buttons
                .iter()
                .all(|b| reads.iter().any(|r| b.starts_with(r))),
            "{buttons:?}"
        );
        page.see("assumed from the plan").await;
        for (tab, words) in [
            ("zones", "Orchard walk"),
            ("place", "Watering allowed"),
            ("weather", "The last 14 days"),
            ("forecasts", "Held for rain"),
            ("history", "Who did what"),
        ] {
            page.open(&format!("/site/1/settings?tab={tab}")).await;
            page.see(words).await;
            let controls = texts(
                &page,
                "main button:not([role=tab]), main input, main select",
            )
            .await;
            let controls: Vec<_> = controls.iter().filter(|c| *c != "Older").collect();
            assert!(controls.is_empty(), "{tab}: {controls:?}");
            page.is_accessible(&format!("{tab} of a viewer")).await;
        }
        // At a form's address they are told so, and not shown the form.
        for form in ["/site/1/sprinklers/3", "/site/1/sprinklers/3/quick"] {
            page.open(form).await;
            page.see("Not with your role").await;
            let fields = texts(&page, "main input, main select, main button").await;
            assert!(fields.is_empty(), "{form}: {fields:?}");
        }
        page.open("/site/1/settings?tab=people").await;
        page.see("Who belongs here").await;
        assert_eq!(
            texts(&page, "main button:not([role=tab])").await,
            ["Leave this site"]
        );
        page.press("Leave this site").await;
        page.press("Leave for good").await;
        page.see("Your lawn: what do you call it?").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_password_is_changed_and_a_second_site_can_be_switched_to() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    for name in ["Clover Green", "Sedge Park"] {
        let mut document = crate::harness::small_site();
        document.site.name = name.to_owned();
        app.site(owner, &document, crate::harness::NIGHT).await;
    }
    with_page(&app, Screen::Desk, "switch", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Clover Green, sites").await;
        page.press("Sedge Park (owner)").await;
        page.find("//button[@aria-label='Sedge Park, sites']").await;
        page.press("Account of Hazel Fern").await;
        page.press("Password and devices").await;
        page.fill("Current password", "not this one").await;
        page.fill("New password", "four dry days").await;
        page.press("Change the password").await;
        page.see("the current password is not this").await;
        page.is_accessible("account").await;
        page.fill("Current password", crate::harness::PASSWORD)
            .await;
        page.press("Change the password").await;
        page.see("Password changed").await;
        page
    })
    .await;
}

#[tokio::test]
async fn who_removes_a_manager_says_what_becomes_of_their_tokens() {
    let (app, api, site) = App::with_dry_zone().await;
    let tab = format!("{}/settings", site.replace("sites", "site"));
    for (name, station) in [("fern", "Roof"), ("moss", "Shed")] {
        let email = format!("{name}@meadow.example");
        let manager = app.manager(&email, &site).await;
        let made = serde_json::json!({ "name": station });
        let made = manager
            .send(
                reqwest::Method::POST,
                &format!("{site}/device-tokens"),
                made,
            )
            .await;
        assert_eq!(made.status(), reqwest::StatusCode::CREATED);
        sqlx::query("UPDATE account SET name = initcap($1) || ' Sedge' WHERE email = $2")
            .bind(name)
            .bind(&email)
            .execute(&app.pool)
            .await
            .unwrap();
    }
    with_page(&app, Screen::Desk, "tokens", |page| async move {
        page.sign_in(EMAIL).await;
        page.open(&format!("{tab}?tab=people")).await;
        page.press("Remove Fern Sedge").await;
        page.see("Fern Sedge made the token of Roof").await;
        page.pick("I answer for it from now on").await;
        page.is_accessible("a manager with a token is removed")
            .await;
        page.press_at("//*[@role='dialog']//button[.='Remove']")
            .await;
        page.gone("//*[@role='dialog']").await;
        page.choose_named("Role of Moss Sedge", "Crew").await;
        page.see("What is sent with it after that is refused").await;
        page.is_accessible("a manager with a token becomes crew")
            .await;
        page.press("Give this role").await;
        page.gone("//*[@role='dialog']").await;
        page.open(&format!("{tab}?tab=weather")).await;
        page.see("by Hazel Fern; has sent nothing yet").await;
        page.gone("//*[.='Shed']").await;
        page.open(&format!("{tab}?tab=history")).await;
        page.see("answers for the token of Roof from now on, made by Fern Sedge")
            .await;
        page.see("ended the token of Shed, made by Moss Sedge, who manages the lawn no more")
            .await;
        page
    })
    .await;
    let left = api.json(&format!("{site}/device-tokens")).await;
    assert_eq!(left.as_array().unwrap().len(), 1);
}
