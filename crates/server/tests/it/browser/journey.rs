//! The job from end to end: sign in, add a zone, import weather with a corrected line, read the working, switch units, sign out.

use std::path::PathBuf;
use std::process::Command;

use serde_json::Value;

use super::driver::Screen;
use super::page::{Page, with_page};
use crate::harness::{Api, App, EMAIL, NIGHT, small_site, weather};

fn scratch(name: &str, text: &str) -> PathBuf {
    let folder = std::env::temp_dir().join(format!("fresh-meadow-journey-{}", std::process::id()));
    std::fs::create_dir_all(&folder).unwrap();
    let path = folder.join(name);
    std::fs::write(&path, text).unwrap();
    path
}

/// Run time in seconds of a plan's next run.
fn next_run(plan: &Value) -> (String, i64) {
    plan["zones"][0]["cells"]
        .as_array()
        .unwrap()
        .iter()
        .find_map(|c| Some((c["date"].as_str()?.to_owned(), c["run"]["run_s"].as_i64()?)))
        .expect("a run within the week")
}

/// What `fresh-meadow plan` says of the exported site, weather and runs.
async fn by_command_line(api: &Api, site: i64) -> (String, i64) {
    let export = |path: &'static str, name: &'static str| async move {
        scratch(name, &api.text(&format!("/sites/{site}/{path}")).await)
    };
    let document = export("document", "site.json").await;
    let weather = export("weather.csv", "weather.csv").await;
    let runs = export("runs.csv", "runs.csv").await;
    let out = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
        .args(["plan", "--today", "2026-06-18", "--site"])
        .arg(document)
        .arg("--weather")
        .arg(weather)
        .arg("--runs")
        .arg(runs)
        .output()
        .unwrap();
    assert!(
        out.status.success(),
        "{}",
        String::from_utf8_lossy(&out.stderr)
    );
    next_run(&serde_json::from_slice(&out.stdout).unwrap())
}

/// `26:30`, `+ 4:12` or `− 0:18` in seconds.
fn seconds(text: &str) -> i64 {
    let sign = if text.starts_with('−') { -1 } else { 1 };
    let digits = text.trim_start_matches(['−', '+', ' ']);
    let (minutes, seconds) = digits.split_once(':').unwrap();
    sign * (minutes.parse::<i64>().unwrap() * 60 + seconds.parse::<i64>().unwrap())
}

/// The run time that the Week shows in the selected zone's next watering cell.
async fn shown_minutes(page: &Page, minutes: i64) {
    page.find(&format!(
        "//td[@role='gridcell'][contains(., '{minutes} min')]"
    ))
    .await;
}

#[tokio::test]
async fn from_sign_in_to_the_working_and_out() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await.0;
    let api = app.sign_in(EMAIL).await;
    with_page(&app, Screen::Desk, "journey", move |page| async move {
        page.sign_in(EMAIL).await;
        page.see("No weather yet").await;

        // A zone.
        page.press("Site").await;
        page.press("Add a zone").await;
        page.press("All figures on one form").await;
        page.see("Measured or known here").await;
        page.fill("Name", "North green").await;
        page.fill("Area, m²", "400").await;
        page.choose("Grass", "Tall fescue").await;
        page.choose("Soil", "Loam").await;
        page.choose("Sprinklers", "Multi-stream nozzle").await;
        page.set("First day", "2026-06-12").await;
        page.fill("Slope, %", "180").await;
        page.press("Add and plan").await;
        page.see("Between 0 and 100 %.").await;
        page.fill("Slope, %", "2").await;
        page.press("Add and plan").await;
        page.gone("//button[.='Add and plan']").await;
        page.see("North green").await;

        // Weather with a line whose minimum lies above its maximum, then corrected.
        page.press("Weather").await;
        let bad = scratch("bad.csv", &weather(|day| (day == 14).then_some("31,17,0")));
        page.upload("Weather file (CSV)", &bad).await;
        page.see("1 line cannot be used").await;
        page.see("Line 8, column tmin_c").await;
        page.gone("//button[starts-with(., 'Import ')]").await;
        let mended = scratch("mended.csv", &weather(|_| None));
        page.upload("Weather file (CSV)", &mended).await;
        page.see("10 new days").await;
        page.press("Import 10 rows").await;
        page.gone("//button[.='Import 10 rows']").await;

        page.press("Week").await;
        let (dry_date, dry) = by_command_line(&api, site).await;
        shown_minutes(&page, dry / 60).await;

        // The same days with 20 mm on one of them.
        page.press("Site").await;
        page.press("Weather").await;
        let wet = scratch("wet.csv", &weather(|day| (day == 15).then_some("17,31,20")));
        page.upload("Weather file (CSV)", &wet).await;
        page.see("1 day with other figures than now").await;
        page.find("//button[.='Nothing to import: 1 day kept'][@disabled]")
            .await;
        page.press_label("Replace by what the file carries").await;
        page.press("Replace 1 day").await;
        page.gone("//button[.='Replace 1 day']").await;

        let (wet_date, lower) = by_command_line(&api, site).await;
        assert!(
            lower < dry,
            "{lower} s on {wet_date} after rain, {dry} s on {dry_date} without"
        );
        page.press("Week").await;
        shown_minutes(&page, lower / 60).await;
        let stored = api.json(&format!("/sites/{site}/plan")).await;
        assert_eq!(next_run(&stored["current"]["plan"]), (wet_date, lower));

        // The working, read off the page.
        let cell = format!("//td[@role='gridcell'][contains(., '{} min')]", lower / 60);
        page.press_at(&cell).await;
        page.client
            .active_element()
            .await
            .unwrap()
            .send_keys("w")
            .await
            .unwrap();
        let lines = page.table("Run time, line by line").await;
        let figures: Vec<i64> = lines.iter().map(|l| seconds(&l[1])).collect();
        let (total, parts) = figures.split_last().unwrap();
        assert_eq!(parts.iter().sum::<i64>(), *total, "{lines:?}");
        assert_eq!(*total, lower);
        let account = page.table("Depletion, line by line").await;
        assert!(
            account
                .iter()
                .any(|l| l[0] == "Rain taken in" && l[1].starts_with("− 20.0")),
            "{account:?}"
        );
        // Rounded so that the lines add up to what is shown.
        let tenths = |text: &str| -> i64 {
            let digits = text.lines().next().unwrap().replace(['+', ' '], "");
            let value: f64 = digits.replace('−', "-").parse().unwrap();
            #[allow(clippy::cast_possible_truncation)] // a depth in tenths
            let tenths = (value * 10.0).round() as i64;
            tenths
        };
        let lines: Vec<i64> = account.iter().map(|l| tenths(&l[1])).collect();
        let (sum, parts) = lines.split_last().unwrap();
        assert_eq!(parts.iter().sum::<i64>(), *sum, "{account:?}");
        page.press("Close the working").await;
        page.gone("//button[@aria-label='Close the working']").await;

        // Units change what is shown, not what runs.
        page.see("used at dawn, mm").await;
        page.press("Use US units").await;
        page.see("used at dawn, in").await;
        shown_minutes(&page, lower / 60).await;
        page.press("Site").await;
        page.press("Zones").await;
        page.see("4,306").await;
        page.change_zone("North green").await;
        assert_eq!(page.value("Area, ft²").await, "4306");
        page.press("Save and plan").await;
        page.gone("//button[.='Save and plan']").await;
        let zones = api.json(&format!("/sites/{site}/zones")).await;
        assert_eq!(
            zones[0]["zone"]["area_m2"], 400.0,
            "saving in other units changes nothing"
        );

        page.press("Account of Hazel Fern").await;
        page.press("Sign out").await;
        page.see("E-mail address").await;
        page.open(&format!("/site/{site}/week")).await;
        page.see("E-mail address").await;
        page
    })
    .await;
}
