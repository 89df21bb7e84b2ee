//! Local rules in the editor: odd and even dates with a stage that changes in mid-week, a match on the field; the Week obeys and says why.

use serde_json::Value;

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn an_even_rule_with_a_stage_change_in_mid_week_is_entered_and_obeyed() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Desk, "rules", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Rules").await;
        page.see("Local rules decide").await;
        page.see("No rule: the site’s own hours").await;
        let weeks = "Who may water when in the next two weeks";
        assert_eq!(page.table(weeks).await[0][0], "All zones");
        page.press("Add a rule ▾").await;
        page.tap("Odd or even dates").await;
        page.see("All zones: only on even dates.").await;
        page.see("rule 1").await;
        page.press("Add a change of stage").await;
        page.fill("Name of stage 1", "Stage 2").await;
        page.set("Stage 1 from", "2026-06-20").await;
        page.press("Add a rule ▾").await;
        page.tap("Fixed days").await;
        page.fill("Name of rule 2", "").await;
        page.press("Save and plan").await;
        // Nothing is lost where something is wrong, and it is said where.
        page.find("//input[@aria-invalid='true']").await;
        page.fill("Name of rule 2", "Tuesdays in drought").await;
        page.choose("During", "Stage 2").await;
        page.see("All zones: only on even dates, during Stage 2.")
            .await;
        page.is_accessible("rules").await;
        page.choose("During", "Whatever the stage").await;
        let second = "(//select[../../label[normalize-space(text()[1])='During']])[2]";
        page.find(second)
            .await
            .select_by_label("Stage 2")
            .await
            .unwrap();
        page.see("All zones: only on Tuesday and Saturday, during Stage 2.")
            .await;
        page.press("Save and plan").await;
        page.see("The rules are saved, and all is planned by them.")
            .await;
        page.press("Week").await;
        page.see("reference ET, mm").await;
        page.see("Even dates").await;
        page.press("Morning").await;
        page
    })
    .await;
    // Today, the 18th, is even; the 19th is not; from the 20th on Tuesdays and Saturdays that are even: the 20th alone in this week.
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let open: Vec<(&str, bool)> = plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .skip(2)
        .map(|c| {
            let closed = c["verdict"]["verdict"] == "closed_by_rule";
            assert!(!closed || c["run"].is_null(), "{c}");
            (c["date"].as_str().unwrap(), !closed)
        })
        .collect();
    let days = ["18", "19", "20", "21", "22", "23", "24"];
    let expected = [true, false, true, false, false, false, false];
    for ((date, open), (day, expected)) in open.iter().zip(days.iter().zip(expected)) {
        assert!(date.ends_with(day) && *open == expected, "{date}: {open}");
    }
    let history = api.json(&format!("{site}/history")).await;
    assert!(history.to_string().contains("rules_changed"));
}

#[tokio::test]
async fn a_match_on_the_field_is_entered_as_a_rule_and_the_working_names_it() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Desk, "match", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Rules").await;
        page.press("Add a rule ▾").await;
        page.tap("No watering: a match").await;
        page.fill("Name of rule 1", "Midsummer match").await;
        page.set("First day", "2026-06-19").await;
        page.set("Last day", "2026-06-19").await;
        page.pick("Playing field").await;
        // One end of the hours is the day's until it is typed; emptied it is all day again.
        page.set("Hours from", "18:00").await;
        page.see("Playing field: no watering from 18:00 to 23:59, on 19 June.")
            .await;
        page.set("Hours from", "").await;
        page.see("Playing field: no watering, on 19 June.").await;
        page.find("//tr[th[.='Playing field']]/td[contains(., 'rule 1')]")
            .await;
        let rows = page.table("Who may water when in the next two weeks").await;
        assert_eq!(rows.len(), 2, "{rows:?}");
        page.press("Save and plan").await;
        page.see("The rules are saved, and all is planned by them.")
            .await;
        page.press("Morning").await;
        page.press("Why, Playing field").await;
        page.see("“Midsummer match” leaves it no hours").await;
        page.is_accessible("a rule in the working").await;
        page
    })
    .await;
    let api = app.sign_in(EMAIL).await;
    // The rules travel with the document: zones keep who they are under new names.
    let document: Value = api.json("/sites/1/document").await;
    let field = document["rules"]["list"][0]["zones"][0].clone();
    let named = document["zones"]
        .as_array()
        .unwrap()
        .iter()
        .find(|z| z["id"] == field)
        .unwrap();
    assert_eq!(named["name"], "Playing field");
    let made = api.send(reqwest::Method::POST, "/sites", document).await;
    assert_eq!(made.status(), reqwest::StatusCode::CREATED);
    let made: Value = made.json().await.unwrap();
    let zones = api.json(&format!("/sites/{}/zones", made["id"])).await;
    let own = zones
        .as_array()
        .unwrap()
        .iter()
        .find(|z| z["zone"]["name"] == "Playing field")
        .unwrap();
    assert_eq!(made["rules"]["list"][0]["zones"][0], own["id"].to_string());
}

#[tokio::test]
async fn a_volume_cap_forces_a_choice_and_says_what_would_make_it_fit() {
    let (app, api, site) = App::with_dry_zone().await;
    for (name, rank) in [("Goal mouth", 1), ("Verge", 9)] {
        let mut zone = crate::harness::zone(name);
        zone["priority"] = rank.into();
        zone["initial_depletion_mm"] = 25.into();
        zone["area_m2"] = 900.into();
        let made = api
            .send(reqwest::Method::POST, &format!("{site}/zones"), zone)
            .await;
        assert_eq!(made.status(), reqwest::StatusCode::CREATED);
    }
    with_page(&app, Screen::Desk, "cap", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Site").await;
        page.press("Rules").await;
        page.press("Add a rule ▾").await;
        page.tap("At most so much water").await;
        page.fill("Name of rule 1", "Stage 3 volume").await;
        page.fill("Volume, m³", "forty").await;
        page.see("is not a number").await;
        page.fill("Volume, m³", "2000000").await;
        page.see("Between 0.0 and 1,000,000.0 m³.").await;
        page.fill("Volume, m³", "24").await;
        page.see("All zones: at most 24.0 m³ a week together.")
            .await;
        page.is_accessible("a volume cap").await;
        page.press("Save and plan").await;
        page.see("The rules are saved, and all is planned by them.")
            .await;
        page.press("Morning").await;
        page.press("Why, Verge").await;
        // The shortfall and the remedy.
        page.see("“Stage 3 volume” leaves").await;
        page.see("more would keep every zone from harm").await;
        page
    })
    .await;
    let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    let litres = |zone: usize| -> f64 {
        plan["zones"][zone]["cells"]
            .as_array()
            .unwrap()
            .iter()
            .skip(2)
            .take(4)
            .filter_map(|c| c["run"]["volume_l"].as_f64())
            .sum()
    };
    let all: f64 = (0..3).map(litres).sum();
    assert!(all <= 24_000.0 && all > 15_000.0, "{all}");
    assert!(litres(1) > litres(2), "{} {}", litres(1), litres(2));
}
