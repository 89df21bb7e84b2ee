//! New grass in the browser: New corner is watered by hand by the hour, a slot is missed and made good, first blades are seen, and it grows up on the stepped clock.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use super::Screen;
use super::page::with_page;
use crate::harness::{Api, App, EMAIL, expect};
use crate::rounds::step;

const SITE: &str = "/sites/1";

/// Steps the demo clock by hours.
async fn hours(api: &Api, hours: i64) {
    let now = api.json(SITE).await["now"].clone();
    let body = json!({ "from": now, "hours": hours });
    let steps = format!("{SITE}/clock-steps");
    expect(api.send(Method::POST, &steps, body).await, StatusCode::OK).await;
}

/// New corner in the newest plan.
async fn new_corner(api: &Api) -> Value {
    let plan = api.json(&format!("{SITE}/plan")).await;
    let zones = plan["current"]["plan"]["zones"].as_array().unwrap();
    let corner = zones.iter().find(|z| z["name"] == "New corner").unwrap();
    corner.clone()
}

/// Its cell of today.
fn today(corner: &Value) -> &Value {
    &corner["cells"][2]
}

#[tokio::test]
async fn new_corner_is_watered_by_hand_missed_and_comes_up() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    // The crew noted its waterings until yesterday; today's first slot is open.
    let corner = new_corner(&api).await;
    assert_eq!(corner["new_grass"]["stage"], "not_up");
    assert_eq!(corner["by_hand"], true);
    assert!(today(&corner)["later"].as_array().unwrap().len() >= 3);
    with_page(&app, Screen::Phone, "new-grass", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("New corner, nothing is up yet").await;
        page.see(", then at").await;
        page.fits("new grass on Morning").await;
        page.is_accessible("new grass on Morning").await;
        // Nobody notes it, and noon comes.
        hours(&api, 5).await;
        let missed = new_corner(&api).await;
        assert!(missed["new_grass"]["missed"].is_string(), "{missed}");
        let dry = today(&missed)["surface"]["dry"].as_array().unwrap();
        assert!(
            dry.contains(&json!(9)) && dry.contains(&json!(10)),
            "{dry:?}"
        );
        page.client.refresh().await.unwrap();
        page.see("Missed at ").await;
        page.see("a thin stand is likely").await;
        page.see("nobody noted that it was done").await;
        page.is_accessible("a watering of new grass that was missed")
            .await;
        page.press("Watered just now, New corner").await;
        page.see("noted, begun at").await;
        let noted = new_corner(&api).await;
        assert!(noted["new_grass"]["missed"].is_null(), "{noted}");
        // Why, in the words of its top.
        page.press("Why, New corner").await;
        page.see("is all that can evaporate from it").await;
        page.is_accessible("the working of new grass").await;
        page.press("Close the working").await;
        page.press("First blades are up, New corner").await;
        page.see("New corner, it is up").await;
        let up = new_corner(&api).await;
        assert_eq!(up["new_grass"]["stage"], "up");
        assert!(today(&up)["later"].as_array().unwrap().len() <= 1);
        // By warmth it fills in, and is as good as mown some weeks later.
        step(&api, SITE, 17).await;
        page.client.refresh().await.unwrap();
        page.see("New corner, it fills in").await;
        page.press("Mown for the first time, New corner").await;
        page.gone("//h2[text()='New grass']").await;
        let rooted = new_corner(&api).await;
        assert_eq!(rooted["regime"], "established");
        assert_eq!(rooted["by_hand"], false);
        assert!((rooted["root_depth_mm"].as_f64().unwrap() - 30.0).abs() < 1e-6);
        page
    })
    .await;
}

#[tokio::test]
async fn a_viewer_reads_of_new_grass_and_notes_nothing() {
    let app = App::own_demo().await;
    app.member("viewer@meadow.example", SITE, "viewer").await;
    with_page(&app, Screen::Desk, "new-grass-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.see("New corner, nothing is up yet").await;
        page.gone("//button[starts-with(@aria-label, 'Watered just now')]")
            .await;
        page.press("Week").await;
        page.see("6 runs").await;
        page
    })
    .await;
}
