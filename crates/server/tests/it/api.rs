//! The HTTP API against a real PostgreSQL.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{App, EMAIL, NIGHT, PASSWORD, credentials, expect, small_site, weather, zone};

async fn with_site() -> (App, crate::harness::Api, String) {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    (app, api, format!("/sites/{}", site.0))
}

#[tokio::test]
async fn an_unknown_address_and_a_wrong_password_get_the_same_answer() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.stranger();
    let wrong = api
        .send(Method::POST, "/session", credentials(EMAIL, "nonsense"))
        .await;
    let unknown = api
        .send(
            Method::POST,
            "/session",
            credentials("nobody@meadow.example", PASSWORD),
        )
        .await;
    let mut answers = Vec::new();
    for answer in [wrong, unknown] {
        let mut body = expect(answer, StatusCode::UNAUTHORIZED).await;
        // Each request has a number of its own.
        body["request_id"] = Value::Null;
        answers.push(body);
    }
    assert_eq!(answers[0], answers[1]);
}

#[tokio::test]
async fn a_session_ends_at_sign_out_for_its_old_cookie_too() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let api = app.stranger();
    let answer = api
        .send(Method::POST, "/session", credentials(EMAIL, PASSWORD))
        .await;
    let cookie = answer.headers()["set-cookie"].to_str().unwrap().to_owned();
    assert!(
        cookie.contains("HttpOnly") && cookie.contains("SameSite=Lax"),
        "{cookie}"
    );
    assert_eq!(api.json("/session").await["email"], EMAIL);
    api.send(Method::DELETE, "/session", Value::Null).await;
    let old = app.stranger();
    let answer = old
        .client
        .get(format!("{}/session", old.base))
        .header("cookie", cookie.split(';').next().unwrap())
        .send()
        .await
        .unwrap();
    assert_eq!(answer.status(), StatusCode::UNAUTHORIZED);
}

#[tokio::test]
async fn what_another_page_sends_is_refused() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let foreign = crate::harness::plain().build().unwrap();
    for origin in [None, Some("http://elsewhere.example")] {
        let mut request = foreign
            .post(format!("{}/api/v1/session", app.origin()))
            .json(&credentials(EMAIL, PASSWORD));
        if let Some(origin) = origin {
            request = request.header("origin", origin);
        }
        assert_eq!(
            request.send().await.unwrap().status(),
            StatusCode::FORBIDDEN
        );
    }
}

#[tokio::test]
async fn roles_and_strangers_are_kept_at_the_door() {
    let (app, owner, site) = with_site().await;
    let viewer = app.account("viewer@meadow.example").await;
    let id = site.trim_start_matches("/sites/").parse().unwrap();
    fresh_meadow::db::sites::add_member(&app.pool, fresh_meadow::db::SiteId(id), viewer, "viewer")
        .await
        .unwrap();
    app.account("stranger@meadow.example").await;
    let viewer = app.sign_in("viewer@meadow.example").await;
    let stranger = app.sign_in("stranger@meadow.example").await;
    let nobody = app.stranger();
    let zones = format!("{site}/zones");
    for (api, read, write) in [
        (&owner, StatusCode::OK, StatusCode::CREATED),
        (&viewer, StatusCode::OK, StatusCode::FORBIDDEN),
        (&stranger, StatusCode::NOT_FOUND, StatusCode::NOT_FOUND),
        (&nobody, StatusCode::UNAUTHORIZED, StatusCode::UNAUTHORIZED),
    ] {
        assert_eq!(api.get(&zones).await.status(), read);
        assert_eq!(
            api.send(Method::POST, &zones, zone("A")).await.status(),
            write
        );
    }
    // A site that does not exist looks like one that is not yours.
    assert_eq!(
        owner.get("/sites/999999/zones").await.status(),
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        owner.get("/sites/none/zones").await.status(),
        StatusCode::NOT_FOUND
    );
}

#[tokio::test]
async fn a_stale_edit_gets_412_and_the_current_state() {
    let (_app, api, site) = with_site().await;
    let made = expect(
        api.send(Method::POST, &format!("{site}/zones"), zone("North"))
            .await,
        StatusCode::CREATED,
    )
    .await;
    let path = format!("{site}/zones/{}", made["id"]);
    let mut edit = zone("North");
    edit["area_m2"] = json!(450);
    let first = expect(
        api.edit(Method::PUT, &path, 1, edit.clone()).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(first["version"], 2);
    edit["area_m2"] = json!(999);
    let stale = expect(
        api.edit(Method::PUT, &path, 1, edit).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
    assert_eq!(stale["current"]["zone"]["area_m2"], 450.0);
    assert_eq!(
        api.json(&format!("{site}/zones")).await[0]["zone"]["area_m2"],
        450.0
    );
    // Without saying which version was edited nothing is changed.
    let blind = api.send(Method::PUT, &path, zone("North")).await;
    assert_eq!(blind.status(), StatusCode::PRECONDITION_REQUIRED);
    // The site's own page likewise.
    let view = api.json(&site).await;
    let mut edit = json!({ "site": view["site"], "windows": view["windows"], "supply": view["supply"], "controller": view["controller"] });
    edit["site"]["name"] = json!("Clover Green East");
    expect(
        api.edit(Method::PUT, &site, 1, edit.clone()).await,
        StatusCode::OK,
    )
    .await;
    expect(
        api.edit(Method::PUT, &site, 1, edit).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;
}

#[tokio::test]
async fn bad_figures_are_refused_at_their_field_and_nothing_is_written() {
    let (_app, api, site) = with_site().await;
    let zones = format!("{site}/zones");
    let mut bad = zone("North");
    bad["slope_pct"] = json!(180);
    let said = expect(
        api.send(Method::POST, &zones, bad).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "slope_pct");
    assert_eq!(
        said["detail"],
        "slope_pct 180 % is above the highest allowed, 100 %"
    );
    let mut bad = zone("North");
    bad["area_m2"] = json!("wide");
    let said = expect(
        api.send(Method::POST, &zones, bad).await,
        StatusCode::BAD_REQUEST,
    )
    .await;
    assert_eq!(said["field"], "area_m2");
    let mut bad = zone("North");
    bad["colour"] = json!("green");
    let said = expect(
        api.send(Method::POST, &zones, bad).await,
        StatusCode::BAD_REQUEST,
    )
    .await;
    assert!(
        said["detail"].as_str().unwrap().contains("colour"),
        "{said}"
    );
    assert_eq!(api.json(&zones).await, json!([]));
}

#[tokio::test]
async fn a_zone_is_ended_and_not_dropped() {
    let (_app, api, site) = with_site().await;
    let made = expect(
        api.send(Method::POST, &format!("{site}/zones"), zone("North"))
            .await,
        StatusCode::CREATED,
    )
    .await;
    let end = format!("{site}/zones/{}/end", made["id"]);
    let early = api
        .edit(Method::POST, &end, 1, json!({ "last_day": "2026-06-01" }))
        .await;
    assert_eq!(
        expect(early, StatusCode::UNPROCESSABLE_ENTITY).await["field"],
        "last_day"
    );
    expect(
        api.edit(Method::POST, &end, 1, json!({ "last_day": "2026-06-17" }))
            .await,
        StatusCode::OK,
    )
    .await;
    let zones = api.json(&format!("{site}/zones")).await;
    assert_eq!(zones[0]["zone"]["active_to"], "2026-06-17");
}

#[tokio::test]
async fn an_import_is_previewed_and_then_all_or_nothing() {
    let (app, api, site) = with_site().await;
    let preview = format!("{site}/weather-imports/preview");
    let import = format!("{site}/weather-imports?conflicts=keep");
    let days = || async {
        sqlx::query_scalar::<_, i64>("SELECT count(*) FROM weather_day")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    let bad = weather(|day| (day == 12).then_some("31,17,0"));
    let said = expect(api.csv(&preview, None, &bad).await, StatusCode::OK).await;
    assert_eq!(said["errors"][0]["line"], 6);
    assert_eq!(said["errors"][0]["column"], "tmin_c");
    let refused = expect(
        api.csv(&import, Some(1), &bad).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(refused["lines"][0]["line"], 6);
    assert_eq!(days().await, 0);

    let good = weather(|_| None);
    let said = expect(api.csv(&preview, None, &good).await, StatusCode::OK).await;
    assert_eq!(
        (said["new_days"].clone(), said["errors"].clone()),
        (json!(10), json!([]))
    );
    assert_eq!(days().await, 0, "a preview writes nothing");
    expect(api.csv(&import, Some(1), &good).await, StatusCode::CREATED).await;
    assert_eq!(days().await, 10);

    // The weather has changed since that preview.
    expect(
        api.csv(&import, Some(1), &good).await,
        StatusCode::PRECONDITION_FAILED,
    )
    .await;

    let wet = format!(
        "{}2026-06-05,18,33,5\n2026-06-20,18,33,5\n",
        weather(|day| (day == 12).then_some("17,24,20"))
    );
    let said = expect(api.csv(&preview, None, &wet).await, StatusCode::OK).await;
    assert_eq!(said["same_days"], 9);
    assert_eq!(said["different"][0]["live"]["rain_mm"], 0.0);
    assert_eq!(said["different"][0]["file"]["rain_mm"], 20.0);
    assert_eq!(said["forecast_rows"], 1);
    assert_eq!(
        said["gaps"],
        json!([{ "first": "2026-06-06", "last": "2026-06-07" }])
    );
    let rain = || async {
        sqlx::query_scalar::<_, f64>("SELECT rain_mm FROM weather_day WHERE date = '2026-06-12'")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    let kept = expect(api.csv(&import, Some(2), &wet).await, StatusCode::CREATED).await;
    assert_eq!((kept["kept"].clone(), rain().await), (json!(1), 0.0));
    let replace = format!("{site}/weather-imports?conflicts=replace");
    expect(api.csv(&replace, Some(3), &wet).await, StatusCode::CREATED).await;
    assert!((rain().await - 20.0).abs() < 1e-9);
    assert_eq!(days().await, 11, "forecast rows are no observations");
}

#[tokio::test]
async fn a_foreign_file_is_mapped_once_and_remembered_for_its_heading() {
    let (_app, api, site) = with_site().await;
    let preview = format!("{site}/weather-imports/preview");
    let file = "Day;Low F;High F;Rain in\n6/16/2026;59;86;0.5\n6/17/2026;60;88;0\n";
    let said = expect(api.csv(&preview, None, file).await, StatusCode::OK).await;
    assert_eq!((&said["mapped"], &said["rows"]), (&json!(false), &json!(0)));
    assert_eq!(
        said["heading"]["columns"],
        json!(["Day", "Low F", "High F", "Rain in"])
    );
    let mut mapping = said["mapping"].clone();
    assert_eq!(mapping["date_form"], "month_first");
    assert_eq!(mapping["columns"].as_array().unwrap().len(), 3);
    let query = |mapping: &Value| {
        let json = mapping.to_string();
        let mut encoded = String::new();
        for byte in json.bytes() {
            encoded.push_str(&format!("%{byte:02X}"));
        }
        format!("mapping={encoded}")
    };
    let mapped = format!("{preview}?{}", query(&mapping));
    let said = expect(api.csv(&mapped, None, file).await, StatusCode::OK).await;
    assert_eq!(
        (&said["mapped"], &said["new_days"]),
        (&json!(true), &json!(2))
    );
    let import = format!("{site}/weather-imports?conflicts=keep&{}", query(&mapping));
    expect(api.csv(&import, Some(1), file).await, StatusCode::CREATED).await;
    let list = api
        .json(&format!("{site}/weather?from=2026-06-16&to=2026-06-16"))
        .await;
    let day = &list["days"][0]["day"];
    assert!((day["tmin_c"].as_f64().unwrap() - 15.0).abs() < 1e-9);
    assert!((day["rain_mm"].as_f64().unwrap() - 12.7).abs() < 1e-9);

    // The next file of that heading is read without being asked.
    let next = "Day;Low F;High F;Rain in\n6/15/2026;58;85;0\n";
    let said = expect(api.csv(&preview, None, next).await, StatusCode::OK).await;
    assert_eq!(
        (&said["mapped"], &said["new_days"]),
        (&json!(true), &json!(1))
    );
    mapping["date_form"] = json!("iso");
    let wrong = format!("{preview}?{}", query(&mapping));
    let said = expect(api.csv(&wrong, None, next).await, StatusCode::OK).await;
    assert_eq!(said["errors"][0]["column"], "Day");
    let nonsense = format!("{preview}?mapping=nonsense");
    let said = expect(
        api.csv(&nonsense, None, next).await,
        StatusCode::BAD_REQUEST,
    )
    .await;
    assert_eq!(said["field"], "mapping");

    let noaa = include_str!("../../../lawn/tests/data/ghcn-made-up.csv");
    let said = expect(api.csv(&preview, None, noaa).await, StatusCode::OK).await;
    assert_eq!(
        (&said["new_days"], &said["left_out"], &said["heading"]),
        (&json!(3), &json!(1), &Value::Null)
    );
}

#[tokio::test]
async fn the_gauge_counts_before_the_station_and_a_correction_voids() {
    let (app, api, site) = with_site().await;
    let good = weather(|_| None);
    expect(
        api.csv(
            &format!("{site}/weather-imports?conflicts=keep"),
            Some(1),
            &good,
        )
        .await,
        StatusCode::CREATED,
    )
    .await;
    let gauge = format!("{site}/gauge-readings");
    for rain in [8.0, 9.5] {
        let reading = json!({ "date": "2026-06-16", "rain_mm": rain });
        expect(
            api.send(Method::POST, &gauge, reading).await,
            StatusCode::NO_CONTENT,
        )
        .await;
    }
    let list = api
        .json(&format!("{site}/weather?from=2026-06-16&to=2026-06-16"))
        .await;
    assert_eq!(list["days"][0]["day"]["rain_mm"], 9.5);
    assert_eq!(list["days"][0]["station_rain_mm"], 0.0);
    let voided: i64 =
        sqlx::query_scalar("SELECT count(*) FROM gauge_reading WHERE voided_at IS NOT NULL")
            .fetch_one(&app.pool)
            .await
            .unwrap();
    assert_eq!(voided, 1);
    let today = json!({ "date": "2026-06-18", "rain_mm": 1 });
    let said = expect(
        api.send(Method::POST, &gauge, today).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "date");
    let negative = json!({ "date": "2026-06-16", "rain_mm": -1 });
    let said = expect(
        api.send(Method::POST, &gauge, negative).await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(said["field"], "rain_mm");
}

#[tokio::test]
async fn every_change_replans_and_reading_does_not() {
    let (app, api, site) = with_site().await;
    let plans = || async {
        sqlx::query_scalar::<_, i64>("SELECT count(*) FROM plan")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    assert_eq!(
        api.json(&format!("{site}/plan")).await["current"],
        Value::Null
    );
    expect(
        api.csv(
            &format!("{site}/weather-imports?conflicts=keep"),
            Some(1),
            &weather(|_| None),
        )
        .await,
        StatusCode::CREATED,
    )
    .await;
    expect(
        api.send(Method::POST, &format!("{site}/zones"), zone("North"))
            .await,
        StatusCode::CREATED,
    )
    .await;
    // The plan without zones was in force at no event: the newer took its place.
    let before = plans().await;
    assert_eq!(before, 1);
    let plan = api.json(&format!("{site}/plan")).await;
    assert_eq!(plan["current"]["plan"]["zones"][0]["name"], "North");
    assert_eq!(plans().await, before);
}

#[tokio::test]
async fn runs_are_assumed_once_their_passes_have_begun() {
    let app = App::with_demo().await;
    let rows: Vec<(String, i64)> = sqlx::query_as(
        "SELECT to_char(date, 'YYYY-MM-DD'), count(*) FROM run WHERE date >= '2026-06-16' GROUP BY 1 ORDER BY 1",
    )
    .fetch_all(&app.pool)
    .await
    .unwrap();
    // The demo's plan of the night asked for this morning's runs; nothing of tomorrow is in the record.
    assert!(
        rows.iter().any(|(date, n)| date == "2026-06-18" && *n > 0),
        "{rows:?}"
    );
    assert!(rows.iter().all(|(date, _)| date.as_str() <= "2026-06-18"));
    // Planning again at the same instant records nothing twice.
    let count = "SELECT count(*) FROM run";
    let before: i64 = sqlx::query_scalar(count)
        .fetch_one(&app.pool)
        .await
        .unwrap();
    let mut tx = app.pool.begin().await.unwrap();
    fresh_meadow::planning::replan(&mut tx, fresh_meadow::db::SiteId(1))
        .await
        .unwrap();
    tx.commit().await.unwrap();
    let after: i64 = sqlx::query_scalar(count)
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(before, after);
}

#[tokio::test]
async fn the_database_refuses_what_the_application_should_never_send() {
    let (app, _api, site) = with_site().await;
    let id: i64 = site.trim_start_matches("/sites/").parse().unwrap();
    for statement in [
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, origin) VALUES ($1, '2026-06-01', 30, 20, 'upload')",
        "INSERT INTO gauge_reading (site_id, date, rain_mm, read_at) VALUES ($1, '2026-06-01', -1, now())",
        "INSERT INTO zone (site_id, position, settings) VALUES ($1, 1, '{\"name\": \"\"}')",
        "UPDATE site SET latitude = 95 WHERE id = $1",
    ] {
        assert!(
            sqlx::query(statement)
                .bind(id)
                .execute(&app.pool)
                .await
                .is_err(),
            "{statement}"
        );
    }
}

#[tokio::test]
async fn health_and_readiness_answer_and_headers_are_set() {
    let app = App::start().await;
    let client = crate::harness::plain().build().unwrap();
    for path in ["/healthz", "/readyz"] {
        let answer = client
            .get(format!("{}{path}", app.origin()))
            .send()
            .await
            .unwrap();
        assert_eq!(answer.status(), StatusCode::OK);
        let policy = answer.headers()["content-security-policy"]
            .to_str()
            .unwrap()
            .to_owned();
        assert!(policy.contains("script-src 'self';"), "{policy}");
    }
    let missing = client
        .get(format!("{}/api/v1/nothing", app.origin()))
        .send()
        .await
        .unwrap();
    assert_eq!(missing.status(), StatusCode::NOT_FOUND);
}

#[tokio::test]
async fn a_broken_database_is_not_told_to_clients() {
    let (app, api, site) = with_site().await;
    sqlx::query("ALTER TABLE plan RENAME COLUMN site_id TO secret_column")
        .execute(&app.pool)
        .await
        .unwrap();
    let said = expect(
        api.get(&format!("{site}/plan")).await,
        StatusCode::INTERNAL_SERVER_ERROR,
    )
    .await;
    assert_eq!(
        said["detail"],
        "something went wrong on our side; nothing was changed"
    );
    assert!(!said.to_string().contains("site_id"));
}
