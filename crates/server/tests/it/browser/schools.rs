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
        let more =
            "//button[@aria-label='More, Pavilion front' or @aria-label='Why, Pavilion front']";
        let first = page.find(more).await;
        if first.attr("aria-label").await.unwrap().as_deref() == Some("More, Pavilion front") {
            first.click().await.unwrap();
        }
        page.press("Why, Pavilion front").await;
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
