//! Hours that are asked of a zone, and a supply that runs out, in the browser.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn granules_are_watered_in_on_the_phone_and_a_conflict_is_explained() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "entries", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.see("Just put something down?").await;
        page.pick("Water in").await;
        page.fill("Within, hours", "90").await;
        page.fill("What it is", "grub granules").await;
        page.press("Water it in with 6 mm").await;
        page.see("Between 1 and 48 h.").await;
        page.fill("Within, hours", "36").await;
        page.press("Water it in with 6 mm").await;
        page.see("6.0 mm to water it in, from ").await;
        page.see(": grub granules (Hazel Fern)").await;
        page.is_accessible("hours that are asked").await;
        page.fits("hours that are asked").await;

        // Sprayed as well, and to stay dry for longer: one of the two has to go.
        page.fill("For how long, hours", "40").await;
        page.press("Keep it dry").await;
        page.see("Dry from ").await;
        page.press("Close the working").await;
        page.gone("//button[@aria-label='Close the working']").await;
        page.press("Morning").await;
        page.see("Not watered in by ").await;
        page.see("it must stay dry until then: one of the two entries has to go.")
            .await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.press_at("//button[starts-with(@aria-label, 'Lift: dry until')]")
            .await;
        page.gone("//li[contains(., 'Dry from')]").await;
        page
    })
    .await;
    let asked = api.json(&format!("{site}/constraints")).await;
    assert_eq!(asked.as_array().unwrap().len(), 1, "{asked}");
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].to_string();
    assert!(plan.contains("waters_in"), "{plan}");
}

#[tokio::test]
async fn a_well_and_a_small_controller_are_entered_and_obeyed() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Desk, "well", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Place and hours").await;
        page.fill("What it holds, m³", "15").await;
        page.press("Save and plan").await;
        page.see("Fill this in, or empty both.").await;
        page.fill("What runs back in, L/min", "10").await;
        page.fill("Programmes", "1").await;
        page.fill("Starts of a programme", "2").await;
        page.fill("Seasonal adjust, %", "500").await;
        page.press("Save and plan").await;
        page.see("Between 10 and 250 %.").await;
        page.fill("Seasonal adjust, %", "80").await;
        page.is_accessible("place and hours").await;
        page.press("Save and plan").await;
        page.see("Saved, and planned again.").await;
        page.press("Week").await;
        page.see("; the controller holds 1").await;
        // Friday's clock says what the well does not give.
        let grid = page.find("//*[@role='grid']//*[@tabindex='0']").await;
        grid.send_keys("\u{e014}").await.unwrap();
        page.press("The night").await;
        page.see("What the tank or well does not give").await;
        page.is_accessible("a night that the well does not hold")
            .await;
        page.press("Close the night").await;
        page.gone("//button[@aria-label='Close the night']").await;
        page.press("Morning").await;
        page.see("The tank or well leaves it").await;
        page
    })
    .await;
    let api = app.sign_in(EMAIL).await;
    let plan = api.json("/sites/1/plan").await["current"]["plan"].to_string();
    assert!(plan.contains("set_on_controller") && plan.contains("rationed"));
}
