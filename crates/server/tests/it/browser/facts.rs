//! What holds from a day, and two windows a day, in the browser.

use serde_json::Value;
use sqlx::PgPool;

use super::Screen;
use super::page::with_page;
use crate::harness::{Api, App, EMAIL};
use crate::windows::twice_a_day;

/// The balance of a zone's past days: date, dusk.
async fn past(pool: &PgPool, zone: i64) -> Vec<(String, f64)> {
    sqlx::query_as("SELECT date::text, end_mm FROM zone_day WHERE zone_id = $1 ORDER BY date")
        .bind(zone)
        .fetch_all(pool)
        .await
        .unwrap()
}

/// The first day on which two pasts differ.
fn differ_from(before: &[(String, f64)], after: &[(String, f64)]) -> Option<String> {
    before
        .iter()
        .zip(after)
        .find(|(a, b)| (a.1 - b.1).abs() > 1e-9)
        .map(|(a, _)| a.0.clone())
}

async fn zone_named(api: &Api, name: &str) -> Value {
    let zones = api.json("/sites/1/zones").await;
    let zones = zones.as_array().unwrap().clone();
    zones
        .into_iter()
        .find(|z| z["zone"]["name"] == name)
        .unwrap()
}

#[tokio::test]
async fn a_rate_repaired_on_a_day_and_roots_set_deeper_hold_from_when_it_is_said() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let pool = app.pool.clone();
    with_page(&app, Screen::Desk, "facts", |page| async move {
        let zone = zone_named(&api, "East bank").await;
        let id = zone["id"].as_i64().unwrap();
        let before = past(&pool, id).await;
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings").await;
        page.change_zone("East bank").await;
        page.fill("Precipitation rate, mm/h", "9.5").await;
        page.fill("Root depth, cm", "26").await;
        page.see("From when is it so?").await;
        page.is_accessible("from when a change holds").await;
        // The heads were repaired on 10 June; the roots are deeper from now on.
        page.choose("Precipitation rate", "From an earlier day")
            .await;
        page.set("Precipitation rate, since", "2026-06-10").await;
        page.choose("Root depth", "From now on").await;
        page.press("Save and plan").await;
        page.see("East bank is saved and planned.").await;
        let after = past(&pool, id).await;
        let first = differ_from(&before, &after);
        assert!(
            first.as_deref().is_none_or(|day| day >= "2026-06-10"),
            "{first:?}"
        );
        page.press("Morning").await;
        page.press("Why, East bank").await;
        page.see("so since 18 June").await;
        page.press("Close the working").await;

        // Always so: the past is another.
        page.open("/site/1/settings").await;
        page.change_zone("East bank").await;
        page.fill("Root depth, cm", "14").await;
        page.choose("Root depth", "Always so").await;
        page.press("Save and plan").await;
        page.see("East bank is saved and planned.").await;
        let always = past(&pool, id).await;
        let first = differ_from(&after, &always).unwrap();
        assert!(first.as_str() < "2026-06-10", "{first}");
        page
    })
    .await;
}

#[tokio::test]
async fn two_runs_of_a_day_are_on_morning_and_week() {
    let (app, api, site) = twice_a_day().await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    assert_eq!(plan["next"]["date"], plan["today"]);
    with_page(&app, Screen::Desk, "twice", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("and again from 17:").await;
        page.see(" and 17:").await;
        page.press("Why, Front").await;
        page.see("Again from 17:00").await;
        page.is_accessible("working of two runs").await;
        page.press("Close the working").await;
        page.press("Week").await;
        page.see("+ ").await;
        page.is_accessible("week with two runs a day").await;
        page
    })
    .await;
}
