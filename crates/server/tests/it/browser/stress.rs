//! Stress: zones are let go at the desk, their crowns appear on Week, and a viewer only reads.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};
use crate::stress::falling_asleep;

#[tokio::test]
async fn three_zones_are_let_go_and_their_crowns_are_on_the_week() {
    let app = App::own_demo().await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "stress", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.see("Every zone is kept green.").await;
        page.is_accessible("stress").await;
        for zone in ["East bank", "West bank", "Library lawn"] {
            page.press(&format!("Let it go, {zone}")).await;
            page.see("Its crowns alone are watered from today on").await;
            page.fill("Why, in your words", "water is short").await;
            page.press("Let it go from today").await;
            page.gone("//*[@role='dialog']").await;
        }
        page.see("3 zones are let go.").await;
        page.see("no traffic or play, no mowing unless needed")
            .await;
        page.see("Days of heat left").await;
        page.is_accessible("stress with zones let go").await;
        page.unfold("Day by day, and who decided what").await;
        page.see("“water is short”").await;
        page.press("Week").await;
        page.press("Morning").await;
        page.see("it is let go; its crowns are watered next").await;
        // Woken at once, which is said to be early.
        page.press("Stress").await;
        page.press("Wake it, Library lawn").await;
        page.see("It is early").await;
        page.press("Wake it from today").await;
        page.see("One zone wakes.").await;
        page
    })
    .await;
    with_page(&app, Screen::Phone, "stress-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.press("Stress").await;
        page.see("2 zones are let go.").await;
        page.gone("//button[starts-with(@aria-label, 'Wake it')]")
            .await;
        page.fits("stress").await;
        page.is_accessible("stress on the phone").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_zone_that_falls_asleep_asks_on_morning_and_is_let_go_on_the_phone() {
    let (app, _api, _) = falling_asleep().await;
    with_page(&app, Screen::Phone, "falls-asleep", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Pavilion front: it falls asleep").await;
        page.press("Stress").await;
        page.see("of the last 9 days more than nine tenths of its water were gone")
            .await;
        page.see("for a decision").await;
        page.is_accessible("a proposal").await;
        page.press("Let it go, Pavilion front").await;
        page.press("Let it go from today").await;
        page.gone("//*[@role='dialog']").await;
        let days = page
            .find("//li[@aria-label='Pavilion front']//summary")
            .await;
        days.click().await.unwrap();
        page.see("as proposed").await;
        page
    })
    .await;
}
