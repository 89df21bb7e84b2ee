//! New grass in the browser: New corner is watered by hand by the hour, a slot is missed and made good, first blades are seen, and it grows up on the stepped clock; new grass
//! is planned backwards from frost, and counted.

use fantoccini::actions::{InputSource, MOUSE_BUTTON_LEFT, MouseActions, PointerAction};
use fantoccini::key::Key;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use super::Screen;
use super::page::{Page, with_page};
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
        // The browser reminds of the slot that is open, once it is allowed to.
        let allowed = "window.reminded = [];
            window.Notification = class { constructor(title) { window.reminded.push(title); } };
            window.Notification.requestPermission = async () => 'granted';";
        page.client.execute(allowed, vec![]).await.unwrap();
        page.press("Remind me on this device").await;
        page.see("This device reminds of each watering").await;
        let reminded = page.client.execute("return window.reminded", vec![]).await;
        assert_eq!(reminded.unwrap(), json!(["New corner: water it now"]));
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
        // Nobody notes a watering for weeks, and rain keeps it alive: by warmth it fills in, and is as good as mown some weeks later. That nobody noted one stays.
        step(&api, SITE, 17).await;
        page.client.refresh().await.unwrap();
        page.see("days and more. Is it alive?").await;
        page.is_accessible("new grass of which nobody noted a watering")
            .await;
        page.see("New corner, it roots and fills in").await;
        page.press("Mown for the first time, New corner").await;
        page.gone("//h2[text()='New grass']").await;
        let rooted = new_corner(&api).await;
        assert_eq!(rooted["regime"], "established");
        assert_eq!(rooted["by_hand"], false);
        assert!((rooted["root_depth_mm"].as_f64().unwrap() - 30.0).abs() < 1e-6);
        becomes_a_lawn(&page, &api).await;
        page
    })
    .await;
}

/// New corner, which was mown today: it is left alone while its roots are young, and is then said to be a lawn.
async fn becomes_a_lawn(page: &Page, api: &Api) {
    let id = new_corner(api).await["zone"].as_str().unwrap().to_owned();
    let regime = format!("{SITE}/zones/{id}/regime");
    let says = async || {
        let body = json!({ "regime": "established" });
        api.send(Method::PUT, &regime, body).await
    };
    page.open("/site/1/new-grass").await;
    page.see("Until then leave it as new grass on Site, Zones")
        .await;
    let early = expect(says().await, StatusCode::CONFLICT).await;
    let said = early["detail"].as_str().unwrap();
    assert!(said.contains("are young until"), "{early}");
    // On a soil that roots go 5 cm into, two weeks are enough.
    let zones = api.json(&format!("{SITE}/zones")).await;
    let corner = zones
        .as_array()
        .unwrap()
        .iter()
        .find(|z| z["zone"]["name"] == "New corner");
    let mut corner = corner.unwrap().clone();
    corner["zone"]["root_depth_mm"] = json!({
        "value": 50.0, "low": 50.0, "high": 50.0, "source": { "kind": "entered", "date": "2026-06-18" }
    });
    let path = format!("{SITE}/zones/{id}?holds=root_depth_mm:always");
    let version = corner["version"].as_i64().unwrap();
    let kept = api.edit(Method::PUT, &path, version, corner["zone"].clone());
    expect(kept.await, StatusCode::OK).await;
    step(api, SITE, 13).await;
    expect(says().await, StatusCode::CONFLICT).await;
    step(api, SITE, 1).await;
    page.open("/site/1/morning").await;
    page.see("New corner is a lawn now").await;
    page.press("New grass").await;
    page.see("Its roots are as deep as the lawn’s.").await;
    page.fits("new grass that is a lawn").await;
    page.is_accessible("new grass that is a lawn").await;
    let dormant = json!({ "regime": "dormant" });
    let first = expect(
        api.send(Method::PUT, &regime, dormant).await,
        StatusCode::CONFLICT,
    );
    let said = first.await["detail"].as_str().unwrap().to_owned();
    assert!(said.contains("is a lawn"), "{said}");
    page.press("It is a lawn from today, New corner").await;
    page.see("No zone has new grass").await;
    let lawn = new_corner(api).await;
    assert_eq!(
        (&lawn["regime"], &lawn["lawn_from"]),
        (&json!("established"), &Value::Null)
    );
    assert!((lawn["root_depth_mm"].as_f64().unwrap() - 50.0).abs() < 1e-6);
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

/// The strip's handle of a day that a person sets.
fn handle(name: &str) -> String {
    format!("//button[@role='slider'][@aria-label='{name}']")
}

/// Drags a handle sideways by so many pixels.
async fn drag(page: &Page, name: &str, by_px: i64) {
    let element = page.find(&handle(name)).await;
    let script = "arguments[0].scrollIntoView({ block: 'center' })";
    let handle = serde_json::to_value(&element).unwrap();
    page.client.execute(script, vec![handle]).await.unwrap();
    let mouse = MouseActions::new("mouse".to_owned())
        .then(PointerAction::MoveToElement {
            element,
            duration: None,
            x: 0.0,
            y: 0.0,
        })
        .then(PointerAction::Down {
            button: MOUSE_BUTTON_LEFT,
        });
    let step = |x: i64| PointerAction::MoveBy {
        duration: None,
        x: x as f64,
        y: 0.0,
    };
    let mouse = (0..10).fold(mouse, |mouse, _| mouse.then(step(by_px / 10)));
    let mouse = mouse.then(PointerAction::Up {
        button: MOUSE_BUTTON_LEFT,
    });
    page.client.perform_actions(mouse).await.unwrap();
}

#[tokio::test]
async fn new_grass_is_planned_backwards_by_dragging_and_by_keys() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Desk, "new-grass-plan", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("New grass").await;
        page.see("as dry as it may be").await;
        page.press("Plan new grass: when, backwards from frost, what it takes")
            .await;
        page.choose("Zone", "Pavilion front").await;
        page.see("All days go together.").await;
        page.see("On rain alone").await;
        page.is_accessible("new grass planned").await;
        // Kept, it is there when somebody comes back.
        page.press("Keep this plan").await;
        page.see("Its days come up on Morning.").await;
        page.client.refresh().await.unwrap();
        page.see("Its days come up on Morning.").await;
        page.see("All days go together.").await;
        page.see("On rain alone").await;
        // Sowing is dragged into the summer: too soon after the spray, and too hot; the first day that works is offered.
        drag(&page, "Sow", -240).await;
        page.see("not go together: see the marked days").await;
        page.see("it was too hot while its roots are young").await;
        page.see("21 days must lie between spraying and sowing")
            .await;
        page.is_accessible("days that clash").await;
        page.press_at("//button[starts-with(@aria-label, 'Sow: move it to')]")
            .await;
        page.see("All days go together.").await;
        // The spray is moved by the keyboard, a week at a time, until it comes too late.
        let spray = handle("Spray weeds");
        let before = page.attribute_of(&spray, "aria-valuetext").await.unwrap();
        for _ in 0..7 {
            page.find(&handle("Spray weeds"))
                .await
                .send_keys(&Key::PageUp.to_string())
                .await
                .unwrap();
        }
        page.see("not go together: see the marked days").await;
        page.see("the spray needs 7 days to work before the soil is turned")
            .await;
        let after = page.attribute_of(&spray, "aria-valuetext").await.unwrap();
        assert_ne!(before, after);
        assert!(after.contains("days must lie between"), "{after}");
        // Nothing is sprayed: it clashes with nothing.
        page.press_label("Weeds are sprayed first").await;
        page.see("All days go together.").await;
        // Wrong days are answered at their fields.
        page.press_label("Weeds are sprayed first").await;
        page.fill("Days from spraying to sowing, by the label", "300")
            .await;
        page.see("Between 0 and 120 days.").await;
        page.fill("Days from spraying to sowing, by the label", "28")
            .await;
        page.gone("//*[.='Between 0 and 120 days.']").await;
        page.press_label("Weeds are sprayed first").await;
        page.see("All days go together.").await;
        page.unfold("How we compute it").await;
        page.see("the soil is at least 10 °C and at most 24 °C")
            .await;
        // Seed by the label: half of it germinates, and twice as much is bought.
        page.see("24.8 kg").await;
        page.unfold("Area and labels").await;
        page.fill("Germination, on the seed label, %", "10").await;
        page.see("Between 20 and 100 %.").await;
        page.fill("Germination, on the seed label, %", "42.5").await;
        page.see("59.5 kg").await;
        page.see("Rake it in, no deeper than 5 mm").await;
        // Sod in midsummer.
        page.choose("How", "Sod").await;
        page.see("Lay it tight, joints staggered").await;
        page.see("651 m²").await;
        page.is_accessible("sod planned").await;
        page
    })
    .await;
}

#[tokio::test]
async fn new_grass_is_planned_on_a_phone_and_counted_in_a_frame() {
    let app = App::own_demo().await;
    with_page(&app, Screen::Phone, "new-grass-count", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/new-grass/plan?zone=8").await;
        page.see("All days go together.").await;
        page.see("hard frost").await;
        page.fits("new grass planned").await;
        page.is_accessible("new grass planned on a phone").await;
        page.open("/site/1/new-grass").await;
        page.see("Weed killers").await;
        page.see("six weeks after it came up").await;
        page.see("of the 210 °C·d that its next stage wants").await;
        page.fill("Slow-release share of the feed, %", "120").await;
        page.see("Between 0 and 100 %.").await;
        page.fill("Slow-release share of the feed, %", "50").await;
        page.see("again on Mon 3 August").await;
        page.fits("new grass").await;
        page.is_accessible("new grass").await;
        page.press("Count seedlings").await;
        page.fill("Seedlings in each place", "12, x").await;
        page.press("Keep the count").await;
        page.see("“x” is no count of seedlings.").await;
        page.fill("Seedlings in each place", "150, 140, 160, 0")
            .await;
        page.press("Keep the count").await;
        // Seedlings where nothing is up, by what was said: one of the two is not so.
        page.see("By what was said so far nothing is up yet.").await;
        page.is_accessible("a count that contradicts").await;
        page.press("No: keep the count alone").await;
        page.see("A good stand: it closes by itself.").await;
        page.see("Sow again 180.0 m²").await;
        page.see("Its window shuts on").await;
        page.is_accessible("a count").await;
        page.press("Take the count back").await;
        page.see("lay a small frame down").await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_wet_day_asks_for_no_run_of_new_grass_and_a_windy_dry_one_for_more() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let runs = |corner: &Value| {
        let cell = today(corner);
        usize::from(cell["run"].is_object()) + cell["later"].as_array().unwrap().len()
    };
    with_page(
        &app,
        Screen::Phone,
        "new-grass-weather",
        |page| async move {
            page.sign_in(EMAIL).await;
            // Rain is as good as sure on 20 June of the demo.
            step(&api, SITE, 2).await;
            let wet = new_corner(&api).await;
            assert_eq!(runs(&wet), 0);
            page.client.refresh().await.unwrap();
            page.see("Moist enough for the rest of today: nothing to water by hand.")
                .await;
            page.open("/site/1/new-grass").await;
            page.see("Nothing more to water today.").await;
            // The 22nd is hot, dry and windier.
            step(&api, SITE, 2).await;
            let dry = new_corner(&api).await;
            assert!(runs(&dry) >= 4, "{dry}");
            page.client.refresh().await.unwrap();
            page.see("Still to water:").await;
            step(&api, SITE, 1).await;
            let days = api
                .json(&format!("{SITE}/weather?from=2026-06-20&to=2026-06-22"))
                .await;
            let wind = |at: usize| days["days"][at]["day"]["wind_m_s"].as_f64().unwrap();
            assert!(wind(2) > wind(0), "{days}");
            page
        },
    )
    .await;
}

#[tokio::test]
async fn sod_is_laid_tugged_at_and_weaned() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    with_page(&app, Screen::Desk, "new-grass-sod", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/zones/8").await;
        page.press("Change it").await;
        page.choose("Made of", "sod").await;
        page.press("Save and plan").await;
        page.gone("//button[.='Save and plan']").await;
        page.open("/site/1/new-grass").await;
        page.see("laid as sod on 5 June").await;
        page.see("daily to below its mat").await;
        page.is_accessible("sod").await;
        let runs = |corner: &Value| {
            let cells = corner["cells"].as_array().unwrap();
            cells[2..].iter().filter(|c| c["run"].is_object()).count()
        };
        // By warmth it holds since it was laid two weeks ago, and is weaned; it was watered yesterday.
        page.see("Nothing more to water today.").await;
        let weaned = new_corner(&api).await;
        assert_eq!(weaned["new_grass"]["stage"], "filling_in");
        page.press("It comes away, New corner").await;
        page.see("Still to water:").await;
        let daily = new_corner(&api).await;
        assert!(runs(&daily) > runs(&weaned), "{daily}");
        page.press("It holds when tugged, New corner").await;
        page.see("Nothing more to water today.").await;
        page
    })
    .await;
}

#[tokio::test]
async fn without_new_grass_and_without_a_past_the_next_step_is_told() {
    let (app, _api, path) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "new-grass-empty", |page| async move {
        page.sign_in(EMAIL).await;
        let site = path.replace("/sites/", "/site/");
        page.open(&format!("{site}/new-grass")).await;
        page.see("No zone has new grass. Plan it:").await;
        page.is_accessible("no new grass").await;
        page.press("Plan new grass: when, backwards from frost, what it takes")
            .await;
        page.see("No past year on record tells how sowing would go.")
            .await;
        page.see("No whole past year on record tells how it goes from that day on.")
            .await;
        page.see("Rake it in, no deeper than 5 mm").await;
        page.fits("new grass planned without a past").await;
        page.is_accessible("new grass planned without a past").await;
        page
    })
    .await;
}
