//! Empty and error states: drawn, worded, accessible.

use super::driver::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL, NIGHT, PASSWORD, small_site, weather};

async fn walk(screen: Screen, name: &'static str) {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let pool = app.pool.clone();
    let (origin, database_url) = (app.address, app.database_url.clone());
    with_page(&app, screen, name, move |page| async move {
        let app = App {
            address: origin,
            pool,
            database_url,
            _running: None,
        };
        // A wrong password.
        page.open("/").await;
        page.fill("E-mail address", EMAIL).await;
        page.fill("Password", "nonsense").await;
        page.press("Sign in").await;
        page.see("address and password do not match an account")
            .await;
        page.is_accessible("sign in, refused").await;
        page.fill("Password", PASSWORD).await;
        page.press("Sign in").await;

        // No site, no weather, no zones.
        page.see("Your lawn: what do you call it?").await;
        page.is_accessible("no site").await;
        let site = app.site(owner, &small_site(), NIGHT).await.0;
        page.open("/").await;
        page.see("No weather yet").await;
        page.is_accessible("no weather").await;
        page.open(&format!("/site/{site}/settings")).await;
        page.see("No zones yet").await;
        page.is_accessible("Site without zones").await;
        let api = app.sign_in(EMAIL).await;
        let import = format!("/sites/{site}/weather-imports?conflicts=keep");
        assert!(
            api.csv(&import, Some(1), &weather(|_| None))
                .await
                .status()
                .is_success()
        );
        page.open(&format!("/site/{site}/morning")).await;
        page.see("No zones yet").await;
        page.is_accessible("Morning without zones").await;

        // A file with bad lines.
        page.open(&format!("/site/{site}/settings?tab=weather"))
            .await;
        let bad = std::env::temp_dir().join(format!("fresh-meadow-{name}.csv"));
        std::fs::write(
            &bad,
            "date,tmin_c,tmax_c,station\n2026-06-01,20,10,x\n2026-06-02,a,10,x\n",
        )
        .unwrap();
        page.upload("Weather file (CSV)", &bad).await;
        page.see("2 lines cannot be used").await;
        page.see("columns not read: station").await;
        page.is_accessible("a preview with errors").await;

        // A site that is not there, and a page that is not there.
        page.open("/site/999999/week").await;
        page.see("there is no such site here").await;
        page.is_accessible("no such site").await;
        page.open("/nowhere").await;
        page.see("There is no such page.").await;
        page.is_accessible("no such page").await;
        page
    })
    .await;
}

#[tokio::test]
async fn empty_and_wrong_on_a_desk() {
    walk(Screen::Desk, "states-desk").await;
}

#[tokio::test]
async fn empty_and_wrong_on_a_phone() {
    walk(Screen::Phone, "states-phone").await;
}
