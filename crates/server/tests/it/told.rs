//! Weather that is told: typed by people, sent by devices; each day once, from whoever comes first.

use reqwest::header::{AUTHORIZATION, CONTENT_TYPE};
use reqwest::{Method, Response, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, NIGHT, expect, small_site, weather};

/// Sends days as a station does: without a cookie, without an origin.
async fn push(app: &App, site: &str, token: &str, body: String, kind: &str) -> Response {
    crate::harness::plain()
        .build()
        .unwrap()
        .post(format!("{}/api/v1{site}/weather-days", app.origin()))
        .header(AUTHORIZATION, format!("Bearer {token}"))
        .header(CONTENT_TYPE, kind)
        .body(body)
        .send()
        .await
        .unwrap()
}

async fn push_json(app: &App, site: &str, token: &str, body: &Value) -> Response {
    push(app, site, token, body.to_string(), "application/json").await
}

async fn device(api: &Api, site: &str, name: &str) -> (i64, String) {
    let path = format!("{site}/device-tokens");
    let made = api.send(Method::POST, &path, json!({ "name": name })).await;
    let made = expect(made, StatusCode::CREATED).await;
    (
        made["id"].as_i64().unwrap(),
        made["token"].as_str().unwrap().to_owned(),
    )
}

fn day(date: &str, rain_mm: f64) -> Value {
    json!({ "date": date, "tmin_c": 14.0, "tmax_c": 29.0, "rain_mm": rain_mm })
}

async fn version(api: &Api, site: &str) -> i64 {
    api.json(site).await["weather_version"].as_i64().unwrap()
}

/// Rain that counts on a day, and where it came from.
async fn rain(api: &Api, site: &str, date: &str) -> (f64, String) {
    let list = api
        .json(&format!("{site}/weather?from={date}&to={date}"))
        .await;
    let row = &list["days"][0];
    (
        row["day"]["rain_mm"].as_f64().unwrap(),
        row["origin"].as_str().unwrap().to_owned(),
    )
}

#[tokio::test]
async fn a_station_sends_days_and_the_plan_follows() {
    let (app, api, site) = App::with_dry_zone().await;
    let (_, token) = device(&api, &site, "Roof").await;
    let depletion = async || {
        let plan = api.json(&format!("{site}/plan")).await;
        plan["current"]["plan"]["zones"][0]["cells"][2]["depletion_start_mm"]
            .as_f64()
            .unwrap()
    };
    let dry = depletion().await;
    // The file has 17 June without rain; a station's day comes after a file's: its rain does not count.
    let wet = json!({ "days": [day("2026-06-17", 30.0)] });
    let told = expect(push_json(&app, &site, &token, &wet).await, StatusCode::OK).await;
    assert_eq!((&told["days"], &told["changed"]), (&json!(1), &json!(1)));
    assert_eq!(
        rain(&api, &site, "2026-06-17").await,
        (0.0, "upload".to_owned())
    );
    // What is typed comes before the file.
    let typed = api
        .send(Method::POST, &format!("{site}/weather-days"), wet.clone())
        .await;
    expect(typed, StatusCode::OK).await;
    assert_eq!(
        rain(&api, &site, "2026-06-17").await,
        (30.0, "typed".to_owned())
    );
    assert!(depletion().await < dry, "the plan follows");
    // Taken back, the file counts again; said again it changes nothing.
    let path = format!("{site}/weather-days/2026-06-17");
    for _ in 0..2 {
        let back = api.send(Method::DELETE, &path, Value::Null).await;
        assert_eq!(back.status(), StatusCode::NO_CONTENT);
    }
    assert_eq!(
        rain(&api, &site, "2026-06-17").await,
        (0.0, "upload".to_owned())
    );
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert_eq!(history.matches("weather_forgotten").count(), 1);
    let typed = api
        .send(Method::POST, &format!("{site}/weather-days"), wet)
        .await;
    expect(typed, StatusCode::OK).await;

    // The gauge counts before all.
    let gauge = json!({ "date": "2026-06-17", "rain_mm": 4.0 });
    let read = api
        .send(Method::POST, &format!("{site}/gauge-readings"), gauge)
        .await;
    assert_eq!(read.status(), StatusCode::NO_CONTENT);
    assert_eq!(rain(&api, &site, "2026-06-17").await.0, 4.0);
    let devices = api.json(&format!("{site}/device-tokens")).await;
    assert!(devices[0]["last_used_at"].is_string());
    assert!(devices[0].get("token").is_none());
}

#[tokio::test]
async fn the_same_days_twice_change_nothing() {
    let (app, api, site) = App::with_dry_zone().await;
    let (_, token) = device(&api, &site, "Roof").await;
    let days = json!({ "days": [day("2026-06-01", 1.0), day("2026-06-02", 2.0)] });
    let first = expect(push_json(&app, &site, &token, &days).await, StatusCode::OK).await;
    assert_eq!(first["changed"], 2);
    let before = version(&api, &site).await;
    let plans = async || -> i64 {
        sqlx::query_scalar("SELECT count(*) FROM plan")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    let made = plans().await;
    let again = expect(push_json(&app, &site, &token, &days).await, StatusCode::OK).await;
    assert_eq!(again["changed"], 0);
    let csv = "date,tmin_c,tmax_c,rain_mm\n2026-06-01,14,29,1\n2026-06-02,14,29,2\n";
    let as_csv = push(&app, &site, &token, csv.to_owned(), "text/csv").await;
    assert_eq!(expect(as_csv, StatusCode::OK).await["changed"], 0);
    assert_eq!(version(&api, &site).await, before);
    assert_eq!(plans().await, made, "nothing new, nothing planned");
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day WHERE origin = 'pushed'")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(kept, 2);
    // One of two is another now.
    let other = json!({ "days": [day("2026-06-01", 1.0), day("2026-06-02", 5.0)] });
    assert_eq!(
        expect(push_json(&app, &site, &token, &other).await, StatusCode::OK).await["changed"],
        1
    );
}

#[tokio::test]
async fn tokens_that_are_none_and_days_that_are_none() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = format!("/sites/{}", app.site(owner, &small_site(), NIGHT).await.0);
    let other = format!("/sites/{}", app.site(owner, &small_site(), NIGHT).await.0);
    let (id, token) = device(&api, &site, "Roof").await;
    let (_, others) = device(&api, &other, "Shed").await;
    let good = json!({ "days": [day("2026-06-17", 1.0)] });
    let status = async |site: &str, token: &str, body: &Value| {
        push_json(&app, site, token, body).await.status()
    };

    assert_eq!(
        status(&site, &others, &good).await,
        StatusCode::NOT_FOUND,
        "another site's"
    );
    assert_eq!(
        status(&site, "nonsense", &good).await,
        StatusCode::UNAUTHORIZED
    );
    assert_eq!(status(&site, "", &good).await, StatusCode::UNAUTHORIZED);
    assert_eq!(
        status("/sites/x", &token, &good).await,
        StatusCode::NOT_FOUND
    );
    for (wrong, field) in [
        (json!({ "days": [day("2026-06-18", 1.0)] }), "days[0].date"),
        (
            json!({ "days": [day("2026-06-17", -1.0)] }),
            "days[0].rain_mm",
        ),
        (
            json!({ "days": [day("2026-06-17", 1.0), day("2026-06-17", 2.0)] }),
            "days[1].date",
        ),
    ] {
        let refused = push_json(&app, &site, &token, &wrong).await;
        assert_eq!(
            expect(refused, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
            field
        );
    }
    for nonsense in [
        json!({}),
        json!({ "days": [] }),
        json!([]),
        json!({ "days": [{ "date": "2026-06-17", "tmin_f": 70 }] }),
    ] {
        assert_eq!(
            status(&site, &token, &nonsense).await,
            StatusCode::BAD_REQUEST,
            "{nonsense}"
        );
    }
    let lines = push(
        &app,
        &site,
        &token,
        "date,rain_mm\n2026-06-17,1\n2026-06-18,x\n2027-01-01,1\n".to_owned(),
        "text/csv",
    )
    .await;
    let lines = expect(lines, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(lines["lines"].as_array().unwrap().len(), 2, "{lines}");
    let none: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(none, 0, "nothing was written");

    // A token tells weather, and nothing else.
    let client = crate::harness::plain().build().unwrap();
    let read = client
        .get(format!("{}/api/v1{site}/plan", app.origin()))
        .header(AUTHORIZATION, format!("Bearer {token}"))
        .send()
        .await
        .unwrap();
    assert_eq!(read.status(), StatusCode::UNAUTHORIZED);
    // A page of a stranger cannot borrow a session by adding a token.
    let borrowed = api
        .client
        .post(format!("{}/api/v1{site}/plans", app.origin()));
    let borrowed = borrowed
        .header(AUTHORIZATION, "Bearer x")
        .header("origin", "http://evil.example");
    assert_eq!(
        borrowed.send().await.unwrap().status(),
        StatusCode::FORBIDDEN
    );

    let revoked = api
        .send(
            Method::DELETE,
            &format!("{site}/device-tokens/{id}"),
            Value::Null,
        )
        .await;
    assert_eq!(revoked.status(), StatusCode::NO_CONTENT);
    assert_eq!(
        status(&site, &token, &good).await,
        StatusCode::UNAUTHORIZED,
        "revoked"
    );
    let again = api
        .send(
            Method::DELETE,
            &format!("{site}/device-tokens/{id}"),
            Value::Null,
        )
        .await;
    assert_eq!(again.status(), StatusCode::NOT_FOUND);
    assert_eq!(api.json(&format!("{site}/device-tokens")).await, json!([]));
    let kept: bool =
        sqlx::query_scalar("SELECT bool_and(token_hash <> $1::bytea) FROM device_token")
            .bind(token.as_bytes())
            .fetch_one(&app.pool)
            .await
            .unwrap();
    assert!(kept, "the token itself is not kept");
}

#[tokio::test]
async fn ten_thousand_days_in_posts_and_at_once() {
    let (app, api, site) = App::with_dry_zone().await;
    let (_, token) = device(&api, &site, "Roof").await;
    let first: jiff::civil::Date = "1995-01-01".parse().unwrap();
    let dates: Vec<String> = first
        .series(jiff::ToSpan::days(1))
        .take(10_000)
        .map(|d| d.to_string())
        .collect();
    let all: Vec<Value> = dates.iter().map(|date| day(date, 1.0)).collect();
    let at_once = push_json(&app, &site, &token, &json!({ "days": all })).await;
    assert_eq!(at_once.status(), StatusCode::PAYLOAD_TOO_LARGE);
    let csv = dates
        .iter()
        .fold("date,rain_mm\n".to_owned(), |text, date| {
            text + date + ",1\n"
        });
    let at_once = push(&app, &site, &token, csv, "text/csv").await;
    assert_eq!(at_once.status(), StatusCode::PAYLOAD_TOO_LARGE);
    // In parts, each as soon as the one before is answered; the limit on requests holds some up.
    for part in all.chunks(400) {
        loop {
            let sent = push_json(&app, &site, &token, &json!({ "days": part })).await;
            if sent.status() == StatusCode::TOO_MANY_REQUESTS {
                tokio::time::sleep(std::time::Duration::from_secs(1)).await;
                continue;
            }
            assert_eq!(expect(sent, StatusCode::OK).await["changed"], part.len());
            break;
        }
    }
    let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day WHERE origin = 'pushed'")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(kept, 10_000);
    let plan = api.json(&format!("{site}/plan")).await;
    assert_eq!(plan["current"]["plan"]["today"], "2026-06-18");
}

#[tokio::test]
async fn people_type_days_and_are_asked_about_floods() {
    let (app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/weather-days");
    let flood = json!({ "days": [day("2026-06-17", 400.0)] });
    let asked = expect(
        api.send(Method::POST, &path, flood).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(asked["unlikely"]["unlikely"], "much_rain");
    let sure = json!({ "days": [day("2026-06-17", 400.0)], "sure": true });
    expect(api.send(Method::POST, &path, sure).await, StatusCode::OK).await;
    // A Fahrenheit high typed as Celsius.
    let mut hot = day("2026-06-16", 0.0);
    hot["tmax_c"] = json!(57.0);
    let asked = api
        .send(Method::POST, &path, json!({ "days": [hot] }))
        .await;
    let asked = expect(asked, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(
        asked["unlikely"]["unlikely"], "seldom_temperature",
        "{asked}"
    );
    let history = api.json(&format!("{site}/history")).await;
    assert_eq!(
        history["entries"][0]["what"]["event"], "weather_typed",
        "{history}"
    );
    // A viewer types nothing; without a session nobody does.
    let viewer = app.account("fern@meadow.example").await;
    let id = site.rsplit('/').next().unwrap().parse().unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(id), viewer, "viewer")
        .await
        .unwrap();
    let fern = app.sign_in("fern@meadow.example").await;
    let days = json!({ "days": [day("2026-06-17", 1.0)] });
    assert_eq!(
        fern.send(Method::POST, &path, days.clone()).await.status(),
        StatusCode::FORBIDDEN
    );
    assert_eq!(
        app.stranger()
            .send(Method::POST, &path, days)
            .await
            .status(),
        StatusCode::UNAUTHORIZED
    );
    assert_eq!(
        fern.send(
            Method::POST,
            &format!("{site}/device-tokens"),
            json!({ "name": "x" })
        )
        .await
        .status(),
        StatusCode::FORBIDDEN
    );
}

#[tokio::test]
async fn a_file_that_is_to_replace_takes_the_place_of_what_was_typed() {
    let (_app, api, site) = App::with_dry_zone().await;
    let typed = json!({ "days": [day("2026-06-17", 9.0)] });
    let typed = api
        .send(Method::POST, &format!("{site}/weather-days"), typed)
        .await;
    expect(typed, StatusCode::OK).await;
    for (conflicts, counts) in [
        ("keep", (9.0, "typed".to_owned())),
        ("replace", (0.0, "upload".to_owned())),
    ] {
        let path = format!("{site}/weather-imports?conflicts={conflicts}");
        let version = version(&api, &site).await;
        let imported = api.csv(&path, Some(version), &weather(|_| None)).await;
        expect(imported, StatusCode::CREATED).await;
        assert_eq!(rain(&api, &site, "2026-06-17").await, counts, "{conflicts}");
    }
}

/// Twelve months like June.
fn normals() -> Value {
    let month = json!({ "low_c": 14.0, "high_c": 28.0, "rain_mm": 90.0, "wet_days": 9.0 });
    Value::Array(vec![month; 12])
}

/// Gives a site normals, or takes them away.
async fn set_normals(api: &Api, site: &str, normals: Value) -> Response {
    let mut view = api.json(site).await;
    let version = view["version"].as_i64().unwrap();
    view["site"]["normals"] = normals;
    let edit = json!({ "site": view["site"], "windows": view["windows"], "supply": view["supply"], "controller": view["controller"] });
    api.edit(Method::PUT, site, version, edit).await
}

#[tokio::test]
async fn normals_plan_a_site_without_weather_and_give_way_to_days() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = format!("/sites/{}", app.site(owner, &small_site(), NIGHT).await.0);
    let mut zone = crate::harness::zone("Front");
    zone["active_from"] = json!("2026-06-18");
    expect(
        api.send(Method::POST, &format!("{site}/zones"), zone).await,
        StatusCode::CREATED,
    )
    .await;
    let plan = async || api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
    assert_eq!(plan().await, Value::Null);

    let mut wrong = normals();
    wrong[3]["high_c"] = json!(3.0);
    let refused = expect(
        set_normals(&api, &site, wrong).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(refused["field"], "site.normals[3].high_c");
    expect(set_normals(&api, &site, normals()).await, StatusCode::OK).await;
    let first = plan().await;
    let today = &first["days"][2];
    assert_eq!(
        (&today["date"], &today["et0_from"]),
        (&json!("2026-06-18"), &json!("normals"))
    );
    assert_eq!(
        first["notes"][0]["dates"],
        json!(["2026-06-17"]),
        "yesterday can be told"
    );

    // Two days go by, and one of them is told; the other keeps the normals.
    sqlx::query("UPDATE site SET simulated_now = simulated_now + interval '2 days'")
        .execute(&app.pool)
        .await
        .unwrap();
    let told = json!({ "days": [{ "date": "2026-06-19", "tmin_c": 22.0, "tmax_c": 39.0, "rain_mm": 0.0 }] });
    expect(
        api.send(Method::POST, &format!("{site}/weather-days"), told)
            .await,
        StatusCode::OK,
    )
    .await;
    let later = plan().await;
    assert_eq!(
        later["notes"][0]["dates"],
        json!(["2026-06-17", "2026-06-18"])
    );
    assert_eq!(later["notes"][0]["last_known"], "2026-06-19");
    let (before, hot) = (&later["days"][0], &later["days"][1]);
    assert_eq!(
        (&before["et0_from"], &before["rain_expected"]),
        (&json!("filled"), &json!(true))
    );
    assert_eq!(
        (&hot["et0_from"], &hot["rain_expected"]),
        (&json!("hargreaves"), &json!(false))
    );
    assert!(hot["et0_mm"].as_f64() > before["et0_mm"].as_f64());
    // The balance has gone on over both.
    let start = |plan: &Value| {
        plan["zones"][0]["cells"][2]["depletion_start_mm"]
            .as_f64()
            .unwrap()
    };
    assert!(
        start(&later) > start(&first) + 4.0,
        "{} {}",
        start(&first),
        start(&later)
    );
    // What nobody told of is no record: the rain by month counts the day that was told alone.
    let days: i64 = sqlx::query_scalar("SELECT sum(days) FROM weather_month")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(days, 1);

    // They are of the document, and come back with it.
    let document = api.json(&format!("{site}/document")).await;
    assert_eq!(document["site"]["normals"], normals());
    expect(set_normals(&api, &site, Value::Null).await, StatusCode::OK).await;
    let without = plan().await;
    assert_eq!(without["days"][1]["et0_from"], "hargreaves");
    assert_eq!(without["days"][0]["rain_expected"], false);
}

#[tokio::test]
async fn temperatures_of_one_and_rain_of_another_make_a_day() {
    let (app, api, site) = App::with_dry_zone().await;
    let (_, token) = device(&api, &site, "Roof").await;
    // Typed without rain: the file's rain stays; a station's full day fills in where the file has none.
    let cool = json!({ "days": [{ "date": "2026-06-17", "tmin_c": 5.0, "tmax_c": 15.0 }] });
    expect(
        api.send(Method::POST, &format!("{site}/weather-days"), cool)
            .await,
        StatusCode::OK,
    )
    .await;
    let list = api
        .json(&format!("{site}/weather?from=2026-06-17&to=2026-06-17"))
        .await;
    assert_eq!(
        (
            &list["days"][0]["day"]["tmax_c"],
            &list["days"][0]["day"]["rain_mm"]
        ),
        (&json!(15.0), &json!(0.0))
    );
    let rain_alone = json!({ "days": [{ "date": "2026-05-01", "rain_mm": 7.0 }] });
    expect(
        api.send(Method::POST, &format!("{site}/weather-days"), rain_alone)
            .await,
        StatusCode::OK,
    )
    .await;
    let station = json!({ "days": [day("2026-05-01", 1.0)] });
    expect(
        push_json(&app, &site, &token, &station).await,
        StatusCode::OK,
    )
    .await;
    let list = api
        .json(&format!("{site}/weather?from=2026-05-01&to=2026-05-01"))
        .await;
    let row = &list["days"][0];
    assert_eq!(
        (
            &row["day"]["tmax_c"],
            &row["day"]["rain_mm"],
            &row["origin"]
        ),
        (&json!(29.0), &json!(7.0), &json!("pushed"))
    );
}

#[tokio::test]
async fn a_typed_day_keeps_what_a_file_knows_beside_it() {
    let (_app, api, site) = App::with_dry_zone().await;
    let file = "date,tmin_c,tmax_c,rh_min_pct,rh_max_pct,rain_mm\n2026-06-17,14,26,60,95,4\n";
    let path = format!("{site}/weather-imports?conflicts=replace");
    let version = version(&api, &site).await;
    let imported = api.csv(&path, Some(version), file).await;
    expect(imported, StatusCode::CREATED).await;
    let corrected = json!({ "days": [{ "date": "2026-06-17", "tmin_c": 14.0, "tmax_c": 28.0 }] });
    let told = api
        .send(Method::POST, &format!("{site}/weather-days"), corrected)
        .await;
    expect(told, StatusCode::OK).await;
    let list = api
        .json(&format!("{site}/weather?from=2026-06-17&to=2026-06-17"))
        .await;
    let row = &list["days"][0];
    assert_eq!(row["origin"], "typed");
    assert_eq!(
        (&row["day"]["tmax_c"], &row["day"]["rh_min_pct"]),
        (&json!(28.0), &json!(60.0))
    );
    assert_eq!(row["day"]["rain_mm"], 4.0);
}
