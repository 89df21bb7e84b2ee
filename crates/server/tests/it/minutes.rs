//! Files of a flow meter's minutes: whole or none, whatever breaks; what comes out goes in again.

use std::process::Stdio;
use std::time::Duration;

use fresh_meadow::db;
use jiff::{SignedDuration, Timestamp};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::TcpStream;
use xtask::postgres::{self, Cluster};

use crate::flow::{counted, kept, told};
use crate::harness::{Api, App, EMAIL, NIGHT, Process, expect, small_site};
use crate::kill::until;

/// A file of so many minutes from the first of January 2025 on.
fn file(minutes: i64) -> String {
    let first: Timestamp = "2025-01-01T00:00:00Z".parse().unwrap();
    let lines = (0..minutes).map(|n| {
        let at = first + SignedDuration::from_mins(n);
        format!("{at},{}\n", n % 7)
    });
    std::iter::once("minute,pulses\n".to_owned())
        .chain(lines)
        .collect()
}

fn sum(minutes: i64) -> i64 {
    (0..minutes).map(|n| n % 7).sum()
}

async fn import(api: &Api, meter: &str, text: String) -> reqwest::Result<reqwest::Response> {
    let request = api.request(Method::POST, &format!("{meter}/minute-imports"));
    request
        .header("content-type", "text/csv")
        .body(text)
        .send()
        .await
}

#[tokio::test]
async fn a_file_is_taken_whole_or_not_at_all_and_again_without_harm() {
    let (app, api, _, meter) = counted().await;
    expect(
        told(&api, &meter, "2025-01-01T00:03:00Z", json!([5])).await,
        StatusCode::OK,
    )
    .await;
    let wrong = "minute,pulses\n2025-01-01T00:00:00Z,3\n2025-01-01T00:00:30Z,3\n2025-01-01,3\n2025-01-01T00:02:00Z,many\n2031-01-01T00:00:00Z,3\n2025-01-01T00:00:00Z,4\n";
    let refused = import(&api, &meter, wrong.to_owned()).await.unwrap();
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    let said: Vec<(u64, &str)> = (problem["lines"].as_array().unwrap().iter())
        .map(|l| (l["line"].as_u64().unwrap(), l["column"].as_str().unwrap()))
        .collect();
    assert_eq!(
        said,
        [
            (3, "minute"),
            (4, "minute"),
            (5, "pulses"),
            (6, "minute"),
            (7, "minute")
        ],
        "{problem}"
    );
    assert_eq!(kept(&app).await, (1, 5), "nothing was written");
    for (text, words) in [
        ("", "no minute"),
        ("when,what\n", "heading"),
        ("minute,pulses\n", "no minute"),
    ] {
        let refused = import(&api, &meter, text.to_owned()).await.unwrap();
        let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
        assert!(
            problem["lines"][0]["message"]
                .as_str()
                .unwrap()
                .contains(words),
            "{problem}"
        );
    }
    // The minute that the meter told itself stands, with its 5 instead of 3.
    let done = import(&api, &meter, file(10_000)).await.unwrap();
    let done = expect(done, StatusCode::CREATED).await;
    assert_eq!(done, json!({ "new": 9_999, "known": 0, "other": 1 }));
    assert_eq!(kept(&app).await, (10_000, sum(10_000) + 2));
    let again = import(&api, &meter, file(10_000)).await.unwrap();
    let again = expect(again, StatusCode::CREATED).await;
    assert_eq!(again, json!({ "new": 0, "known": 9_999, "other": 1 }));
    assert_eq!(kept(&app).await, (10_000, sum(10_000) + 2));
    let history = api.json("/sites/1/history").await.to_string();
    assert!(history.contains("minutes_imported"), "{history}");
}

#[tokio::test]
async fn one_manager_who_announces_many_files_keeps_no_other_site_out() {
    let (app, api, _, meter) = counted().await;
    let session = app.session(EMAIL).await;
    let host = app.address;
    let head = format!(
        "POST /api/v1{meter}/minute-imports HTTP/1.1\r\nHost: {host}\r\nOrigin: http://{host}\r\nCookie: {session}\r\nContent-Type: text/csv\r\nContent-Length: 1000000\r\n\r\nminute,pulses\n"
    );
    let mut announced = Vec::new();
    for _ in 0..6 {
        let mut stream = TcpStream::connect(host).await.unwrap();
        stream.write_all(head.as_bytes()).await.unwrap();
        announced.push(stream);
    }
    // The first of them has its place once the others have asked: two wait, three are told to come later.
    let mut later = 0;
    for stream in &mut announced {
        let mut status = [0; 12];
        let read = tokio::time::timeout(Duration::from_millis(500), stream.read_exact(&mut status));
        if read.await.is_ok() {
            assert_eq!(&status, b"HTTP/1.1 429");
            later += 1;
        }
    }
    assert_eq!(later, 3);
    let other = app.account("fern@meadow.example").await;
    let fern = app.sign_in("fern@meadow.example").await;
    let elsewhere = app.dry_zone(other, &fern).await;
    let new = json!({ "name": "Main", "unit": "m3", "digits": 5, "pulse_l": 1.0 });
    let added = fern
        .send(Method::POST, &format!("{elsewhere}/meters"), new)
        .await;
    let id = expect(added, StatusCode::CREATED).await["id"].clone();
    let done = import(&fern, &format!("{elsewhere}/meters/{id}"), file(100)).await;
    assert_eq!(done.unwrap().status(), StatusCode::CREATED);
    // Who is let go by leaves the place to the next.
    drop(announced);
    let done = import(&api, &meter, file(100)).await.unwrap();
    assert_eq!(done.status(), StatusCode::CREATED);
}

#[tokio::test]
async fn what_comes_out_goes_in_again_in_both_forms() {
    let (app, api, site, meter) = counted().await;
    let done = import(&api, &meter, file(20_000)).await.unwrap();
    expect(done, StatusCode::CREATED).await;
    let gap = told(&api, &meter, "2026-06-01T07:30:00Z", json!([9, null, 0])).await;
    expect(gap, StatusCode::OK).await;
    let there = kept(&app).await;
    let new = json!({ "name": "Copy", "unit": "m3", "digits": 5, "pulse_l": 1.0 });
    for form in ["csv", "jsonl"] {
        let text = api.text(&format!("{meter}/minutes.{form}")).await;
        let added = api
            .send(Method::POST, &format!("{site}/meters"), new.clone())
            .await;
        let id = expect(added, StatusCode::CREATED).await["id"].clone();
        let copy = format!("{site}/meters/{id}");
        let done = import(&api, &copy, text.clone()).await.unwrap();
        let done = expect(done, StatusCode::CREATED).await;
        assert_eq!(done["new"], there.0);
        assert_eq!(api.text(&format!("{copy}/minutes.{form}")).await, text);
    }
    assert_eq!(kept(&app).await, (3 * there.0, 3 * there.1));
    assert_eq!(
        api.text(&format!("{site}/meters/2/minutes.csv"))
            .await
            .lines()
            .count(),
        20_003
    );
}

#[tokio::test]
async fn a_meter_that_counts_no_pulses_takes_no_file() {
    let (_app, api, site, _) = counted().await;
    let plain = json!({ "name": "House", "unit": "gal", "digits": 6 });
    let added = api
        .send(Method::POST, &format!("{site}/meters"), plain)
        .await;
    let id = expect(added, StatusCode::CREATED).await["id"].clone();
    let refused = import(&api, &format!("{site}/meters/{id}"), file(10))
        .await
        .unwrap();
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(problem["field"], "pulse_l");
}

#[tokio::test]
async fn a_server_that_is_killed_amid_an_import_leaves_nothing_of_it() {
    let (app, _, _, meter) = counted().await;
    let mut server = Process::start(&app, Stdio::null(), &[]);
    server.answers().await;
    let api = server.app.sign_in(EMAIL).await;
    // This lock holds the import at its second statement, which writes.
    let mut lock = app.pool.begin().await.unwrap();
    sqlx::query("LOCK TABLE flow_hour IN EXCLUSIVE MODE")
        .execute(&mut *lock)
        .await
        .unwrap();
    let waiting = tokio::spawn({
        let meter = meter.clone();
        async move { import(&api, &meter, file(50_000)).await }
    });
    until(
        &app.pool,
        "SELECT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock' AND query LIKE '%INSERT INTO flow_hour%')",
    )
    .await;
    server.kill();
    assert!(waiting.await.unwrap().is_err());
    lock.rollback().await.unwrap();
    until(
        &app.pool,
        "SELECT NOT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND state <> 'idle' AND query LIKE '%INSERT INTO flow_hour%' AND pid <> pg_backend_pid())",
    )
    .await;
    assert_eq!(kept(&app).await, (0, 0));
    let api = app.sign_in(EMAIL).await;
    let done = import(&api, &meter, file(50_000)).await.unwrap();
    expect(done, StatusCode::CREATED).await;
    assert_eq!(kept(&app).await, (50_000, sum(50_000)));
}

/// A durable cluster of its own with the site and its meter.
async fn durable() -> (Cluster, std::path::PathBuf, App, Api, String) {
    let name = postgres::random_hex(8).unwrap();
    let folder = std::env::temp_dir().join(format!("fresh-meadow-durable-{name}"));
    let of = folder.clone();
    let cluster = tokio::task::spawn_blocking(move || {
        let cluster = Cluster::kept(&of).unwrap();
        cluster.create_database("lawns").unwrap();
        cluster
    })
    .await
    .unwrap();
    let url = cluster.url("lawns");
    db::migrate(&url).await.unwrap();
    let app = App::start_on(url).await;
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let meter = json!({ "name": "Lawn", "unit": "m3", "digits": 5, "pulse_l": 1.0 });
    let added = api
        .send(Method::POST, &format!("/sites/{}/meters", site.0), meter)
        .await;
    let id = expect(added, StatusCode::CREATED).await["id"].clone();
    (
        cluster,
        folder,
        app,
        api,
        format!("/sites/{}/meters/{id}", site.0),
    )
}

/// The same cluster after all its processes were killed and it was started again.
async fn crashed(mut cluster: Cluster) -> Cluster {
    tokio::task::spawn_blocking(move || {
        cluster.crash().unwrap();
        cluster.start_again().unwrap();
        cluster
    })
    .await
    .unwrap()
}

#[tokio::test]
async fn a_killed_database_loses_no_minute_that_was_acknowledged_and_keeps_nothing_of_a_broken_import()
 {
    const MINUTES: i64 = 30;
    let (cluster, folder, app, api, meter) = durable().await;
    let first: Timestamp = "2024-01-01T00:00:00Z".parse().unwrap();
    let batch = move |n: i64| {
        let from = first + SignedDuration::from_mins(n * MINUTES);
        let counts: Vec<i64> = (0..MINUTES).map(|m| (n + m) % 9).collect();
        (from.to_string(), json!(counts))
    };
    let pulses = |n: i64| (0..MINUTES).map(|m| (n + m) % 9).sum::<i64>();
    // Batches without end, over the crash and after it, each sent again until it is acknowledged.
    let (acknowledged, heard) = tokio::sync::watch::channel(0_i64);
    let (stop, stopped) = tokio::sync::watch::channel(false);
    let sending = tokio::spawn({
        let (meter, api) = (meter.clone(), app.sign_in(EMAIL).await);
        async move {
            let mut n = 0;
            while !*stopped.borrow() {
                let (from, counts) = batch(n);
                let answer = told(&api, &meter, &from, counts).await;
                match answer.status() {
                    StatusCode::OK => n += 1,
                    refused => assert!(refused.is_server_error(), "{refused}"),
                }
                acknowledged.send_replace(n);
            }
        }
    });
    let mut seen = heard.clone();
    seen.wait_for(|n| *n >= 12).await.unwrap();
    let cluster = crashed(cluster).await;
    stop.send_replace(true);
    sending.await.unwrap();
    let told_until = *heard.borrow();
    let (minutes, sum_kept) = kept(&app).await;
    let of_told: i64 = (0..told_until).map(pulses).sum();
    assert_eq!((minutes, sum_kept), (told_until * MINUTES, of_told));
    // The meter does not know what came: all of it again changes nothing.
    for n in (0..told_until).rev() {
        let (from, counts) = batch(n);
        expect(told(&api, &meter, &from, counts).await, StatusCode::OK).await;
    }
    let before = (minutes, sum_kept);
    assert_eq!(kept(&app).await, before);

    // An import that has written its rows and waits to be told of in the history.
    let mut lock = app.pool.begin().await.unwrap();
    sqlx::query("LOCK TABLE history IN EXCLUSIVE MODE")
        .execute(&mut *lock)
        .await
        .unwrap();
    let waiting = tokio::spawn({
        let (meter, api) = (meter.clone(), app.sign_in(EMAIL).await);
        async move { import(&api, &meter, file(30_000)).await.unwrap().status() }
    });
    until(
        &app.pool,
        "SELECT EXISTS (SELECT FROM pg_stat_activity WHERE datname = current_database() AND wait_event_type = 'Lock' AND query LIKE '%INSERT INTO history%')",
    )
    .await;
    let cluster = crashed(cluster).await;
    let status = waiting.await.unwrap();
    assert!(status.is_server_error(), "{status}");
    drop(lock);
    assert_eq!(kept(&app).await, before, "nothing of the import");
    let done = import(&api, &meter, file(30_000)).await.unwrap();
    expect(done, StatusCode::CREATED).await;
    assert_eq!(
        kept(&app).await,
        (before.0 + 30_000, before.1 + sum(30_000))
    );
    drop(app);
    tokio::task::spawn_blocking(move || {
        drop(cluster);
        postgres::delete(&folder).unwrap();
    })
    .await
    .unwrap();
}

#[tokio::test]
async fn readings_come_out_and_go_in_again_and_what_is_odd_is_asked_about_by_line() {
    let (_app, api, site, meter) = counted().await;
    let imports = format!("{site}/meter-reading-imports");
    let id = meter.rsplit('/').next().unwrap().to_owned();
    let file = format!(
        "read_at,meter,register,follows,old_register,began_with\n\
         2026-05-01T08:00:00-04:00,{id},120.0,on,,\n\
         2026-05-08T08:00:00-04:00,{id},120.9,on,,\n\
         2026-05-15T08:00:00-04:00,{id},1.4,new_meter,121.5,1.0\n\
         2026-05-22T08:00:00-04:00,{id},1.9,on,,\n"
    );
    let wrong = file.replace("120.9", "12.09").replace("05-22", "09-22");
    let refused = api.csv(&imports, None, &wrong).await;
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    let said: Vec<(u64, &str)> = (problem["lines"].as_array().unwrap().iter())
        .map(|l| (l["line"].as_u64().unwrap(), l["column"].as_str().unwrap()))
        .collect();
    assert_eq!(said, [(3, "register"), (5, "read_at")], "{problem}");
    assert_eq!(api.json(&format!("{meter}/readings")).await, json!([]));
    let other = file.replace(&format!(",{id},"), ",77,");
    let refused = api.csv(&imports, None, &other).await;
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(problem["lines"][0]["column"], "meter");
    let done = api.csv(&imports, None, &file).await;
    let done = expect(done, StatusCode::CREATED).await;
    assert_eq!(done, json!({ "new": 4, "known": 0 }));
    // By the meter's name, whatever its identifier was in another place.
    let name = &api.json(&format!("{site}/meters")).await[0]["meter"]["name"];
    let named = format!(
        "read_at,meter,name,register\n2026-05-01T08:00:00-04:00,77,{},120.0\n",
        name.as_str().unwrap()
    );
    let done = api.csv(&imports, None, &named).await;
    let done = expect(done, StatusCode::CREATED).await;
    assert_eq!(done, json!({ "new": 0, "known": 1 }));
    // The same file again, and what comes out, in both forms.
    let csv = api.text(&format!("{site}/meter-readings.csv")).await;
    let listed = api.text(&format!("{site}/meter-readings.json")).await;
    for text in [&file, &csv, &listed] {
        let done = api.csv(&imports, None, text).await;
        assert_eq!(
            expect(done, StatusCode::CREATED).await,
            json!({ "new": 0, "known": 4 })
        );
    }
    // Into an empty site.
    let (_app, copy, _, _) = counted().await;
    for (text, path) in [(csv, "meter-readings.csv"), (listed, "meter-readings.json")] {
        for reading in copy
            .json(&format!("{meter}/readings"))
            .await
            .as_array()
            .unwrap()
        {
            let gone = copy
                .send(
                    Method::DELETE,
                    &format!("{site}/readings/{}", reading["id"]),
                    Value::Null,
                )
                .await;
            assert!(gone.status().is_success());
        }
        let done = copy.csv(&imports, None, &text).await;
        assert_eq!(expect(done, StatusCode::CREATED).await["new"], 4);
        assert_eq!(copy.text(&format!("{site}/{path}")).await, text);
    }
    // Ten times what is to be expected: asked about, and taken where somebody is sure.
    let much = format!("read_at,meter,register\n2026-06-10T08:00:00-04:00,{id},900\n");
    let refused = api.csv(&imports, None, &much).await;
    let problem = expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert!(
        problem["lines"][0]["message"]
            .as_str()
            .unwrap()
            .contains("898.1 more than the one before"),
        "{problem}"
    );
    let done = api.csv(&format!("{imports}?sure=true"), None, &much).await;
    assert_eq!(expect(done, StatusCode::CREATED).await["new"], 1);
    // Lower than the last is never so by itself, however sure somebody is.
    let lower = format!("read_at,meter,register\n2026-06-11T08:00:00-04:00,{id},1.2\n");
    let refused = api.csv(&format!("{imports}?sure=true"), None, &lower).await;
    expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await;
}
