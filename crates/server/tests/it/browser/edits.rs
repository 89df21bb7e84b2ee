//! A person changes the plan: what follows is read first, on the phone.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn a_day_is_skipped_and_given_minutes_on_the_phone_and_undone() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "edits", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.see("Change this day").await;
        page.press("See what follows").await;
        page.see("Say why: others read it.").await;
        page.fill("Why", "a fair").await;
        page.press("See what follows").await;
        let rows = page.table("What follows").await;
        assert_eq!(rows.len(), 5, "{rows:?}");
        page.is_accessible("a change that is tried").await;
        page.fits("a change that is tried").await;
        page.press("Skip the day").await;
        page.see("Skipped: a fair (Hazel Fern)").await;
        page.pick("Minutes").await;
        page.fill("For how many minutes", "24").await;
        page.press("See what follows").await;
        page.press("Water it so").await;
        page.see("Set to 24 min").await;
        page.press("Undo").await;
        page.see("Skipped: a fair (Hazel Fern)").await;
        page.press("Back to the plan").await;
        page.gone("//*[contains(., 'Skipped: a fair')]").await;
        page
    })
    .await;
    let edits = api.json(&format!("{site}/edits")).await;
    assert_eq!(edits[0]["act"], "release", "{edits}");
}
