//! Measuring in the browser: a can test by taps and digits, one whose connection is cut, quick tests, before and after, heads.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use sqlx::PgPool;

use super::Screen;
use super::driver::slow_down;
use super::page::{Page, with_page};
use crate::harness::{Api, App, EMAIL, PATIENCE, expect};
use crate::line::{Line, behind_proxy};
use crate::sprinkler_tests::can_test;

const READINGS: [u32; 16] = [
    42, 38, 51, 47, 29, 33, 60, 55, 36, 41, 44, 40, 30, 28, 34, 32,
];

async fn count(pool: &PgPool) -> i64 {
    sqlx::query_scalar("SELECT count(*) FROM sprinkler_test")
        .fetch_one(pool)
        .await
        .unwrap()
}

async fn kept(app: &App) -> i64 {
    count(&app.pool).await
}

/// Waits until the first test is in the database.
async fn arrived(pool: &PgPool) {
    let deadline = std::time::Instant::now() + PATIENCE;
    while count(pool).await == 0 {
        assert!(std::time::Instant::now() < deadline, "never arrived");
        tokio::time::sleep(std::time::Duration::from_millis(20)).await;
    }
}

/// Types readings from a can on, by the pad alone.
async fn read(page: &Page, cans: std::ops::Range<usize>) {
    for can in cans {
        page.see(&format!("Can {} of 16", can + 1)).await;
        for digit in READINGS[can].to_string().chars() {
            page.press(&digit.to_string()).await;
        }
        page.press("Next").await;
    }
}

async fn begin(page: &Page) {
    page.press("Test Front").await;
    page.fill("Width, m", "8").await;
    page.fill("Length, m", "6").await;
    page.pick("mL, mouth's area").await;
    page.choose("Wind", "light: felt on the face").await;
    page.press("Begin").await;
}

#[tokio::test]
async fn sixteen_cans_by_taps_and_digits_and_the_plan_uses_them() {
    let (app, _api, _site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "cans", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        page.see("Never measured").await;
        page.is_accessible("Sprinklers, nothing measured").await;
        begin(&page).await;
        page.see("Can 1 of 16").await;
        // Nothing typed, and more than the can holds.
        page.press("Next").await;
        page.see("Type what can 1 caught; 0 if it is dry.").await;
        for digit in ["9", "9", "9"] {
            page.press(digit).await;
        }
        page.press("Next").await;
        page.see("The can holds 250 mL: 999 mL cannot be.").await;
        page.is_accessible("readings, one refused").await;
        for _ in 0..3 {
            page.press("Delete the last digit").await;
        }
        read(&page, 0..15).await;
        page.see("Can 16 of 16").await;
        page.see("mm/h so far").await;
        // Corrected: the list is for keyboards what a tap on the can is for a thumb.
        page.choose("Can to read", "2: 38 read").await;
        page.see("Can 2 of 16").await;
        for digit in ["3", "8"] {
            page.press(digit).await;
        }
        page.press("Next").await;
        page.see("In the rings: volume read, mL; dashed: the can’s number, not read yet.")
            .await;
        let finish = async || {
            let button = page.find("//button[starts-with(., 'Finish with')]").await;
            button.rectangle().await.unwrap().3
        };
        let while_reading = finish().await;
        read(&page, 15..16).await;
        page.see("Finish with 16").await;
        // After the last can, finishing is what comes next.
        assert!(finish().await >= 48.0 && while_reading < 40.0);
        page.press("Finish with 16").await;
        page.see("Front: 16.0 mm/h, even 0.74").await;
        page.see("For such sprinklers that is very good.").await;
        page.see("the driest quarter gets 9.7 mm").await;
        page.see("What it changes").await;
        page.see(" min → ").await;
        page.is_accessible("a finished test").await;
        page.press("All sprinklers").await;
        page.see("measured 18 June, 16 cans").await;
        page.is_accessible("Sprinklers, measured").await;
        page.press("Site").await;
        page.change_zone("Front").await;
        page.see("empty: 16.0, measured 18 June").await;
        page.see("empty: 0.74, measured 18 June").await;
        page.press("Cancel").await;
        page.press("Morning").await;
        page.press("Why, Front").await;
        page.see("measured here: can test, 16 cans, 2026-06-18")
            .await;
        page
    })
    .await;
    assert_eq!(kept(&app).await, 1);
}

#[tokio::test]
async fn a_can_mended_after_a_lost_answer_is_not_lost_too() {
    let (app, api, site) = App::with_dry_zone().await;
    let (through, line) = behind_proxy(&app).await;
    let pool = app.pool.clone();
    with_page(&through, Screen::Phone, "mended", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        begin(&page).await;
        read(&page, 0..4).await;
        page.see("mm/h so far").await;
        line.send(Line::AnswersLost).unwrap();
        page.press("Finish with 4").await;
        arrived(&pool).await;
        page.press("Back to the readings").await;
        line.send(Line::Open).unwrap();
        page.choose("Can to read", "1: 42 read").await;
        page.see("Can 1 of 16").await;
        page.press("9").await;
        page.press("Next").await;
        page.press("Finish with 4").await;
        page.see("What it changes").await;
        page
    })
    .await;
    let tests = api.json(&format!("{site}/sprinkler-tests")).await;
    let first = |i: usize| tests[i]["test"]["cans"][0]["reading"].as_f64().unwrap();
    assert_eq!(
        (first(0), first(1)),
        (9.0, 42.0),
        "the newest has what was mended"
    );
    assert_eq!(tests[0]["counts"], true);
}

#[tokio::test]
async fn readings_typed_offline_survive_a_reload_and_are_kept_once() {
    let (app, _api, _site) = App::with_dry_zone().await;
    let (through, line) = behind_proxy(&app).await;
    let pool = app.pool.clone();
    with_page(&through, Screen::Phone, "offline", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        begin(&page).await;
        read(&page, 0..4).await;
        page.see("mm/h so far").await;
        line.send(Line::Cut).unwrap();
        read(&page, 4..10).await;
        page.see("Not connected: 10 of 16 kept on this phone, sent when connected.")
            .await;
        page.see("10 of 16 saved on this phone").await;
        line.send(Line::Open).unwrap();
        page.client.refresh().await.unwrap();
        page.see("Can 11 of 16").await;
        page.see("10 of 16 saved on this phone").await;
        line.send(Line::Cut).unwrap();
        read(&page, 10..16).await;
        page.press("Finish with 16").await;
        page.see("16 of 16 saved on this phone, sent when connected.")
            .await;

        line.send(Line::AnswersLost).unwrap();
        page.press("Send now").await;
        arrived(&pool).await;
        page.see("16 of 16 saved on this phone, sent when connected.")
            .await;
        line.send(Line::Open).unwrap();
        page.client.refresh().await.unwrap();
        page.see("Front: 16.0 mm/h, even 0.74").await;
        page.see("It was kept before; the plan has it already.")
            .await;
        page
    })
    .await;
    assert_eq!(kept(&app).await, 1, "sent at least twice, kept once");
}

/// Taps a place of the plan, shares of the drawing from its left and from its top.
async fn tap_plan(page: &Page, x: f64, y: f64) {
    let plan = page.find("//*[local-name()='svg' and @role='img']").await;
    let script = "const box = arguments[0].getBoundingClientRect();
        const at = { bubbles: true, clientX: box.left + box.width * arguments[1], clientY: box.top + box.height * arguments[2] };
        arguments[0].dispatchEvent(new MouseEvent('click', at));";
    let plan = serde_json::to_value(&plan).unwrap();
    page.client
        .execute(script, vec![plan, json!(x), json!(y)])
        .await
        .unwrap();
}

#[tokio::test]
async fn an_l_is_laid_out_by_its_sides_and_changed_by_tap() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "lay-out", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        page.press("Test Front").await;
        page.pick("L").await;
        page.fill("Width, m", "8").await;
        page.fill("Length, m", "8").await;
        page.fill("Missing corner's width, m", "9").await;
        page.fill("Missing corner's length, m", "4").await;
        page.press("Begin").await;
        page.see("The missing corner is not smaller than the zone")
            .await;
        page.fill("Missing corner's width, m", "4").await;
        page.see("12 cans, 6 heads; 48 m² drawn").await;
        page.unfold("Place cans and heads by tap").await;
        tap_plan(&page, 0.5, 0.6).await;
        page.see("13 cans, 6 heads").await;
        page.pick("Takes away").await;
        tap_plan(&page, 0.05, 0.95).await;
        page.see("13 cans, 5 heads").await;
        // The same by figures, for those who do not tap.
        page.pick("Adds a head").await;
        page.fill("From the left, m", "0").await;
        page.fill("From below, m", "0").await;
        page.press("Add there").await;
        page.see("13 cans, 6 heads").await;
        page.unfold("All 6 heads ran").await;
        page.pick("6").await;
        page.see("5 of 6 heads ran").await;
        page.pick("mL, round mouth").await;
        page.fill("Mouth across, mm", "113").await;
        page.fill("Pressure (if read), kPa", "9").await;
        page.press("Begin").await;
        page.see("Between 20 and 1,500 kPa.").await;
        page.is_accessible("a layout, refused").await;
        page.fill("Pressure (if read), kPa", "210").await;
        page.press("Begin").await;
        for can in 1..=13 {
            page.see(&format!("Can {can} of 13")).await;
            page.press("3").await;
            page.press("0").await;
            page.press("Next").await;
        }
        page.press("Finish with 13").await;
        page.see("Head 6 did not run.").await;
        page
    })
    .await;
    let kept = api.json(&format!("{site}/sprinkler-tests")).await;
    let test = &kept[0]["test"];
    assert_eq!(test["corners"].as_array().unwrap().len(), 6);
    assert_eq!(
        (&test["idle_heads"], &test["pressure_kpa"]),
        (&json!([6]), &json!(210.0))
    );
    assert_eq!(test["container"]["kind"], "round");
}

#[tokio::test]
async fn a_quick_test_in_us_units_changes_the_plan() {
    let (app, _api, _site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "quick", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("US units").await;
        page.press("Sprinklers").await;
        page.press("Quick test of Front").await;
        page.press("Work out the rate").await;
        page.see("Time at least one can.").await;
        for (can, minutes) in [(1, "28"), (2, "30"), (3, "32")] {
            page.press("Type a can's time").await;
            page.fill(&format!("Can {can}, min"), minutes).await;
        }
        page.press("Work out the rate").await;
        // Half an inch in about half an hour: an inch an hour.
        page.see("1.00 in/h, between 0.80 and 1.20").await;
        page.is_accessible("a quick test by cans").await;
        page.pick("Meter").await;
        page.fill("Meter before, gal", "1000").await;
        page.fill("Meter after, gal", "900").await;
        page.fill("Ran, min", "10").await;
        page.press("Work out the rate").await;
        page.see("The meter after is not above the meter before")
            .await;
        page.pick("Nozzle chart").await;
        page.fill("Flow of one nozzle, gpm", "0.92").await;
        page.fill("Between heads, ft", "15").await;
        page.press("Work out the rate").await;
        page.see("Fill this in.").await;
        page.fill("Between rows, ft", "15").await;
        page.press("Work out the rate").await;
        // 96.25 · 2 · 0.92 / 225.
        page.see("0.79 in/h, between 0.51 and 1.06").await;
        page.is_accessible("a quick test by the nozzle").await;
        page.pick("Cans, watch").await;
        page.press("Work out the rate").await;
        page.press("Keep it, plan with it").await;
        page.see("Front: 1.00 in/h").await;
        page.see(" min → ").await;
        page.press("All sprinklers").await;
        page.see("measured 18 June, quick: 3 cans and a watch")
            .await;
        page
    })
    .await;
    assert_eq!(kept(&app).await, 1);
}

async fn add(api: &Api, site: &str, test: Value, key: &str) {
    let body = json!({ "test": test, "idempotency_key": key });
    let path = format!("{site}/zones/1/sprinkler-tests");
    let answer = api.send(Method::POST, &path, body).await;
    expect(answer, StatusCode::CREATED).await;
}

#[tokio::test]
async fn before_and_after_stand_side_by_side_and_a_mended_head_makes_tests_old() {
    let (app, api, site) = App::with_dry_zone().await;
    let mut dry_corner = can_test();
    for can in [0, 1, 4] {
        dry_corner["cans"][can]["reading"] = json!(6);
    }
    add(&api, &site, dry_corner, "before-001").await;
    add(&api, &site, can_test(), "after-0001").await;
    // Both were made before the fault: what is measured while a head is at fault is what the zone waters with it.
    for (key, date) in [("before-001", "2026-06-10"), ("after-0001", "2026-06-16")] {
        sqlx::query("UPDATE sprinkler_test SET date = $2::date WHERE idempotency_key = $1")
            .bind(key)
            .bind(date)
            .execute(&app.pool)
            .await
            .unwrap();
    }
    with_page(&app, Screen::Desk, "before-after", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        page.unfold("Before and after: 10 June, 16 June").await;
        page.see("Evenness 0.34 → 0.74.").await;
        page.see("Head 1 gives its neighbourhood").await;
        let mut lefts = Vec::new();
        for day in ["10 June", "16 June"] {
            let plan = page
                .find(&format!("//*[local-name()='svg' and @aria-label='What the cans of Front caught on {day}']"))
                .await;
            lefts.push(plan.rectangle().await.unwrap());
        }
        assert!(lefts[0].0 + lefts[0].2 <= lefts[1].0, "side by side: {lefts:?}");
        assert!((lefts[0].1 - lefts[1].1).abs() < 1.0, "{lefts:?}");
        page.is_accessible("before and after").await;

        page.unfold("Heads: none to repair").await;
        page.press("Note it").await;
        page.see("Which?").await;
        page.fill("Head", "1").await;
        page.choose("What is wrong", "clogged").await;
        page.set("Due", "2026-06-10").await;
        page.press("Note it").await;
        page.see("This day is past").await;
        page.set("Due", "2026-06-20").await;
        page.fill("Note", "grit").await;
        page.press("Note it").await;
        page.see("Heads: 1 to repair").await;
        let noted = page.table("Heads of Front to be repaired").await;
        assert_eq!(noted[0], ["1", "clogged: grit", "18 June, Hazel Fern", "20 June", "Repaired"]);
        page.is_accessible("a head to be repaired").await;
        // Doubted from the day on which it was noted, whichever test.
        page.see("head 1 is at fault since 18 June: this no longer holds").await;
        page.see("16.0 mm/h, even 0.74: in doubt").await;
        page.press("Repaired, head 1 of Front").await;
        page.see("18 June: head 1 repaired (clogged: grit), Hazel Fern").await;
        page.press("Not repaired after all, head 1 of Front").await;
        page.see("Heads: 1 to repair").await;
        page.press("Repaired, head 1 of Front").await;
        page.see("Heads: none to repair").await;
        // Both are older than the repair.
        for day in ["10 June", "16 June"] {
            page.find(&format!("//figure[contains(., '{day}') and contains(., 'Head 1, at fault since 18 June, was repaired on 18 June: measure again')]"))
                .await;
        }
        page.is_accessible("a test that is old").await;
        page.choose("This test", "counts, whatever comes after").await;
        page.see("measured 16 June, 16 cans").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_broken_head_without_a_day_reaches_morning() {
    let (app, api, site) = App::with_dry_zone().await;
    let head = json!({ "head": 4, "fault": "broken", "idempotency_key": "walk-0001" });
    let path = format!("{site}/zones/1/head-faults");
    expect(
        api.send(Method::POST, &path, head).await,
        StatusCode::CREATED,
    )
    .await;
    with_page(&app, Screen::Phone, "broken", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Front, head 4").await;
        page.see("broken, noted 18 June, no day set.").await;
        page
    })
    .await;
}

/// Sixteen cans on a page at a quarter of its speed. What it finds is printed, not asserted: `-- typing --nocapture`.
#[tokio::test]
async fn typing_on_a_slow_phone_is_reported() {
    let (app, _api, _site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "typing", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Sprinklers").await;
        begin(&page).await;
        page.see("Can 1 of 16").await;
        slow_down(&page.client, 4).await;
        let watch = "window.tasks = [];
            new PerformanceObserver((l) => l.getEntries().forEach((e) => window.tasks.push(e.duration))).observe({ type: 'longtask' });
            performance.clearResourceTimings();";
        page.client.execute(watch, vec![]).await.unwrap();
        read(&page, 0..16).await;
        page.see("Finish with 16").await;
        let found = "const asked = performance.getEntriesByType('resource').filter((e) => e.name.endsWith('sprinkler-test-results'));
            return { long: window.tasks, results: asked.map((e) => e.duration) };";
        let found = page.client.execute(found, vec![]).await.unwrap();
        let list = |name: &str| -> Vec<f64> {
            found[name]
                .as_array()
                .unwrap()
                .iter()
                .map(|ms| ms.as_f64().unwrap())
                .collect()
        };
        let (long, results) = (list("long"), list("results"));
        let most = |ms: &[f64]| ms.iter().copied().fold(0.0, f64::max);
        assert_eq!(results.len(), 16, "a result after each reading");
        println!(
            "typing, 4x slower: {} tasks over 50 ms, the longest {:.0} ms; results after {:.0} ms at most",
            long.len(),
            most(&long),
            most(&results)
        );
        page
    })
    .await;
}
