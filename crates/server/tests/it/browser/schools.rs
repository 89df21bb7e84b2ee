//! A school is changed and compared: on the site's own year, and beside the water balance in the working.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn a_school_is_changed_and_compared_with_the_water_balance() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Desk, "schools", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Schools of watering").await;
        page.see("Goes wrong:").await;
        page.is_accessible("schools").await;
        page.choose("Zone", "Pavilion front").await;
        let rows = page.table("Pavilion front under each school").await;
        assert_eq!(rows.len(), 4, "{rows:?}");
        assert!(rows[0][0].contains("waters Pavilion front now"), "{rows:?}");
        // The year's evidence: the balance meets the need with less than half an inch every third day.
        let depth = |row: usize| rows[row][2].replace(',', "").parse::<f64>().unwrap();
        assert!(depth(0) > 50.0 && depth(0) < depth(2), "{rows:?}");
        assert!(rows[2][0].contains("more water than the balance"));

        page.press("Water by weekly target").await;
        page.fill("A week, rain counted, mm", "200").await;
        page.press("Water it so").await;
        page.see("Between 2 and 100 mm.").await;
        page.is_accessible("setting a school").await;
        page.fill("A week, rain counted, mm", "30").await;
        page.choose("Soaks a week", "3").await;
        page.press("Water it so").await;
        page.see("is watered by the weekly target from today on")
            .await;
        page.see("· waters Pavilion front now").await;
        page.press("Set weekly target").await;
        assert_eq!(page.value("A week, rain counted, mm").await, "30");
        page.press("Cancel").await;

        page.press("Morning").await;
        page.open_working("Pavilion front").await;
        page.see("By the calendar:").await;
        page.see("of the week’s 30.0 mm so far").await;
        page.find("//li[contains(., 'The water balance would')]")
            .await;
        let beside = page
            .table("The zone’s school beside the water balance")
            .await;
        assert_eq!(beside.len(), 2, "{beside:?}");
        page.is_accessible("the working by the calendar").await;
        page.press("Close the working").await;
        page
    })
    .await;
}

#[tokio::test]
async fn minutes_on_a_plain_dial_tell_the_truth_on_the_phone() {
    let (app, api, site) = App::with_dry_zone().await;
    // An inch an hour, even, nothing lost: half an hour is half an inch.
    let zones = api.json(&format!("{site}/zones")).await;
    let (id, mut zone) = (zones[0]["id"].clone(), zones[0]["zone"].clone());
    let exactly = |value: f64| serde_json::json!({ "value": value, "low": value, "high": value, "source": { "kind": "assumed" } });
    zone["rate_mm_h"] = exactly(25.4);
    zone["evenness_du_lq"] = exactly(1.0);
    zone["spray_loss"] = exactly(0.0);
    let version = zones[0]["version"].as_i64().unwrap();
    let path = format!("{site}/zones/{id}");
    let put = api.edit(reqwest::Method::PUT, &path, version, zone).await;
    assert_eq!(put.status(), reqwest::StatusCode::OK);
    with_page(&app, Screen::Phone, "minutes", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Front").await;
        page.press("What minutes give").await;
        page.see("20 min × 3 a week").await;
        // 20 min × 3 at an inch an hour are an inch (common practice, no source).
        page.see("25.4 mm").await;
        page.see("8.5 mm into the soil of 8.5 mm that fall").await;
        page.see("not within these minutes").await;
        page.see("gets 8.5 mm each time, 100 % of the mean").await;
        let thumb = page
            .find("//*[@role='slider'][@aria-labelledby='minutes-each']")
            .await;
        for _ in 0..10 {
            thumb.send_keys("\u{e014}").await.unwrap();
        }
        page.see("30 min × 3 a week").await;
        // 30 min × 3 are an inch and a half.
        page.see("38.1 mm").await;
        page.see("in one go").await;
        page.is_accessible("what minutes give").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_school_is_changed_on_the_week_and_what_follows_is_read_first() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Desk, "week-school", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Change, Front").await;
        page.press("Water the whole zone by another school").await;
        page.choose("By which school", "Fixed interval").await;
        let look = "//section[@aria-label='School of the zone']//button[normalize-space(.)='See what follows']";
        page.press_at(look).await;
        let rows = page.table("What follows").await;
        assert_ne!(rows[0][1], rows[0][2], "{rows:?}");
        page.is_accessible("a school that is tried").await;
        page.fits("a school that is tried").await;
        page.press("Water it so").await;
        page.see("Front is watered by the fixed interval from today on.")
            .await;
        page
    })
    .await;
    let zones = api.json(&format!("{site}/zones")).await;
    assert_eq!(
        zones[0]["zone"]["school"]["kind"], "fixed_interval",
        "{zones}"
    );
}
