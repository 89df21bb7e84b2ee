//! Every view at both sizes with data, and its dialogs.

use super::driver::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

async fn scan(screen: Screen, name: &'static str) {
    let app = App::own_demo().await;
    with_page(&app, screen, name, move |page| async move {
        page.open("/sign-in").await;
        page.see("E-mail address").await;
        page.is_accessible("sign in").await;
        page.sign_in(EMAIL).await;
        page.see("Needs a person").await;
        page.is_accessible("Morning").await;
        // A term of the trade is explained where it stands.
        page.press("reference ET").await;
        page.see("Reference evapotranspiration").await;
        // On a phone what waits is a line each, which opens.
        if screen == Screen::Phone {
            page.press("More, Playing field").await;
        }
        page.press("Why, Playing field").await;
        page.see("How dry the root zone is").await;
        page.see("Rain in sight: hold, or how much").await;
        page.is_accessible("the working").await;
        page.press("Close the working").await;
        page.press("Week").await;
        page.see("reference ET, mm").await;
        page.is_accessible("Week").await;
        // By keyboard: one cell is in the tab order, arrows move it, Enter asks why.
        let cell = page.find("//td[@role='gridcell'][@tabindex='0']").await;
        cell.send_keys("\u{e015}\u{e014}").await.unwrap();
        page.see("Pavilion front, Fri 19 June:").await;
        let moved = page.client.active_element().await.unwrap();
        moved.send_keys("\u{e007}").await.unwrap();
        page.see("How dry the root zone is").await;
        page.press("Close the working").await;
        page.gone("//button[@aria-label='Close the working']").await;
        page.press("Sprinklers").await;
        // All zones at one look, the dearest first.
        let first = page
            .words_of("//section[@aria-label='All zones, the dearest first']//tbody/tr[1]/th")
            .await;
        assert_eq!(first, "West bank");
        page.press_at("//summary[contains(., 'Before and after')]")
            .await;
        page.see("Straw and hatched: drier than the mean").await;
        // The library lawn's test is fourteen months old.
        page.see("over a year ago: measure again").await;
        page.is_accessible("Sprinklers").await;
        page.press("Test East bank").await;
        page.see("16 cans, 4 heads").await;
        page.is_accessible("cans laid out").await;
        page.press("Begin").await;
        page.see("Can 1 of 16").await;
        page.is_accessible("cans to be read").await;
        page.press("Throw this test away").await;
        page.press("Sprinklers").await;
        page.press("Quick test of East bank").await;
        page.see("The rate alone.").await;
        page.is_accessible("a quick test").await;
        page.press("Site").await;
        page.see("Orchard walk").await;
        page.is_accessible("Site, zones").await;
        page.press("East bank").await;
        page.see("handbook:").await;
        page.is_accessible("a zone's figures").await;
        page.press("Change it").await;
        page.see("Measured or known here").await;
        page.fill("Slope, %", "steep").await;
        page.press("Save and plan").await;
        page.see("is not a number").await;
        page.is_accessible("the form of a zone, with an error")
            .await;
        page.press("Cancel").await;
        page.press("Site").await;
        page.press("End East bank").await;
        page.see("Its records stay").await;
        page.is_accessible("ending a zone").await;
        page.press("Close").await;
        for (tab, words) in [
            ("Place and hours", "Allowed days and hours"),
            ("Weather", "The last 14 days"),
            ("Forecasts", "Held for rain"),
            ("People", "Who belongs here"),
            ("History", "Who did what"),
            ("Files", "Take it with you"),
        ] {
            page.press(tab).await;
            page.see(words).await;
            page.is_accessible(tab).await;
        }
        page
    })
    .await;
}

#[tokio::test]
async fn every_view_on_a_desk() {
    scan(Screen::Desk, "accessible-desk").await;
}

#[tokio::test]
async fn every_view_on_a_phone() {
    scan(Screen::Phone, "accessible-phone").await;
}
