//! A site with the real clock lives through three midnights: days that nobody told of, typed, sent and fetched ones. The processes' clocks run ahead.

use std::process::Stdio;
use std::time::{Duration, Instant};

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use reqwest::header::AUTHORIZATION;
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{
    Api, App, EMAIL, PATIENCE, Process, expect, small_site, weather_service, zone,
};

const DAY_S: i64 = 86_400;

/// A server whose clock runs some days ahead, and its owner signed in.
async fn days_ahead(app: &App, days: i64) -> (Process, Api) {
    let ahead = (days * DAY_S).to_string();
    let env = [
        ("FRESH_MEADOW_CLOCK_AHEAD_S", ahead.as_str()),
        ("FRESH_MEADOW_WORK_EVERY_S", "0.05"),
        ("FRESH_MEADOW_WEATHER_URL", weather_service()),
    ];
    let process = Process::start(app, Stdio::null(), &env);
    process.answers().await;
    let api = process.app.sign_in(EMAIL).await;
    (process, api)
}

/// The plan of a day, once the rounds have made it.
async fn plan_of(api: &Api, site: &str, today: Date) -> Value {
    let deadline = Instant::now() + PATIENCE;
    loop {
        let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
        if plan["today"] == today.to_string() {
            return plan;
        }
        assert!(Instant::now() < deadline, "{today}: {}", plan["today"]);
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

/// Of days before a plan's own: where reference ET comes from, and whether the rain is what normals expect.
fn behind(plan: &Value, day: Date) -> (String, bool) {
    let days = plan["days"].as_array().unwrap();
    let day = days.iter().find(|d| d["date"] == day.to_string()).unwrap();
    (
        day["et0_from"].as_str().unwrap().to_owned(),
        day["rain_expected"] == true,
    )
}

fn told(date: Date, rain_mm: f64) -> Value {
    json!({ "days": [{ "date": date.to_string(), "tmin_c": 12.0, "tmax_c": 27.0, "rain_mm": rain_mm }] })
}

#[tokio::test]
async fn a_site_with_the_real_clock_lives_through_three_midnights() {
    let app = App::with_weather().await;
    let owner = app.account(EMAIL).await;
    // Where it is noon: each process starts after the site's day has begun, and before its next.
    let hour = Timestamp::now().to_zoned(jiff::tz::TimeZone::UTC).hour();
    let mut document = small_site();
    document.site.time_zone = match 12 - i64::from(hour) {
        east @ 1.. => format!("Etc/GMT-{east}"),
        west => format!("Etc/GMT+{}", -west),
    };
    let month = json!({ "low_c": 14.0, "high_c": 28.0, "rain_mm": 90.0, "wet_days": 9.0 });
    document.site.normals = serde_json::from_value(Value::Array(vec![month; 12])).unwrap();
    let zoned = Timestamp::now().to_zoned(document.site.zone().unwrap());
    let first = zoned.date();
    let id = fresh_meadow::db::sites::insert(&app.pool, &document, None)
        .await
        .unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, id, owner, "owner")
        .await
        .unwrap();
    let site = format!("/sites/{}", id.0);
    let on = |days: i64| first.saturating_add(days.days());

    // The first day: a zone, and a plan by the normals alone.
    let (process, api) = days_ahead(&app, 0).await;
    let mut front = zone("Front");
    front["active_from"] = json!(first.to_string());
    expect(
        api.send(Method::POST, &format!("{site}/zones"), front)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let made = api
        .send(
            Method::POST,
            &format!("{site}/device-tokens"),
            json!({ "name": "Roof" }),
        )
        .await;
    let token = expect(made, StatusCode::CREATED).await["token"]
        .as_str()
        .unwrap()
        .to_owned();
    let plan = plan_of(&api, &site, first).await;
    assert_eq!(plan["days"][2]["et0_from"], "normals");
    drop(process);

    // The first midnight: nobody told of the day; then somebody types it.
    let (process, api) = days_ahead(&app, 1).await;
    let plan = plan_of(&api, &site, on(1)).await;
    assert_eq!(behind(&plan, on(0)), ("filled".to_owned(), true));
    let typed = api
        .send(
            Method::POST,
            &format!("{site}/weather-days"),
            told(on(0), 1.0),
        )
        .await;
    expect(typed, StatusCode::OK).await;
    let plan = plan_of(&api, &site, on(1)).await;
    assert_eq!(behind(&plan, on(0)), ("hargreaves".to_owned(), false));
    drop(process);

    // The second: a station sends the day.
    let (process, api) = days_ahead(&app, 2).await;
    plan_of(&api, &site, on(2)).await;
    let sent = crate::harness::plain()
        .build()
        .unwrap()
        .post(format!(
            "{}/api/v1{site}/weather-days",
            process.app.origin()
        ))
        .header(AUTHORIZATION, format!("Bearer {token}"))
        .json(&told(on(1), 2.0))
        .send()
        .await
        .unwrap();
    expect(sent, StatusCode::OK).await;
    let plan = plan_of(&api, &site, on(2)).await;
    assert_eq!(behind(&plan, on(1)), ("hargreaves".to_owned(), false));
    assert_eq!(plan["days"][1]["rain_mm"], 2.0);
    drop(process);

    // The third: the day before is missing until a service is asked, which knows all of them.
    let (process, api) = days_ahead(&app, 3).await;
    let plan = plan_of(&api, &site, on(3)).await;
    assert_eq!(behind(&plan, on(2)), ("filled".to_owned(), true));
    let missing = &plan["notes"][0];
    assert_eq!(
        (
            &missing["note"],
            &missing["dates"].as_array().unwrap().last().unwrap()
        ),
        (&json!("weather_missing"), &&json!(on(2).to_string()))
    );
    let feed = api
        .send(
            Method::PUT,
            &format!("{site}/weather-feed"),
            json!({ "climate": "transition" }),
        )
        .await;
    let feed = expect(feed, StatusCode::OK).await;
    assert_eq!(feed["failures"], 0, "{feed}");
    let gauge = json!({ "date": on(1).to_string(), "rain_mm": 7.5 });
    let read = api
        .send(Method::POST, &format!("{site}/gauge-readings"), gauge)
        .await;
    assert_eq!(read.status(), StatusCode::NO_CONTENT);
    let list = api
        .json(&format!("{site}/weather?from={}&to={}", on(0), on(2)))
        .await;
    let counted: Vec<(Value, Value)> = list["days"]
        .as_array()
        .unwrap()
        .iter()
        .map(|row| (row["origin"].clone(), row["day"]["rain_mm"].clone()))
        .collect();
    assert_eq!(counted[0], (json!("typed"), json!(1.0)));
    assert_eq!(
        counted[1],
        (json!("pushed"), json!(7.5)),
        "the gauge counts for rain"
    );
    assert_eq!(counted[2].0, "service");
    let plan = plan_of(&api, &site, on(3)).await;
    assert!(!behind(&plan, on(2)).1);
    assert_eq!(plan["days"][2]["et0_from"], "forecast");
    // Each day began once, and has its plan; the first had begun before there was a zone.
    let days = async |sql: &'static str| -> Vec<String> {
        sqlx::query_scalar(sql).fetch_all(&app.pool).await.unwrap()
    };
    let all: Vec<String> = (0..=3).map(|d| on(d).to_string()).collect();
    let begun = days("SELECT day::text FROM site_day ORDER BY day").await;
    assert!(begun.ends_with(&all[1..]), "{begun:?}");
    assert_eq!(
        days("SELECT DISTINCT today::text FROM plan ORDER BY 1").await,
        all
    );
    drop(process);
}
