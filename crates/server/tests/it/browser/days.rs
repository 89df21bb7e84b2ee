//! Days in the browser: the demo clock steps, runs are answered, the weather service goes and comes.

use std::net::TcpListener;
use std::sync::mpsc;

use actix_web::dev::ServerHandle;
use reqwest::StatusCode;
use serde_json::json;

use super::Screen;
use super::driver::offline;
use super::page::with_page;
use crate::harness::{App, EMAIL, NIGHT, expect, small_site, zone};

#[tokio::test]
async fn the_demo_is_stepped_three_days_and_shows_rain_and_the_new_plan() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    with_page(&app, Screen::Desk, "step", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Demo clock, Thu 18 June, 07:30").await;
        page.press("3 days on").await;
        page.see("It is Sun 21 June now.").await;
        // The coming dawn first, then the next watering, which rain may cancel.
        page.see("Tomorrow: water New corner (").await;
        page.see("times) by hand, hold seven.").await;
        page.see("Next, if it stays dry (").await;
        page.find("//button[@aria-label='Demo clock, Sun 21 June, 07:30']")
            .await;
        // Rain of the days that have passed, as the service now observes them, and a plan of today.
        let list = api
            .json("/sites/1/weather?from=2026-06-18&to=2026-06-20")
            .await;
        assert_eq!(list["days"].as_array().unwrap().len(), 3);
        let table = page.table("Rain and reference ET by day").await;
        let shown: Vec<&str> = table.iter().take(3).map(|r| r[0].as_str()).collect();
        assert_eq!(shown, ["Fri 19", "Sat 20", "Sun 21"]);
        let rain = list["days"][1]["day"]["rain_mm"].as_f64().unwrap();
        assert_eq!(table[0][1], format!("{rain:.1}"));
        assert_eq!(
            (table[0][3].as_str(), table[2][3].as_str()),
            ("measured", "forecast")
        );
        let plan = api.json("/sites/1/plan").await;
        assert_eq!(plan["current"]["plan"]["today"], "2026-06-21");
        page.see("Changed since yesterday").await;
        page.is_accessible("morning after a step").await;
        // Rain was likelier than not, and came: nothing ran meanwhile.
        let runs = api
            .json("/sites/1/runs?from=2026-06-19&to=2026-06-21")
            .await;
        assert_eq!(runs.as_array().unwrap().len(), 0);
        page
    })
    .await;
}

#[tokio::test]
async fn a_run_is_denied_with_one_tap_and_the_plan_answers() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let runs = api
        .json("/sites/1/runs?from=2026-06-18&to=2026-06-18")
        .await;
    let run = runs[0].clone();
    assert_eq!(run["source"], "assumed");
    let name = run["zone_name"].as_str().unwrap().to_owned();
    let tomorrow = async |api: &crate::harness::Api| {
        let plan = api.json("/sites/1/plan").await;
        let zones = plan["current"]["plan"]["zones"].as_array().unwrap().clone();
        let zone = zones
            .iter()
            .find(|z| z["zone"] == json!(run["zone"].to_string()))
            .unwrap();
        zone["cells"][3]["depletion_start_mm"].as_f64().unwrap()
    };
    let before = tomorrow(&api).await;
    with_page(&app, Screen::Phone, "deny", {
        let name = name.clone();
        |page| async move {
            page.sign_in(EMAIL).await;
            page.press(&format!("{name} did not run")).await;
            page.see("did not run (Hazel Fern)").await;
            page.is_accessible("morning with a denied run").await;
            // Said wrong: other minutes after all.
            page.press(&format!("{name}: other minutes")).await;
            page.fill("Minutes that it ran", "30").await;
            page.press("Note").await;
            // Another day's run may have taken 30 minutes too: what this one said before must be gone.
            page.gone("//*[contains(text(), 'did not run (Hazel Fern)')]")
                .await;
            page.see("30 min at").await;
            // Taken back, what was said before stands again; taken back once more, the plan's own.
            page.press(&format!("Take it back, {name}")).await;
            page.see("did not run (Hazel Fern)").await;
            page
        }
    })
    .await;
    let after = tomorrow(&api).await;
    assert!(after > before + 3.0, "{before} became {after}");
    let history = api.json("/sites/1/history").await;
    assert_eq!(
        history["entries"][0]["what"],
        json!({ "event": "run_taken_back", "zone": name, "date": "2026-06-18", "answer": "changed" })
    );
}

#[tokio::test]
async fn watering_by_hose_is_timed_and_survives_a_reload() {
    let (app, api, path) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "hose", |page| async move {
        page.sign_in(EMAIL).await;
        page.press("Water by hand or hose").await;
        page.is_accessible("water by hand").await;
        // The hose runs: the timer first. Which part and how much may be said when it stops; not knowing is an answer.
        page.press("Start the timer now").await;
        page.see("Front is being watered.").await;
        page.client.refresh().await.unwrap();
        page.press("Watering under way").await;
        page.find("//*[@role='timer'][contains(., ':')]").await;
        page.is_accessible("a hose that runs").await;
        page.press("Stop and note it").await;
        page.see("Fill this in.").await;
        page.pick("I don't know").await;
        page.press("Note it").await;
        page.see("noted. It is kept in the record").await;
        page.see("by hose (Hazel Fern); not counted: nobody says how much")
            .await;
        page
    })
    .await;
    let runs = api
        .json(&format!("{path}/runs?from=2026-06-17&to=2026-06-18"))
        .await;
    assert_eq!(runs.as_array().unwrap().len(), 1);
    assert_eq!(runs[0]["source"], "hose");
}

/// Starts the stand-in at an address, on a thread of its own.
fn start(listener: TcpListener) -> ServerHandle {
    let (sender, receiver) = mpsc::channel();
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async {
            let server = standins::service::server(listener).unwrap();
            sender.send(server.handle()).unwrap();
            server.await.unwrap();
        });
    });
    receiver.recv().unwrap()
}

#[tokio::test]
async fn the_weather_service_is_stopped_and_started_again() {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    let service = start(listener);
    let app = App::start_with(|s| s.weather_url = Some(format!("http://{address}"))).await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let zones = format!("/sites/{}/zones", site.0);
    expect(
        api.send(reqwest::Method::POST, &zones, zone("Front")).await,
        StatusCode::CREATED,
    )
    .await;
    with_page(&app, Screen::Desk, "weather-service", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings?tab=weather").await;
        page.choose("Climate (simulated)", "Humid subtropical")
            .await;
        page.press("Subscribe").await;
        page.see("Last heard Thu 18 June, 01:00").await;
        page.is_accessible("weather with a subscription").await;

        service.stop(false).await;
        page.press("Demo clock, Thu 18 June, 01:00").await;
        page.press("3 days on").await;
        page.see("It failed once since: it does not answer").await;
        page.see("Last heard Thu 18 June, 01:00 (3 days ago)").await;
        page.open("/site/1/morning").await;
        page.see("The weather service is silent").await;
        page.see("Weather is missing").await;
        page.see("Last heard 3 days ago; it does not answer.").await;

        // On the same address; the port may take a moment to be free.
        let listener = loop {
            match TcpListener::bind(address) {
                Ok(listener) => break listener,
                Err(_) => tokio::time::sleep(std::time::Duration::from_millis(20)).await,
            }
        };
        let service = start(listener);
        page.open("/site/1/settings?tab=weather").await;
        page.press("Ask it now").await;
        page.see("Last heard Sun 21 June, 01:00").await;
        page.gone("//*[contains(text(), 'It failed')]").await;
        page.open("/site/1/morning").await;
        page.see("What ran").await;
        page.gone("//*[contains(text(), 'Weather is missing')]")
            .await;
        service.stop(false).await;
        page
    })
    .await;
}

#[tokio::test]
async fn a_foreign_file_is_mapped_and_imported() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let folder = std::env::temp_dir().join(format!("fresh-meadow-foreign-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let file = folder.join("station.csv");
    std::fs::write(
        &file,
        "Day;Low;High;Wet\n6/16/2026;59;86;0.5\n6/17/2026;60;88;0\n",
    )
    .unwrap();
    let picked = file.clone();
    with_page(&app, Screen::Desk, "foreign", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings?tab=weather").await;
        page.upload("Weather file (CSV)", &picked).await;
        page.see("This file has columns of its own").await;
        page.is_accessible("which column is what").await;
        // Guessed: the date, low and high; what "Wet" is, and that it is °F, nobody can guess.
        assert_eq!(page.value("Dates are written").await, "month_first");
        page.see("6/16/2026;59;86;0.5").await;
        page.choose("Unit of low temperature", "°F").await;
        page.choose("Unit of high temperature", "°F").await;
        page.choose("Rain", "Wet (such as 0.5)").await;
        page.choose("Unit of rain", "in").await;
        page.press("Read the file like this").await;
        page.see("2 new days").await;
        page.press("Import 2 rows").await;
        page.see("2 days imported; planned again.").await;
        // The next file of that heading needs no answer.
        page.upload("Weather file (CSV)", &picked).await;
        page.see("Read as the last file with this heading.").await;
        page.see("2 days as now already").await;
        page
    })
    .await;
    std::fs::remove_dir_all(&folder).unwrap();
    let path = format!("/sites/{}/weather?from=2026-06-16&to=2026-06-16", site.0);
    let day = api.json(&path).await["days"][0]["day"].clone();
    assert!((day["rain_mm"].as_f64().unwrap() - 12.7).abs() < 1e-9);
    assert!((day["tmax_c"].as_f64().unwrap() - 30.0).abs() < 1e-9);
}

#[tokio::test]
async fn a_days_weather_is_corrected_and_taken_back() {
    let (app, reader, site) = App::with_dry_zone().await;
    with_page(&app, Screen::Phone, "correct-day", |page| async move {
        page.sign_in(EMAIL).await;
        page.open("/site/1/settings?tab=weather").await;
        page.press("Correct 17 June").await;
        page.is_accessible("a day that is corrected").await;
        page.fits("a day that is corrected").await;
        // A slipped scale is asked about; what is right is taken, and counts before the file.
        page.fill("High, 17 June, °C", "57").await;
        page.press("Correct it").await;
        page.see("is next to nowhere on earth: is it in °C?").await;
        page.press("No, change it").await;
        page.fill("High, 17 June, °C", "27").await;
        page.press("Correct it").await;
        page.find("//tr[th='Wed 17'][contains(., 'by hand')]").await;
        page.press("Correct 17 June").await;
        page.press("Take back what was typed").await;
        page.find("//tr[th='Wed 17'][contains(., 'file')]").await;
        page
    })
    .await;
    let history = reader.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("weather_forgotten"), "{history}");
}

#[tokio::test]
async fn any_run_of_thirty_days_is_answered_and_what_is_seldom_so_asked_about() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let all = api
        .json("/sites/1/runs?from=2026-05-19&to=2026-06-18")
        .await;
    let assumed: Vec<_> = all
        .as_array()
        .unwrap()
        .iter()
        .filter(|r| r["source"] == "assumed")
        .cloned()
        .collect();
    let oldest = assumed.last().unwrap().clone();
    assert!(oldest["date"].as_str().unwrap() < "2026-06-16", "{oldest}");
    let name = oldest["zone_name"].as_str().unwrap().to_owned();
    let count = assumed.len();
    with_page(&app, Screen::Phone, "thirty-days", move |page| async move {
        page.sign_in(EMAIL).await;
        page.press(&format!(
            "{count} runs of the last 30 days are only assumed"
        ))
        .await;
        page.see(&format!("Of {count} nobody has said anything"))
            .await;
        page.press_label("Only those that are assumed").await;
        let of_day = "//ul[starts-with(@aria-label, 'Runs of')]";
        let last = format!("({of_day}//button[@aria-label='{name} did not run'])[last()]");
        page.press_at(&last).await;
        page.see(&format!("Of {} nobody has said anything", count - 1))
            .await;
        page.is_accessible("runs of thirty days").await;

        page.press("Morning").await;
        page.fill("Rain, mm", "500").await;
        page.press("Note the reading").await;
        page.see("500.0 mm is very much rain for one day.").await;
        page.is_accessible("really?").await;
        page.press("No, change it").await;
        page.fill("Rain, mm", "5").await;
        page.press("Note the reading").await;
        page.see("5.0 mm on 17 June noted, and planned again.")
            .await;
        page
    })
    .await;
    let said = api
        .json("/sites/1/runs?from=2026-05-19&to=2026-06-18")
        .await;
    let same = |r: &&serde_json::Value| {
        r["zone"] == oldest["zone"] && r["started_at"] == oldest["started_at"]
    };
    let said = said.as_array().unwrap().iter().find(same).unwrap().clone();
    assert_eq!(said["source"], "denied");
}

#[tokio::test]
async fn an_answer_without_a_connection_says_that_it_is_kept_and_is_sent() {
    let app = App::own_demo().await;
    let api = app.sign_in(EMAIL).await;
    let path = "/sites/1/runs?from=2026-06-18&to=2026-06-18";
    let run = api.json(path).await[0].clone();
    let name = run["zone_name"].as_str().unwrap().to_owned();
    with_page(&app, Screen::Phone, "offline", move |page| async move {
        page.sign_in(EMAIL).await;
        page.find(&format!("//button[@aria-label='{name} ran']"))
            .await;
        offline(&page.client, true).await;
        page.press(&format!("{name} ran")).await;
        page.see("Not connected: what you said is kept while this page stays open, and sent when connected.")
            .await;
        page.is_accessible("an answer that waits").await;
        offline(&page.client, false).await;
        page.see("ran (Hazel Fern)").await;
        page.gone("//*[@role='status'][contains(., 'Not connected')]")
            .await;
        page
    })
    .await;
    assert_eq!(api.json(path).await[0]["source"], "confirmed");
}
