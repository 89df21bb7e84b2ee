//! The Week in the browser: all days in sight, a zone kept dry on Saturday, and the sheet on paper.

use serde_json::{Value, json};

use super::driver::{Screen, print};
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn all_days_of_the_week_are_in_sight_and_fit_one_sheet() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let plan = api.json("/sites/1/plan").await["current"]["plan"].clone();
    let sheets = with_sheets(&app).await;
    let days = |plan: &Value| -> Vec<String> {
        let today = plan["today"].as_str().unwrap().to_owned();
        plan["days"]
            .as_array()
            .unwrap()
            .iter()
            .map(|d| d["date"].as_str().unwrap().to_owned())
            .filter(|d| *d >= today)
            .collect()
    };
    for (paper, bytes) in sheets {
        let sheet = lopdf::Document::load_mem(&bytes).unwrap();
        let pages: Vec<u32> = sheet.get_pages().into_keys().collect();
        assert_eq!(pages.len(), 1, "{paper}");
        let text = sheet.extract_text(&pages).unwrap().replace('\n', " ");
        let text = text.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(text.contains("Sorrel Hollow Commons"), "{paper}: {text}");
        for day in days(&plan) {
            let number = day[8..].trim_start_matches('0').to_owned();
            assert!(text.contains(&number), "{paper}: {day}");
        }
        for zone in plan["zones"].as_array().unwrap() {
            assert!(
                text.contains(zone["name"].as_str().unwrap()),
                "{paper}: {}",
                zone["name"]
            );
        }
        for screen in ["Keys: arrows", "Why", "demo clock", "US units"] {
            assert!(!text.contains(screen), "{paper}: {screen}");
        }
    }
}

/// The Week, looked at on a desk and printed on both papers.
async fn with_sheets(app: &App) -> Vec<(&'static str, Vec<u8>)> {
    let (sender, receiver) = std::sync::mpsc::channel();
    with_page(app, Screen::Desk, "print", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.see("reference ET, mm").await;
        let hidden = "const grid = document.querySelector('[role=grid]').parentElement;
            return grid.scrollWidth - grid.clientWidth";
        let hidden = page.client.execute(hidden, vec![]).await.unwrap();
        assert_eq!(hidden, json!(0), "all days are in sight at 1280 px");
        for (paper, width, height) in [("A4", 8.27, 11.69), ("Letter", 8.5, 11.0)] {
            let pdf = print(&page.client, width, height).await;
            sender.send((paper, pdf)).unwrap();
        }
        page
    })
    .await;
    receiver.into_iter().collect()
}

/// A figure as it is shown, in tenths.
fn tenths(text: &str) -> i64 {
    let value: f64 = text.parse().unwrap_or_else(|_| panic!("{text}"));
    #[allow(clippy::cast_possible_truncation)] // a depth of a few hundred tenths
    let tenths = (value * 10.0).round() as i64;
    tenths
}

#[tokio::test]
async fn headline_rows_and_working_say_what_decided_and_add_up() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Desk, "decided", |page| async move {
        page.sign_in(EMAIL).await;
        // Zones with room left wait: rain is likelier than not, and the working shows what waiting costs.
        page.see("Tomorrow: water one zone and New corner (5 times) by hand, hold six.")
            .await;
        // The one that waters is beyond its limit, and leaves room.
        page.see("22.5 of 18.5 mm used").await;
        page.see("room is left for rain.").await;
        // What decided, not what came of it; and for which dawn the figures are.
        page.see("Tomorrow at dawn: ").await;
        page.see("likely to bring it back within its limit before Thu 25 June: it waits.")
            .await;
        page.press("Why, Playing field").await;
        page.see("Against refilling now, holding keeps ").await;
        page.see("It waits only where rain is likelier than not")
            .await;
        // The parts of a cost are weighted as they are counted: each line adds up to its cost.
        let choices = page.table("Choices and their costs").await;
        assert!(choices.len() > 2, "{choices:?}");
        for choice in &choices {
            let figures: Vec<i64> = choice[1..].iter().map(|f| tenths(f)).collect();
            let (cost, parts) = figures.split_last().unwrap();
            assert_eq!(parts.iter().sum::<i64>(), *cost, "{choice:?}");
        }
        page.press("Close the working").await;
        page.gone("//button[@aria-label='Close the working']").await;
        page.press("Week").await;
        page.see("From today, if no rain comes:").await;
        page.see("With the rain in sight about").await;
        page.see("% likely").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_zone_is_kept_dry_on_saturday_and_comes_back_by_itself() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "dry-day", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.fill("Why (before you mark a day)", "a match").await;
        page.pick("Sat 20").await;
        page.see("Sat 20: a match (Hazel Fern)").await;
        page.is_accessible("not on these days").await;
        page.press("Close the working").await;
        page.see("kept dry").await;
        page
    })
    .await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let saturday = plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .find(|c| c["date"] == "2026-06-20")
        .unwrap();
    assert!(saturday["run"].is_null(), "{saturday}");
    let days = api.json(&format!("{site}/dry-days")).await;
    assert_eq!(days[0]["date"], "2026-06-20");
}

#[tokio::test]
async fn a_hose_says_which_part_it_watered() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "hose-part", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Water by hand or hose").await;
        page.fill("Minutes", "25").await;
        page.choose("Ended", "yesterday").await;
        page.set("At", "19:00").await;
        page.fill("Area reached, m²", "60").await;
        page.fill("fills in, s", "30").await;
        page.press("Note it").await;
        page.see("25 min noted. Planned again with it.").await;
        page.see("part of it, 60 m² reached").await;
        // The hose of this place is known from now on.
        page.press("Water by hand or hose").await;
        assert_eq!(page.value("Hose gives, L/min").await, "20");
        page
    })
    .await;
    let runs = api
        .json(&format!("{site}/runs?from=2026-06-17&to=2026-06-17"))
        .await;
    assert_eq!(
        runs[0]["watered"],
        json!({ "by": "hose", "flow_l_min": 20.0, "reached_m2": 60.0 })
    );
    assert_eq!(runs[0]["started_at"], "2026-06-17T22:35:00Z");
}

#[tokio::test]
async fn forty_zones_scroll_under_their_days_beside_their_names() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let mut document = crate::harness::small_site();
    document.zones = (1..=40)
        .map(|n| {
            let zone = crate::harness::zone(&format!("Green {n}"));
            let mut zone: lawn::site::Zone = serde_json::from_value(zone).unwrap();
            zone.id = n.to_string();
            zone
        })
        .collect();
    let site = app.site(owner, &document, crate::harness::NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let weather = crate::harness::weather(|_| None);
    let imports = format!("/sites/{}/weather-imports?conflicts=keep", site.0);
    let done = api.csv(&imports, Some(1), &weather).await;
    assert_eq!(done.status(), reqwest::StatusCode::CREATED);
    with_page(&app, Screen::Desk, "forty", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.see("reference ET, mm").await;
        page.see("Green 40").await;
        let step = "const done = arguments[0];
            const grid = document.querySelector('[role=grid]');
            const began = performance.now();
            grid.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }));
            requestAnimationFrame(() => setTimeout(() => done(performance.now() - began)));";
        let mut took = Vec::new();
        for _ in 0..39 {
            let ms = page.client.execute_async(step, vec![]).await.unwrap();
            took.push(ms.as_f64().unwrap());
        }
        let first = took[0];
        took.sort_by(f64::total_cmp);
        println!(
            "a key on the Week of forty zones: {:.0} ms in the middle, {:.0} ms in one of ten, {:.0} ms at most, the first {first:.0} ms",
            took[19], took[35], took[38]
        );
        // The last zone is reached, and the days and its name are still in sight.
        let seen = "const box = (e) => e.getBoundingClientRect();
            const cell = document.querySelector('[role=grid] [aria-selected=true]');
            const head = [...document.querySelectorAll('[role=grid] thead th')][1];
            const name = cell.parentElement.querySelector('th');
            return [name.textContent.includes('Green 40'), box(head).top >= 0, box(head).bottom <= box(cell).top + 1,
                    box(name).left >= 0, box(cell).bottom <= window.innerHeight + 1]";
        let seen = page.client.execute(seen, vec![]).await.unwrap();
        assert_eq!(seen, json!([true, true, true, true, true]));
        page.press("The night").await;
        page.see("on the clock").await;
        page.is_accessible("a night of forty zones").await;
        page
    })
    .await;
}
