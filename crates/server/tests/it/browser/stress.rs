//! Stress: zones are let go at the desk, their crowns appear on Week, and a viewer only reads.

use super::Screen;
use super::page::with_page;
use crate::harness::{App, EMAIL};
use crate::publications::publish;
use crate::recovery::{LET_GO, until_judged, until_waking};
use crate::stress::falling_asleep;
use crate::walks::heat_wave;

#[tokio::test]
async fn three_zones_are_let_go_and_their_crowns_are_on_the_week() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    publish(&api, "/sites/1", "crowns").await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "stress", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.see("Every zone is kept green.").await;
        page.is_accessible("stress").await;
        for zone in ["East bank", "West bank", "Library lawn"] {
            page.press(&format!("Let it go, {zone}")).await;
            page.see("Its crowns alone are watered from today on").await;
            page.see("The week that is published waters it as before.")
                .await;
            page.fill("Why, in your words", "water is short").await;
            page.press("Let it go from today").await;
            page.gone("//*[@role='dialog']").await;
        }
        page.see("3 zones are let go.").await;
        page.see("no traffic or play, no mowing unless needed")
            .await;
        page.see("Days of heat left").await;
        page.is_accessible("stress with zones let go").await;
        page.unfold("Day by day, and who decided what").await;
        page.see("“water is short”").await;
        page.press("Week").await;
        page.see("let go: keep feet, mower, weed killer and quick nitrogen off")
            .await;
        page.press("Morning").await;
        page.see("it is let go; its crowns are watered next").await;
        // Woken at once, which is said to be early.
        page.press("Stress").await;
        page.press("Wake it, Library lawn").await;
        page.see("It is early").await;
        page.press("Wake it from today").await;
        page.see("One zone wakes.").await;
        page
    })
    .await;
    with_page(&app, Screen::Phone, "stress-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.press("Stress").await;
        page.see("2 zones are let go.").await;
        page.gone("//button[starts-with(@aria-label, 'Wake it')]")
            .await;
        page.fits("stress").await;
        page.is_accessible("stress on the phone").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_zone_that_falls_asleep_asks_on_morning_and_is_let_go_on_the_phone() {
    let (app, _api, _) = falling_asleep().await;
    with_page(&app, Screen::Phone, "falls-asleep", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Pavilion front: it falls asleep").await;
        page.press("Stress").await;
        page.see("of the last 9 days more than 90 % of its water were gone")
            .await;
        page.see("for a decision").await;
        page.is_accessible("a proposal").await;
        page.press("Let it go, Pavilion front").await;
        page.press("Let it go from today").await;
        page.gone("//*[@role='dialog']").await;
        page.press_at("//li[@aria-label='Pavilion front']//summary")
            .await;
        page.see("as proposed").await;
        page
    })
    .await;
}

#[tokio::test]
async fn three_zones_are_walked_in_a_heat_wave_and_the_plan_moves() {
    let (app, api, due) = heat_wave().await;
    let plans = || async { api.json("/sites/1/plan").await["current"]["id"].clone() };
    let before = plans().await;
    let stress = api.json("/sites/1/stress").await;
    let order: Vec<i64> = serde_json::from_value(stress["walk_order"].clone()).unwrap();
    let zones = stress["zones"].as_array().unwrap();
    let name = |id: i64| {
        let zone = zones.iter().find(|z| z["zone"] == id).unwrap();
        zone["name"].as_str().unwrap().to_owned()
    };
    let names: Vec<String> = order.iter().map(|id| name(*id)).collect();
    assert!(due.len() >= 3);
    with_page(&app, Screen::Phone, "walk", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Walk it").await;
        page.see("Walk-round, zone 1 of 7").await;
        page.see(&names[0]).await;
        // Nothing is noted before the footprints are.
        page.press("Note it").await;
        page.see("Say first how long footprints stay").await;
        page.press("stay half an hour").await;
        page.press("brown patches").await;
        page.press("it holds").await;
        page.press("green, or white and firm").await;
        page.fits("a look").await;
        page.is_accessible("a look at a zone").await;
        page.press("Note it").await;
        page.see("Asleep: brown, and alive.").await;
        page.see("Thirsty for some time.").await;
        page.see("In the plan").await;
        page.is_accessible("what a look means").await;
        page.press(&format!("Next: {}", names[1])).await;
        // A screwdriver that is stopped wants its depth, one that is not has that of its blade; moist soil under wilted grass is not thirst.
        page.press("stay for minutes").await;
        page.press("it is hard though moist").await;
        page.press("Note it").await;
        page.see("Fill this in.").await;
        page.press("it went in all the way").await;
        page.fill("Length of its blade, cm", "20").await;
        page.press("Note it").await;
        page.see("Not thirst: its soil is moist.").await;
        page.press(&format!("Next: {}", names[2])).await;
        page.press("rise at once").await;
        page.press("Note it").await;
        page.see("It has water.").await;
        page.press("Undo").await;
        page.press("stay for minutes").await;
        page.press("Note it").await;
        page.see("It begins to be thirsty.").await;
        page.press(&format!("Next: {}", names[3])).await;
        for next in &names[4..7] {
            page.press(&format!("Pass over to: {next}")).await;
            page.see(next).await;
        }
        page.press("End the walk").await;
        page.see("The lawn is walked").await;
        page.press("Heat and drought").await;
        page.see("Heat ahead").await;
        page.see("By hand on a hot day").await;
        page.fits("stress in heat").await;
        page.is_accessible("stress in heat").await;
        page
    })
    .await;
    assert_ne!(plans().await, before);
    let seen = api.json("/sites/1/seen").await;
    let walked = seen
        .as_array()
        .unwrap()
        .iter()
        .filter(|s| s["seen"]["seen"] == "footprints" && s["date"] == stress["today"]);
    assert_eq!(walked.count(), 3);
}

#[tokio::test]
async fn scarce_water_is_shared_out_at_the_desk() {
    let (app, ..) = heat_wave().await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "share", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.press("Let it go, Library lawn").await;
        page.press("Let it go from today").await;
        page.gone("//*[@role='dialog']").await;
        // Trees in a lawn: not walked or let go, and first of scarce water.
        page.open("/site/1/zones/6").await;
        page.press("Change it").await;
        page.choose("Watered for", "trees in it: deep and seldom")
            .await;
        page.press("Save and plan").await;
        page.see("is saved and planned.").await;
        page.press("Week").await;
        page.see("trees in the lawn").await;
        page.press("Stress").await;
        page.gone("//li[@aria-label='Schoolhouse strip']").await;
        page.press("Too little water: who gets what there is").await;
        page.see("Schoolhouse strip (trees)").await;
        page.see("no zone goes short for want of water").await;
        page.fill("Water for these seven days, m³", "-3").await;
        page.press("Share it out").await;
        page.find("//*[contains(@class, 'error') and string-length() > 3]")
            .await;
        page.fill("Water for these seven days, m³", "20").await;
        page.press("Share it out").await;
        page.see("With 20.0 m³").await;
        page.see("of that without any water").await;
        page.see("It does not keep new grass moist.").await;
        page.find("//tr[starts-with(., 'New corner (new grass)')]/td[.='dries out']")
            .await;
        page.is_accessible("too little water").await;
        page.choose("Or a stage’s cut", "50 % less than it needs")
            .await;
        page.see("(50 % of that)").await;
        page.fill("Water for these seven days, m³", "20").await;
        page.press("Share it out").await;
        page.see("With 20.0 m³").await;
        page.press("Hold the plan to 20.0 m³ a week").await;
        page.see("The rule “Water is short” leaves").await;
        page
    })
    .await;
    with_page(&app, Screen::Phone, "share-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.press("Stress").await;
        page.press("Too little water: who gets what there is").await;
        page.see("The rule “Water is short” leaves").await;
        page.gone("//button[starts-with(., 'Hold the plan')]").await;
        page.fits("too little water").await;
        page.is_accessible("too little water on the phone").await;
        page.open("/site/1/stress").await;
        page.see("Heat ahead").await;
        page.gone("//a[. = 'Walk the lawn']").await;
        page.open("/site/1/stress/walk").await;
        page.see("Not with your role").await;
        page
    })
    .await;
}

#[tokio::test]
async fn in_extreme_heat_cooling_is_told_and_hot_edges_are_set_on_site() {
    let (app, ..) = heat_wave().await;
    // The service sees two days of 38 °C, the second of them humid.
    sqlx::query("UPDATE forecast_day SET tmax_c = 38, rh_min_pct = CASE WHEN date = '2026-06-20' THEN 70 ELSE 30 END WHERE date BETWEEN '2026-06-19' AND '2026-06-20'")
        .execute(&app.pool)
        .await
        .unwrap();
    with_page(&app, Screen::Desk, "extreme-heat", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.see("Cool-season grass: do not mow.").await;
        page.see("Warm-season grass: mow higher").await;
        page.see("all of it").await;
        page.unfold("Cooling leaves at midday, on top of the deep watering: disputed")
            .await;
        page.see("12:00 and 15:00").await;
        page.see("no: the air is humid (70 % at the least)").await;
        page.is_accessible("extreme heat").await;
        // Another hot edge: larger than the zone it is refused, then it is on the list.
        page.open("/site/1/zones/5").await;
        page.press("Change it").await;
        page.fill("Area along paving or a wall, m²", "5000").await;
        page.press("Save and plan").await;
        page.see("hot edges are larger together than their zone")
            .await;
        page.fill("Area along paving or a wall, m²", "20").await;
        page.press("Save and plan").await;
        page.see("is saved and planned.").await;
        page.press("Stress").await;
        page.see("Library lawn, along paving or a wall").await;
        page
    })
    .await;
}

#[tokio::test]
async fn zones_that_were_let_go_recover_in_autumn_and_what_died_is_on_the_repair_list() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "let-go-for-summer", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.press("Recovery and repair").await;
        page.see("No zone wakes from a drought, and no patch is noted.")
            .await;
        page.is_accessible("recovery of nothing").await;
        page.press("Stress").await;
        for zone in ["Pavilion front", "East bank", "Library lawn"] {
            page.press(&format!("Let it go, {zone}")).await;
            page.press("Let it go from today").await;
            page.gone("//*[@role='dialog']").await;
        }
        page.press("Week").await;
        page.see("let go: keep feet, mower, weed killer and quick nitrogen off")
            .await;
        // What stays brown is noted while it sleeps, with a photo.
        page.open("/site/1/stress/recovery").await;
        page.press("Note a patch").await;
        page.press("Note it").await;
        page.see("Say where it is.").await;
        page.see("Fill this in.").await;
        page.fill("Where it is", "by the drive").await;
        page.fill("Its area, m²", "90000").await;
        page.press("Note it").await;
        page.see("open patches are larger together than the zone")
            .await;
        page.fill("Its area, m²", "12.5").await;
        page.press("it comes away").await;
        page.photo("then").await;
        page.is_accessible("a patch is noted").await;
        page.press("Note it").await;
        page.see("too early to be sure, look again").await;
        page
    })
    .await;
    let woken = until_waking(&api).await;
    with_page(&app, Screen::Desk, "wakes", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Pavilion front: it can wake").await;
        page.press("Stress").await;
        for zone in ["Pavilion front", "East bank", "Library lawn"] {
            page.press(&format!("Wake it, {zone}")).await;
            page.press("Wake it from today").await;
            page.gone("//*[@role='dialog']").await;
        }
        page.see("3 zones wake.").await;
        page.press("Morning").await;
        page.see("Wet it through to the roots. Now: the plan waters it as turf again.")
            .await;
        page.press("Stress").await;
        page.press("Recovery and repair").await;
        page.see("after 21 mild days, of which there were 0").await;
        page.is_accessible("recovery").await;
        page
    })
    .await;
    let view = until_judged(&api, LET_GO[0]).await;
    assert!(view["today"].as_str().unwrap() > woken.as_str());
    with_page(&app, Screen::Desk, "judged", |page| async move {
        page.sign_in(EMAIL).await;
        page.see("Tell dead from asleep.").await;
        page.press("Stress").await;
        page.press("Recovery and repair").await;
        page.press("Look again, by the drive, Pavilion front").await;
        page.press("it comes away").await;
        page.press("brown and brittle").await;
        page.photo("now").await;
        page.press("Note it").await;
        page.gone("//*[@role='dialog']").await;
        page.find("//figcaption[starts-with(., 'Then: 18 June')]")
            .await;
        page.find("//figcaption[starts-with(., 'Now: ')]").await;
        page.press("Note a patch").await;
        page.choose("Zone", "Library lawn").await;
        page.fill("Where it is", "under the window").await;
        page.fill("Its area, m²", "0.8").await;
        page.press("brown and brittle").await;
        page.press("Note it").await;
        page.gone("//*[@role='dialog']").await;
        // 40 g/m² of fescue; bluegrass closes a small gap by itself.
        page.see("0.50 kg of seed, at 40 g/m²").await;
        page.see("closes by itself: feed and water it").await;
        page.see("seed: 0.50 kg of tall fescue").await;
        page.see("too late this autumn (18 September): in spring, or sod")
            .await;
        page.is_accessible("the repair list").await;
        page.press("Repaired, by the drive, Pavilion front").await;
        page.see("Repaired on").await;
        page.press("Stress").await;
        page.press("It is green again, East bank").await;
        page.press("Keep it green from today").await;
        page.gone("//*[@role='dialog']").await;
        page
    })
    .await;
    with_page(&app, Screen::Phone, "repair-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.press("Stress").await;
        page.press("Recovery and repair").await;
        page.see("closes by itself: feed and water it").await;
        page.gone("//button[. = 'Note a patch']").await;
        page.gone("//button[starts-with(@aria-label, 'Open again')]")
            .await;
        page.fits("recovery").await;
        page.is_accessible("recovery on the phone").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_zone_is_decided_on_by_past_summers_and_kept_green() {
    let app = App::own_demo().await;
    app.member("viewer@meadow.example", "/sites/1", "viewer")
        .await;
    with_page(&app, Screen::Desk, "decide", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Stress").await;
        page.press("Keep green, or let go?").await;
        page.see("By 10 past summers, 2016 to 2025").await;
        page.see("% less water.").await;
        page.see("without any water it lives").await;
        page.unfold("How we compute it").await;
        page.see("more than 90 % of its water gone on 7 of 9 days")
            .await;
        page.is_accessible("decide").await;
        page.press("Keep it green, Library lawn").await;
        page.see("not asked again this summer").await;
        page.fill("Why, in your words", "weddings").await;
        page.press("Keep it green from today").await;
        page.gone("//*[@role='dialog']").await;
        page.see("as chosen: not asked again before 16 October")
            .await;
        page.gone("//button[@aria-label='Keep it green, Library lawn']")
            .await;
        page.press("Let it go, Library lawn").await;
        page.see("It was chosen to keep it green.").await;
        page.press("Close").await;
        page.press("Stress").await;
        page.see("As chosen: not asked again before 16 October.")
            .await;
        page
    })
    .await;
    let pool = app.pool.clone();
    with_page(&app, Screen::Phone, "decide-viewer", |page| async move {
        page.sign_in("viewer@meadow.example").await;
        page.press("Stress").await;
        page.press("Keep green, or let go?").await;
        page.see("% less water.").await;
        page.gone("//button[starts-with(@aria-label, 'Let it go')]")
            .await;
        page.fits("decide").await;
        page.is_accessible("decide on the phone").await;
        // Without past summers it says what to do.
        // What is kept of an answer holds until something of the site is written, as every commit says.
        for written in [
            "DELETE FROM weather_day WHERE date < '2026-01-01'",
            "UPDATE site SET written = written + 1 WHERE id = 1",
        ] {
            sqlx::query(written).execute(&pool).await.unwrap();
        }
        page.open("/site/1/stress/decide").await;
        page.see("no whole past summer").await;
        page.is_accessible("decide without past summers").await;
        page
    })
    .await;
}
