//! What computes for long: once for all who ask the same, anew when anything was written, one of a kind for a person, and no longer than somebody listens.

use std::process::Stdio;
use std::time::{Duration, Instant};

use reqwest::{Method, Response, StatusCode};
use serde_json::{Value, json};

use crate::harness::{
    Api, App, EMAIL, NIGHT, PASSWORD, PATIENCE, Process, expect, small_site, zone,
};

/// A site of so many zones with so many years of weather.
async fn site_of(app: &App, api: &Api, zones: usize, years: i16) -> String {
    let owner = fresh_meadow::db::AccountId(1);
    let mut document = small_site();
    document.zones = (1..=zones)
        .map(|n| serde_json::from_value(zone(&format!("Green {n}"))).unwrap())
        .collect();
    let site = app.site(owner, &document, NIGHT).await;
    let path = format!("/sites/{}", site.0);
    let mut text = String::from("date,tmin_c,tmax_c,rain_mm\n");
    let last = jiff::civil::date(2026, 6, 17);
    let first = jiff::civil::date(2026 - years, 6, 17);
    for (n, date) in first.series(jiff::ToSpan::day(1)).enumerate() {
        if date > last {
            break;
        }
        let rain = if n % 6 == 0 { 9 } else { 0 };
        text.push_str(&format!("{date},17,31,{rain}\n"));
    }
    let imports = format!("{path}/weather-imports?conflicts=keep");
    expect(api.csv(&imports, Some(1), &text).await, StatusCode::CREATED).await;
    path
}

/// The lines of a decision.
async fn decision(answer: Response) -> Vec<Value> {
    assert_eq!(answer.status(), StatusCode::OK);
    let text = answer.text().await.unwrap();
    let lines = text.lines().map(|line| serde_json::from_str(line).unwrap());
    lines.collect()
}

#[tokio::test]
async fn what_was_computed_is_kept_until_anything_is_written() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = site_of(&app, &api, 2, 3).await;
    let other = app.member("fern@meadow.example", &site, "viewer").await;
    let path = format!("{site}/decision");
    let first = decision(api.get(&path).await).await;
    assert!(first.len() > 1, "{first:?}");
    // Asked by somebody else: at once, without a line of progress.
    let again = decision(other.get(&path).await).await;
    assert_eq!(again, first[first.len() - 1..]);
    assert_eq!(again[0]["line"], "found");
    let read = json!({ "date": "2026-06-17", "rain_mm": 30.0 });
    let written = api
        .send(Method::POST, &format!("{site}/gauge-readings"), read)
        .await;
    assert!(written.status().is_success(), "{}", written.status());
    let anew = decision(api.get(&path).await).await;
    assert!(anew.len() > 1, "computed anew: {anew:?}");
    // And the others of its kind.
    for path in ["caps", "savings", "zones/1/sowing-weeks"] {
        let path = format!("{site}/{path}");
        assert_eq!(api.json(&path).await, other.json(&path).await, "{path}");
    }
    let compare = format!("{site}/school-comparisons");
    let compared = api.send(Method::POST, &compare, Value::Null).await;
    let compared = expect(compared, StatusCode::OK).await;
    let same = other.send(Method::POST, &compare, Value::Null).await;
    assert_eq!(expect(same, StatusCode::OK).await, compared);
}

/// Seconds of processor time that a process has taken.
fn processor_s(process: &Process) -> f64 {
    let stat = format!("/proc/{}/stat", process.child.id());
    let stat = std::fs::read_to_string(stat).unwrap();
    // After the name in brackets: the state, then numbers; its own and the system's time for it are the 12th and 13th (proc(5)).
    let numbers = stat.rsplit(')').next().unwrap().split_whitespace();
    let ticks: Vec<f64> = numbers
        .skip(11)
        .take(2)
        .map(|n| n.parse().unwrap())
        .collect();
    ticks.iter().sum::<f64>() / 100.0
}

#[tokio::test]
async fn what_nobody_waits_for_any_more_ends() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = site_of(&app, &api, 200, 10).await;
    let server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let api = server.app.sign_in_as(EMAIL, PASSWORD).await;
    // Comes along with all of its answer at once, and line by line.
    for (method, path) in [
        (Method::POST, "school-comparisons"),
        (Method::GET, "decision"),
    ] {
        let begun = Instant::now();
        let before = processor_s(&server);
        let asked = api.request(method, &format!("{site}/{path}"));
        let asked = tokio::spawn(async move {
            let mut answer = asked.send().await.unwrap();
            while answer.chunk().await.unwrap().is_some() {}
        });
        while processor_s(&server) < before + 1.0 {
            assert!(begun.elapsed() < PATIENCE, "{path} begins");
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
        assert!(!asked.is_finished(), "{path} takes its time");
        asked.abort();
        assert!(asked.await.unwrap_err().is_cancelled());
        // It is told within a moment; what goes on after that would take a second of processor time a second.
        tokio::time::sleep(Duration::from_millis(500)).await;
        let after = processor_s(&server);
        tokio::time::sleep(Duration::from_secs(2)).await;
        let more = processor_s(&server) - after;
        assert!(more < 0.3, "{path} goes on: {more} s");
    }
}

#[tokio::test]
async fn of_a_kind_a_person_has_one_under_way_and_the_newer_ends_the_older() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let older = site_of(&app, &api, 80, 30).await;
    let newer = site_of(&app, &api, 2, 30).await;
    // Line by line: the first line says that it is under way.
    let mut asked = api.get(&format!("{older}/decision")).await;
    let mut text = asked.chunk().await.unwrap().unwrap().to_vec();
    let found = decision(api.get(&format!("{newer}/decision")).await).await;
    assert_eq!(found[found.len() - 1]["line"], "found");
    while let Some(chunk) = asked.chunk().await.unwrap() {
        text.extend(chunk);
    }
    let text = String::from_utf8(text).unwrap();
    assert!(text.ends_with("{\"line\":\"asked_anew\"}\n"), "{text}");
    // With the answer at once nobody knows when it is under way: asked in turn until one was.
    let zones = api.json(&format!("{newer}/zones")).await;
    let mut ended = 0;
    for turn in 0..20 {
        let asked = [turn % 2, 1 - turn % 2].map(|zone| {
            let path = format!("{newer}/zones/{}/sowing-weeks", zones[zone]["id"]);
            let request = api.request(Method::GET, &path);
            tokio::spawn(async move { request.send().await.unwrap() })
        });
        for answer in asked {
            let answer = answer.await.unwrap();
            if answer.status() == StatusCode::TOO_MANY_REQUESTS {
                let said = expect(answer, StatusCode::TOO_MANY_REQUESTS).await["detail"].clone();
                let said = said.as_str().unwrap();
                assert!(said.contains("asked for another"), "{said}");
                ended += 1;
            } else {
                assert_eq!(answer.status(), StatusCode::OK);
            }
        }
        if ended > 0 {
            return;
        }
        // What is kept is not computed again: another reading makes it another question.
        let read = json!({ "date": "2026-06-17", "rain_mm": turn });
        let readings = format!("{newer}/gauge-readings");
        let written = api.send(Method::POST, &readings, read);
        assert!(written.await.status().is_success());
    }
    panic!("the newer ends the older");
}
