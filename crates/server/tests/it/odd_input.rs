//! Odd input: days that no record may name, names that nobody sees, texts that no database takes, headings without end. Each is refused
//! at its field; nothing answers with a defect.

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, PASSWORD, credentials, expect, small_site, zone};
use crate::invitations::invite;
use crate::sprinkler_tests::can_test;

async fn refused(api: &Api, method: Method, path: &str, body: Value) -> Value {
    let answer = api
        .client
        .request(method.clone(), format!("{}{path}", api.base))
        .header("if-match", "\"1\"")
        .json(&body)
        .send()
        .await
        .unwrap();
    let status = answer.status();
    let said: Value = answer.json().await.unwrap();
    assert_eq!(
        status,
        StatusCode::UNPROCESSABLE_ENTITY,
        "{method} {path} {body}: {said}"
    );
    said
}

#[tokio::test]
async fn control_characters_are_refused_in_every_text() {
    let (_app, api, site) = App::with_dry_zone().await;
    let nul = "a\u{0}b";
    let named = |key: &str, mut body: Value| {
        body[key] = json!(nul);
        body
    };
    for (method, path, body, field) in [
        (
            Method::POST,
            "/session".to_owned(),
            credentials(nul, PASSWORD),
            "email",
        ),
        (
            Method::POST,
            "/session".to_owned(),
            credentials(EMAIL, nul),
            "password",
        ),
        (
            Method::PUT,
            "/session/password".to_owned(),
            json!({ "current": PASSWORD, "password": "four dry\u{7} days" }),
            "password",
        ),
        (
            Method::POST,
            format!("{site}/zones"),
            named("name", zone("Front")),
            "name",
        ),
        (
            Method::PUT,
            format!("{site}/zones/1"),
            named("name", zone("Front")),
            "name",
        ),
        (
            Method::POST,
            format!("{site}/invitations"),
            json!({ "name": nul, "role": "crew" }),
            "name",
        ),
        (
            Method::POST,
            format!("{site}/runs"),
            json!({ "zone": 1, "started_at": "2026-06-17T08:00:00-04:00", "seconds": 600, "how": "hose", "idempotency_key": "key\u{0}-0001" }),
            "idempotency_key",
        ),
        (
            Method::POST,
            format!("{site}/zones/1/head-faults"),
            json!({ "head": 2, "fault": "clogged", "note": nul, "idempotency_key": "odd-00001" }),
            "note",
        ),
        (
            Method::POST,
            format!("{site}/zones/1/sprinkler-tests"),
            json!({ "test": can_test(), "idempotency_key": "odd\u{0}00001" }),
            "idempotency_key",
        ),
    ] {
        let said = refused(&api, method, &path, body).await;
        assert_eq!(said["field"], field, "{path}: {said}");
        assert!(
            said["detail"]
                .as_str()
                .unwrap()
                .contains("control character"),
            "{said}"
        );
    }
    let mut edit =
        json!({ "site": small_site().site, "windows": [], "supply": {}, "controller": {} });
    edit["site"]["name"] = json!(nul);
    assert_eq!(
        refused(&api, Method::PUT, &site, edit).await["field"],
        "site.name"
    );
    let mut document = serde_json::to_value(small_site()).unwrap();
    document["site"]["currency"] = json!("EU\u{0}");
    assert_eq!(
        refused(&api, Method::POST, "/sites", document).await["field"],
        "site.currency"
    );

    let preview = format!("{site}/weather-imports/preview");
    let said = expect(
        api.csv(&preview, None, "date,rain_mm\n2026-06-1\u{0}7,1\n")
            .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(said["errors"][0]["line"], 2);
    assert!(
        said["errors"][0]["message"]
            .as_str()
            .unwrap()
            .contains("U+0000"),
        "{said}"
    );
    let mapping = r#"{"date_column":"a\u0000","date_form":"iso","columns":[]}"#;
    let answer = api
        .client
        .post(format!("{}{preview}", api.base))
        .query(&[("mapping", mapping)])
        .body("a,b\n1,2\n")
        .send()
        .await
        .unwrap();
    expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
}

#[tokio::test]
async fn days_lie_between_1900_and_what_a_site_can_know_or_plan() {
    let (app, api, site) = App::with_dry_zone().await;
    let zone_from = |day: &str| {
        let mut zone = zone("Back");
        zone["active_from"] = json!(day);
        zone
    };
    let measured_on = |day: &str| {
        let mut zone = zone("Back");
        zone["rate_mm_h"] = json!({ "value": 12, "low": 10, "high": 14, "source": { "kind": "measured", "test": "cans", "date": day } });
        zone
    };
    let zones = format!("{site}/zones");
    for day in [
        "0001-01-01",
        "-009999-01-01",
        "1899-12-31",
        "9999-12-31",
        "2027-06-19",
    ] {
        for (method, path, body, field) in [
            (Method::POST, zones.clone(), zone_from(day), "active_from"),
            (
                Method::PUT,
                format!("{zones}/1"),
                zone_from(day),
                "active_from",
            ),
            (
                Method::POST,
                format!("{zones}/1/end"),
                json!({ "last_day": day }),
                "last_day",
            ),
            (
                Method::POST,
                format!("{site}/gauge-readings"),
                json!({ "date": day, "rain_mm": 1 }),
                "date",
            ),
            (
                Method::PUT,
                format!("{site}/rain-choices/{day}"),
                json!({ "counts": "gauge" }),
                "date",
            ),
            (
                Method::POST,
                format!("{zones}/1/head-faults"),
                json!({ "head": 2, "fault": "clogged", "due_on": day, "idempotency_key": "odd-00002" }),
                "due_on",
            ),
        ] {
            let said = refused(&api, method, &path, body).await;
            assert_eq!(said["field"], field, "{path} {day}: {said}");
        }
        if day != "2027-06-19" {
            let said = refused(&api, Method::POST, &zones, measured_on(day)).await;
            assert_eq!(said["field"], "rate_mm_h.source.date", "{said}");
            for list in ["weather", "runs"] {
                for query in [
                    format!("from={day}&to=2026-06-18"),
                    format!("from=2026-06-01&to={day}"),
                ] {
                    let answer = api.get(&format!("{site}/{list}?{query}")).await;
                    expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
                }
            }
        }
    }
    for instant in [
        "-009000-01-02T00:00:00Z",
        "0000-06-01T00:00:00Z",
        "1700-06-01T00:00:00Z",
    ] {
        let run = json!({ "zone": 1, "started_at": instant, "seconds": 60, "how": "hand", "idempotency_key": "odd-00003" });
        assert_eq!(
            refused(&api, Method::POST, &format!("{site}/runs"), run).await["field"],
            "started_at"
        );
    }
    // Weather: from 1900 to ten days ahead of the site's day, 18 June.
    let imports = format!("{site}/weather-imports?conflicts=keep");
    for (day, holds) in [
        ("0001-06-01", false),
        ("1899-12-31", false),
        ("1900-01-01", true),
        ("2026-06-28", true),
        ("2026-06-29", false),
        ("9999-12-31", false),
    ] {
        let version = api.json(&site).await["weather_version"].as_i64();
        let file = format!("date,tmin_c,tmax_c,rain_mm\n{day},10,20,1\n");
        let answer = api.csv(&imports, version, &file).await;
        if holds {
            expect(answer, StatusCode::CREATED).await;
        } else {
            let said = expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
            assert_eq!(
                (&said["lines"][0]["line"], &said["lines"][0]["column"]),
                (&json!(2), &json!("date")),
                "{said}"
            );
        }
    }
    // The database has its own guard.
    let stray = sqlx::query(
        "INSERT INTO weather_day (site_id, date, rain_mm, origin) VALUES (1, '9999-12-31', 0, 'upload')",
    );
    assert!(stray.execute(&app.pool).await.is_err());
}

#[tokio::test]
async fn a_zone_begins_no_later_than_the_last_day_that_was_set() {
    let (_app, api, site) = App::with_dry_zone().await;
    let end = api
        .edit(
            Method::POST,
            &format!("{site}/zones/1/end"),
            1,
            json!({ "last_day": "2026-07-01" }),
        )
        .await;
    expect(end, StatusCode::OK).await;
    let mut later = zone("Front");
    later["active_from"] = json!("2026-08-01");
    let answer = api
        .edit(Method::PUT, &format!("{site}/zones/1"), 2, later)
        .await;
    let said = expect(answer, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "active_from");
    assert!(
        said["detail"].as_str().unwrap().contains("2026-07-01"),
        "{said}"
    );
}

#[tokio::test]
async fn names_are_kept_without_the_spaces_around_them_whatever_their_kind() {
    let (_app, api, site) = App::with_dry_zone().await;
    let zones = format!("{site}/zones");
    for name in [
        "",
        " ",
        "\u{a0}",
        "\u{2003}\u{3000}",
        "\u{200b}",
        "\u{feff}\u{2060}",
        &"x".repeat(121),
    ] {
        let said = refused(&api, Method::POST, &zones, zone(name)).await;
        assert_eq!(said["field"], "name", "{name:?}");
    }
    for (name, kept) in [
        ("\u{a0}Süd\u{2003}", "Süd"),
        (
            &format!("{}\u{a0}\u{a0}\u{a0}", "y".repeat(120)),
            &"y".repeat(120),
        ),
        ("庭\u{3000}", "庭"),
        ("🌱 seed", "🌱 seed"),
    ] {
        let made = expect(
            api.send(Method::POST, &zones, zone(name)).await,
            StatusCode::CREATED,
        )
        .await;
        assert_eq!(made["zone"]["name"], kept);
    }
    let mut edit =
        json!({ "site": small_site().site, "windows": [], "supply": {}, "controller": {} });
    edit["site"]["name"] = json!(format!("\u{2009}{}\u{a0}", "z".repeat(120)));
    let version = api.json(&site).await["version"].as_i64().unwrap();
    let answer = api.edit(Method::PUT, &site, version, edit).await;
    assert_eq!(
        expect(answer, StatusCode::OK).await["site"]["name"],
        "z".repeat(120)
    );
}

#[tokio::test]
async fn addresses_are_lowered_by_one_side_and_long_ones_have_no_account() {
    let (app, api, site) = App::with_dry_zone().await;
    let token = invite(&api, &site, "crew").await;
    let fern = app.stranger().holding(&token);
    let ask = |email: &str| json!({ "account": { "name": "Fern Sedge", "email": email, "password": PASSWORD } });
    let long = format!("{}@meadow.example", "x".repeat(8000));
    let asked = fern
        .send(Method::POST, "/invitation/acceptance", ask(&long))
        .await;
    let said = expect(asked, StatusCode::UNPROCESSABLE_ENTITY).await;
    assert_eq!(said["field"], "account.email");
    assert!(said["detail"].as_str().unwrap().len() < 200);
    // A letter whose lower case PostgreSQL and we write differently.
    let asked = fern
        .send(
            Method::POST,
            "/invitation/acceptance",
            ask("İrem@Meadow.example"),
        )
        .await;
    expect(asked, StatusCode::ACCEPTED).await;
    for typed in [
        "İrem@Meadow.example",
        " İREM@MEADOW.EXAMPLE ",
        "i\u{307}rem@meadow.example",
    ] {
        let answer = fern
            .send(Method::POST, "/session", credentials(typed, PASSWORD))
            .await;
        let me = expect(answer, StatusCode::OK).await;
        assert_eq!(me["email"], "i\u{307}rem@meadow.example");
    }
    let stranger = app.stranger();
    for email in [long, "İ".repeat(200), "@".to_owned(), String::new()] {
        let answer = stranger
            .send(Method::POST, "/session", credentials(&email, PASSWORD))
            .await;
        expect(answer, StatusCode::UNAUTHORIZED).await;
    }
}

#[tokio::test]
async fn files_have_so_many_columns_and_cells_so_long() {
    let (_app, api, site) = App::with_dry_zone().await;
    let preview = format!("{site}/weather-imports/preview");
    // Known to have been too much for an index: 400 long headings.
    let headings: Vec<String> = (0..400)
        .map(|i| format!("Column {i} {}", "h".repeat(80)))
        .collect();
    let wide = format!("{}\n", headings.join(";"));
    let said = expect(api.csv(&preview, None, &wide).await, StatusCode::OK).await;
    assert!(
        said["errors"][0]["message"]
            .as_str()
            .unwrap()
            .contains("400 columns"),
        "{said}"
    );
    let long = format!("date,{}\n2026-06-17,1\n", "h".repeat(5000));
    let said = expect(api.csv(&preview, None, &long).await, StatusCode::OK).await;
    assert!(
        said["errors"][0]["message"]
            .as_str()
            .unwrap()
            .contains("longer than 200"),
        "{said}"
    );
    let cell = format!("date,rain_mm\n2026-06-17,{}\n", "1".repeat(5000));
    let said = expect(api.csv(&preview, None, &cell).await, StatusCode::OK).await;
    assert_eq!(said["errors"][0]["line"], 2);
    assert!(said.to_string().len() < 3000);
    let bad: String = (0..20_000).fold("date,rain_mm\n".to_owned(), |text, _| text + "x,y\n");
    let said = expect(api.csv(&preview, None, &bad).await, StatusCode::OK).await;
    assert_eq!(
        said["errors"].as_array().unwrap().len(),
        1000,
        "the rest is not read"
    );

    // As many and as long as are allowed are remembered.
    let headings: Vec<String> = (0..199)
        .map(|i| format!("{i} {}", "é".repeat(190)))
        .collect();
    let file = format!(
        "Day;{}\n17/06/2026;{}\n",
        headings.join(";"),
        vec!["3"; 199].join(";")
    );
    let mapping = json!({ "date_column": "Day", "date_form": "day_first", "columns": [{ "figure": "rain", "column": headings[7], "unit": "mm" }] });
    let version = api.json(&site).await["weather_version"].as_i64().unwrap();
    let import = api
        .client
        .post(format!("{}{site}/weather-imports", api.base))
        .query(&[("conflicts", "replace"), ("mapping", &mapping.to_string())])
        .header("if-match", format!("\"{version}\""))
        .body(file.clone())
        .send()
        .await
        .unwrap();
    expect(import, StatusCode::CREATED).await;
    let said = expect(api.csv(&preview, None, &file).await, StatusCode::OK).await;
    assert_eq!(
        (&said["mapped"], &said["rows"]),
        (&json!(true), &json!(1)),
        "{said}"
    );
}

#[tokio::test]
async fn what_a_site_and_an_account_may_have_ends_somewhere() {
    let (app, api, site) = App::with_dry_zone().await;
    let mut document = serde_json::to_value(small_site()).unwrap();
    let zones: Vec<Value> = (0..201)
        .map(|i| {
            let mut zone = zone(&format!("Zone {i}"));
            zone["id"] = json!(i.to_string());
            zone
        })
        .collect();
    document["zones"] = json!(zones);
    assert_eq!(
        refused(&api, Method::POST, "/sites", document).await["field"],
        "zones"
    );
    let windows = json!({ "site": small_site().site, "windows": vec![&small_site().windows[0]; 51], "supply": {}, "controller": {} });
    assert_eq!(
        refused(&api, Method::PUT, &site, windows).await["field"],
        "windows"
    );
    for (filled, method, path, body) in [
        (
            "INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply)
             SELECT 'Site ' || i, 'UTC', 36, -80, 310, 2, '[]', '{}' FROM generate_series(1, 999) i",
            Method::POST,
            "/sites".to_owned(),
            serde_json::to_value(small_site()).unwrap(),
        ),
        (
            "INSERT INTO sprinkler_test (zone_id, date, test, result, idempotency_key)
             SELECT 1, '2026-06-01', '{\"method\":\"quick\"}', '{}', 'filled-' || i FROM generate_series(1, 2000) i",
            Method::POST,
            format!("{site}/zones/1/sprinkler-tests"),
            json!({ "test": can_test(), "idempotency_key": "odd-00004" }),
        ),
        (
            "INSERT INTO head_fault (zone_id, head, fault, noted_on, idempotency_key)
             SELECT 1, 1, 'clogged', '2026-06-01', 'filled-' || i FROM generate_series(1, 5000) i",
            Method::POST,
            format!("{site}/zones/1/head-faults"),
            json!({ "head": 2, "fault": "clogged", "idempotency_key": "odd-00005" }),
        ),
        (
            "INSERT INTO invitation (site_id, role, name, token_hash, invited_by, expires_at)
             SELECT 1, 'crew', 'Fern', sha256(i::text::bytea), 1, now() + interval '1 day' FROM generate_series(1, 100) i",
            Method::POST,
            format!("{site}/invitations"),
            json!({ "name": "Fern", "role": "crew" }),
        ),
    ] {
        sqlx::query(filled).execute(&app.pool).await.unwrap();
        sqlx::query("INSERT INTO membership SELECT id, 1, 'owner' FROM site ON CONFLICT DO NOTHING")
            .execute(&app.pool)
            .await
            .unwrap();
        let said = expect(api.send(method, &path, body).await, StatusCode::CONFLICT).await;
        assert!(!said["detail"].as_str().unwrap().is_empty(), "{path}");
    }
}
