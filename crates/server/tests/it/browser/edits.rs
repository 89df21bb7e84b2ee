//! A person changes the plan: what follows is read first; on the phone, by keys alone, and beside another who does the same.

use fantoccini::key::Key;
use serde_json::Value;

use super::Screen;
use super::page::{Page, with_page};
use crate::edits::{days, planned};
use crate::harness::{App, EMAIL};

#[tokio::test]
async fn a_day_is_skipped_and_given_minutes_on_the_phone_and_undone() {
    let (app, api, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "edits", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.see("Change this day").await;
        // What follows is seen before anybody has to say why.
        page.press("See what follows").await;
        page.table("What follows").await;
        page.press("Skip the day").await;
        page.see("Say why before it is kept: others read it.").await;
        page.fill("Why", "a fair").await;
        page.press("See what follows").await;
        let rows = page.table("What follows").await;
        assert_eq!(rows.len(), 5, "{rows:?}");
        page.is_accessible("a change that is tried").await;
        page.fits("a change that is tried").await;
        page.press("Skip the day").await;
        page.see("Skipped: a fair (Hazel Fern)").await;
        page.pick("Add a watering").await;
        page.fill("For how many minutes", "24").await;
        page.press("See what follows").await;
        page.press("Add it").await;
        page.see("Set to 24 min").await;
        let undo = "//section[@role='dialog']//button[normalize-space(.)='Undo']";
        page.press_at(undo).await;
        page.see("Skipped: a fair (Hazel Fern)").await;
        page.press("Back to the plan").await;
        page.gone("//*[contains(., 'Skipped: a fair')]").await;
        page.press("Close the working").await;

        // From the Week itself, by touch: five minutes less, read before it is kept.
        page.press("Change, Front").await;
        page.pick("Minutes").await;
        page.press("5 min less").await;
        page.press("See what follows").await;
        page.see("→").await;
        page.press("Water it so").await;
        page.find("//td[@role='gridcell'][contains(., 'set')]")
            .await;
        page.fits("an edited week").await;
        page
    })
    .await;
    let edits = days(&api, &site).await;
    assert_eq!(edits[0]["act"], "minutes", "{edits}");
}

#[tokio::test]
async fn a_watering_on_a_night_that_may_freeze_is_asked_about_on_the_phone() {
    let (app, api, site, day) = planned().await;
    let cold = format!("date,tmin_c,tmax_c,rain_mm,rain_probability_pct\n{day},1.5,9,0,0\n");
    let version = api.json(&site).await["weather_version"].as_i64();
    let imports = format!("{site}/weather-imports?conflicts=keep");
    let imported = api.csv(&imports, version, &cold).await;
    assert_eq!(imported.status(), reqwest::StatusCode::CREATED);
    with_page(&app, Screen::Phone, "frost", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Week").await;
        page.press("Why, Front").await;
        page.pick("Add a watering").await;
        page.fill("For how many minutes", "24").await;
        page.press("See what follows").await;
        page.see("It may freeze that night").await;
        page.press("Add it").await;
        page.see("water on paving turns to ice, and people slip on it")
            .await;
        page.is_accessible("a watering in frost is asked about")
            .await;
        page.press("Yes, it is so").await;
        page.see("Set to 24 min").await;
        page.see("falls on a night that may freeze").await;
        page.is_accessible("a watering in frost").await;
        page
    })
    .await;
    assert_eq!(days(&api, &site).await[0]["act"], "minutes");
}

/// The cell of the day that waters selected and in focus, by keys alone: Tab leads to the grid, arrows through it.
async fn select_watering(page: &Page) {
    page.press("Week").await;
    page.find("//table[@role='grid']").await;
    let focused = async |script: &str| {
        let script = format!("return {script}");
        let answer = page.client.execute(&script, vec![]).await.unwrap();
        answer == Value::Bool(true)
    };
    for _ in 0..30 {
        if focused("document.activeElement.role === 'gridcell'").await {
            break;
        }
        page.keys(&Key::Tab.to_string()).await;
    }
    for _ in 0..9 {
        if focused("document.activeElement.textContent.includes('×')").await {
            return;
        }
        page.keys(&Key::Right.to_string()).await;
    }
    panic!("no day of the week waters");
}

#[tokio::test]
async fn a_day_is_locked_skipped_moved_set_undone_and_done_again_by_keys_alone() {
    let (app, api, site, _) = planned().await;
    let enter = Key::Enter.to_string();
    with_page(&app, Screen::Desk, "edit-keys", |page| async move {
        page.sign_in(EMAIL).await;
        select_watering(&page).await;
        // A letter opens the change with its field in focus; Enter looks, Enter again keeps, and the grid has the focus again.
        for (key, field, typed, keep, then) in [
            ("l", "BUTTON", "", "Keep it as it is", "set"),
            ("s", "INPUT", "a fair", "Skip the day", "taken out"),
        ] {
            page.keys(key).await;
            page.see("Change this day").await;
            page.in_focus(field).await;
            page.keys(&format!("{typed}{enter}")).await;
            page.see("At most beyond the limit").await;
            page.in_focus("BUTTON").await;
            page.find(&format!(
                "//button[normalize-space(.)='{keep}'][not(@disabled)]"
            ))
            .await;
            page.keys(&enter).await;
            page.gone("//section[@role='dialog']").await;
            page.find(&format!("//td[@role='gridcell'][contains(., '{then}')]"))
                .await;
        }
        page.keys("u").await;
        page.see("Undone: Skipped, Front").await;
        page.keys("r").await;
        page.see("Done again: Skipped, Front").await;
        page.keys(&format!("{}z", Key::Control)).await;
        page.see("Undone: Skipped, Front").await;
        page.keys("u").await;
        page.see("Undone: Locked at").await;
        page.keys("u").await;
        page.see("There is nothing of yours to undo.").await;

        page.keys("m").await;
        page.in_focus("INPUT").await;
        // What is there is marked by the keys that mark all.
        page.keys(&format!("{}a", Key::Control)).await;
        page.keys(&format!("24{enter}")).await;
        page.see("At most beyond the limit").await;
        page.in_focus("BUTTON").await;
        page.keys(&enter).await;
        page.gone("//section[@role='dialog']").await;
        page.find("//td[@role='gridcell'][contains(., '24 min')]")
            .await;
        page.keys("u").await;
        page.see("Undone: Set to 24 min, Front").await;
        page.keys("d").await;
        page.in_focus("SELECT").await;
        page.keys(&Key::Down.to_string()).await;
        page.keys(&Key::Tab.to_string()).await;
        page.keys(&enter).await;
        page.see("At most beyond the limit").await;
        page.in_focus("BUTTON").await;
        page.keys(&enter).await;
        page.gone("//section[@role='dialog']").await;
        page.find("//td[@role='gridcell'][contains(., 'taken out')]")
            .await;
        page.is_accessible("a week changed by keys").await;

        // Published by keys too; what is changed after it is shown against it.
        page.see("Nothing is published").await;
        page.keys("p").await;
        page.see("Publish this week").await;
        page.is_accessible("publishing").await;
        page.in_focus("BUTTON").await;
        page.keys(&enter).await;
        page.gone("//section[@role='dialog']").await;
        page.see("it runs up to Wed 24 June").await;
        page.keys("u").await;
        page.see("Changed since it was published:").await;
        page.keys("p").await;
        page.see("What the newest plan changes of it").await;
        let sums = page.table("What each comes to").await;
        assert_eq!(sums.len(), 3, "{sums:?}");
        page.see("Meanwhile: somebody changed").await;
        page.is_accessible("what changed since it was published")
            .await;
        page.fits("what changed since it was published").await;
        page.in_focus("BUTTON").await;
        page.keys(&enter).await;
        page.gone("//section[@role='dialog']").await;
        page.see("it runs up to Wed 24 June").await;
        page
    })
    .await;
    assert_eq!(days(&api, &site).await, serde_json::json!([]));
    let history = api.json(&format!("{site}/history")).await.to_string();
    for event in ["day_edited", "edit_undone", "edit_redone", "published"] {
        assert!(
            history.contains(&format!("\"{event}\"")),
            "{event}: {history}"
        );
    }
}

#[tokio::test]
async fn two_people_change_the_same_day_and_the_second_sees_both() {
    let (app, api, site, _) = planned().await;
    app.manager("clover@meadow.example", &site).await;
    with_page(&app, Screen::Desk, "edit-stale", |first| async move {
        let (second, _permit) = first.beside(Screen::Desk).await;
        first.sign_in(EMAIL).await;
        select_watering(&first).await;
        second.sign_in("clover@meadow.example").await;
        select_watering(&second).await;
        second.press("Change, Front").await;
        second.pick("Minutes").await;
        second.fill("For how many minutes", "31").await;
        second
            .fill("Why (if others should know)", "the fair is off")
            .await;
        // Meanwhile the first skips the day.
        first.press("Change, Front").await;
        first.fill("Why", "a fair").await;
        first.press("See what follows").await;
        first.press("Skip the day").await;
        first
            .find("//td[@role='gridcell'][contains(., 'taken out')]")
            .await;
        // The second's is refused, both are shown, and nothing of it is lost.
        second.press("See what follows").await;
        second
            .see("Hazel Fern changed this day while you looked at it.")
            .await;
        let both = second.table("Both versions").await;
        assert_eq!(both[0], ["What", "Skipped", "31 min"]);
        assert_eq!(both[1], ["Why", "a fair", "the fair is off"]);
        second.is_accessible("both versions").await;
        assert_eq!(second.value("For how many minutes").await, "31");
        second.press("See what yours would do now").await;
        second.see("At most beyond the limit").await;
        second.press("Water it so").await;
        second
            .find("//td[@role='gridcell'][contains(., '31 min')]")
            .await;
        second.client.close().await.unwrap();
        // The first's own is not undone any more, and why is said.
        first.press("Undo").await;
        first.see("changed this day after it").await;
        first
    })
    .await;
    let edits = days(&api, &site).await;
    assert_eq!(edits[0]["act"], "minutes", "{edits}");
}
