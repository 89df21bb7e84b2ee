//! Bad neighbours and bad days: one site, one service, one row, or the database itself misbehaves, and the rest goes on.

use std::io::{BufRead, BufReader};
use std::net::SocketAddr;
use std::process::Stdio;
use std::time::{Duration, Instant};

use actix_web::{App as Service, HttpResponse, HttpServer, web};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};
use tokio::task::JoinSet;

use crate::harness::{
    Api, App, EMAIL, NIGHT, PATIENCE, Process, REAL_CLOCKS, expect, small_site, weather, zone,
};
use crate::line::{Line, proxy};

/// Two sites of one owner: the dry zone's, and another with a zone and weather.
async fn two_sites() -> (App, Api, String, String) {
    let (app, api, first) = App::with_dry_zone().await;
    let second = app.dry_zone(fresh_meadow::db::AccountId(1), &api).await;
    (app, api, first, second)
}

#[tokio::test]
async fn a_site_whose_row_is_held_holds_up_no_other() {
    let (app, api, held, other) = two_sites().await;
    let mut lock = app.pool.begin().await.unwrap();
    sqlx::query("SELECT id FROM site WHERE id = 1 FOR UPDATE")
        .execute(&mut *lock)
        .await
        .unwrap();
    let mut waiting = JoinSet::new();
    for _ in 0..20 {
        let request = api.client.post(format!("{}{held}/plans", api.base));
        waiting.spawn(async move { request.send().await.unwrap() });
    }
    tokio::time::sleep(Duration::from_millis(200)).await;
    // Twenty wait for the held site, and its four connections serve everybody else.
    for _ in 0..5 {
        let planned = api
            .send(Method::POST, &format!("{other}/plans"), Value::Null)
            .await;
        expect(planned, StatusCode::CREATED).await;
        assert_eq!(
            api.get(&format!("{held}/plan")).await.status(),
            StatusCode::OK,
            "its plan can be read"
        );
    }
    for answer in waiting.join_all().await {
        assert_eq!(answer.headers()["retry-after"], "2");
        expect(answer, StatusCode::SERVICE_UNAVAILABLE).await;
    }
    lock.rollback().await.unwrap();
    expect(
        api.send(Method::POST, &format!("{held}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
}

#[tokio::test]
async fn forty_replans_of_one_site_leave_the_rest_alone_and_all_are_answered() {
    let (_app, api, busy, other) = two_sites().await;
    let mut replans = JoinSet::new();
    for _ in 0..40 {
        let request = api.client.post(format!("{}{busy}/plans", api.base));
        replans.spawn(async move { request.send().await.unwrap().status() });
    }
    tokio::time::sleep(Duration::from_millis(20)).await;
    for _ in 0..10 {
        assert_eq!(
            api.get(&format!("{other}/plan")).await.status(),
            StatusCode::OK
        );
    }
    let answers = replans.join_all().await;
    assert!(
        answers
            .iter()
            .all(|s| [StatusCode::CREATED, StatusCode::SERVICE_UNAVAILABLE].contains(s)),
        "{answers:?}"
    );
    assert!(
        answers
            .iter()
            .filter(|s| **s == StatusCode::CREATED)
            .count()
            >= 20,
        "{answers:?}"
    );
}

#[tokio::test]
async fn a_table_that_is_held_is_not_waited_for_for_long() {
    let (app, api, site) = App::with_dry_zone().await;
    let mut lock = app.pool.begin().await.unwrap();
    sqlx::query("LOCK TABLE plan IN ACCESS EXCLUSIVE MODE")
        .execute(&mut *lock)
        .await
        .unwrap();
    let begun = Instant::now();
    let answer = api.get(&format!("{site}/plan")).await;
    assert_eq!(answer.headers()["retry-after"], "2");
    expect(answer, StatusCode::SERVICE_UNAVAILABLE).await;
    assert!(
        begun.elapsed() < Duration::from_secs(15),
        "{:?}",
        begun.elapsed()
    );
    lock.rollback().await.unwrap();
    assert_eq!(
        api.get(&format!("{site}/plan")).await.status(),
        StatusCode::OK
    );
}

/// The application on a line to its database.
async fn on_a_line() -> (App, Api, std::sync::Arc<tokio::sync::watch::Sender<Line>>) {
    let (app, _, _) = App::with_dry_zone().await;
    let at = app.database_url.rsplit_once('@').unwrap().1;
    let (host, name) = at.split_once('/').unwrap();
    let upstream: SocketAddr = host.parse().unwrap();
    let (address, line) = proxy(upstream).await;
    let through = app
        .database_url
        .replace(&format!("@{host}/{name}"), &format!("@{address}/{name}"));
    let served = App::start_on(through).await;
    let api = served.sign_in(EMAIL).await;
    (served, api, line)
}

#[tokio::test]
async fn while_the_database_is_away_or_frozen_that_is_said_soon_and_it_comes_back() {
    let (app, api, line) = on_a_line().await;
    for trouble in [Line::Cut, Line::Frozen] {
        line.send(trouble).unwrap();
        for method in [Method::GET, Method::HEAD] {
            let begun = Instant::now();
            let ready = api
                .client
                .request(method.clone(), format!("{}/readyz", app.origin()));
            let ready = ready.send().await.unwrap();
            assert_eq!(ready.status(), StatusCode::SERVICE_UNAVAILABLE);
            assert!(
                begun.elapsed() < Duration::from_secs(10),
                "{:?}",
                begun.elapsed()
            );
        }
        let alive = api
            .client
            .get(format!("{}/healthz", app.origin()))
            .send()
            .await
            .unwrap();
        assert_eq!(alive.status(), StatusCode::OK);
        for (method, path) in [
            (Method::GET, "/sites/1/plan"),
            (Method::POST, "/sites/1/plans"),
            (Method::GET, "/session"),
        ] {
            let begun = Instant::now();
            let answer = api.send(method, path, Value::Null).await;
            assert!(
                begun.elapsed() < Duration::from_secs(15),
                "{path} {:?}",
                begun.elapsed()
            );
            assert_eq!(answer.headers()["retry-after"], "2");
            assert_eq!(answer.headers()["content-type"], "application/problem+json");
            let said = expect(answer, StatusCode::SERVICE_UNAVAILABLE).await;
            assert_eq!(
                said["detail"],
                "the database is away or busy; try again in a moment"
            );
        }
        line.send(Line::Open).unwrap();
        let begun = Instant::now();
        while api.get("/sites/1/plan").await.status() != StatusCode::OK {
            assert!(begun.elapsed() < PATIENCE, "it is back");
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
    }
}

type Answer = fn() -> HttpResponse;

/// A weather service that answers as told.
fn service_that(answer: Answer, hangs: bool) -> String {
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(async move {
            HttpServer::new(move || {
                Service::new().default_service(web::to(move || async move {
                    if hangs {
                        tokio::time::sleep(Duration::from_secs(30)).await;
                    }
                    answer()
                }))
            })
            .workers(1)
            .shutdown_timeout(0)
            .listen(listener)
            .unwrap()
            .run()
            .await
            .unwrap();
        });
    });
    format!("http://{address}")
}

/// Real-clock sites that are due now, with weather; their days are not over for hours.
async fn make_due(app: &App) {
    for statement in [
        REAL_CLOCKS,
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin)
         SELECT id, current_date - d, 17, 31, 0, 'service' FROM site, generate_series(0, 10) d ON CONFLICT DO NOTHING",
    ] {
        sqlx::query(statement).execute(&app.pool).await.unwrap();
    }
}

async fn planned_today(app: &App) -> i64 {
    sqlx::query_scalar("SELECT count(DISTINCT site_id) FROM site_day WHERE plan_id IS NOT NULL")
        .fetch_one(&app.pool)
        .await
        .unwrap()
}

async fn until(what: &str, mut holds: impl AsyncFnMut() -> bool) {
    let deadline = Instant::now() + PATIENCE;
    while !holds().await {
        assert!(Instant::now() < deadline, "never: {what}");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test]
async fn ten_feeds_on_a_service_that_hangs_hold_up_no_round() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    for _ in 0..10 {
        let site = app.site(owner, &small_site(), NIGHT).await;
        crate::harness::connect_feed(&app.pool, site, "transition", 1)
            .await
            .unwrap();
    }
    make_due(&app).await;
    let service = service_that(|| HttpResponse::Ok().finish(), true);
    let _server = Process::start(
        &app,
        Stdio::null(),
        &[
            ("FRESH_MEADOW_WORK_EVERY_S", "0.05"),
            ("FRESH_MEADOW_WEATHER_URL", &service),
        ],
    );
    // One after the other the feeds would take forty seconds, and longer than this waits.
    until("all ten are planned", async || {
        planned_today(&app).await == 10
    })
    .await;
    until("all ten are noted as failed", async || {
        let failed: i64 = sqlx::query_scalar(
            "SELECT count(*) FROM weather_feed WHERE last_error = 'it took longer than 4 s'",
        )
        .fetch_one(&app.pool)
        .await
        .unwrap();
        failed == 10
    })
    .await;
}

#[tokio::test]
async fn a_row_that_cannot_be_read_puts_off_its_own_site_is_told_once_and_mends() {
    let (app, api, broken, _) = two_sites().await;
    make_due(&app).await;
    let spoiled = "UPDATE zone SET settings = jsonb_set(settings, '{grass}', '\"astroturf\"') WHERE site_id = 1";
    sqlx::query(spoiled).execute(&app.pool).await.unwrap();
    let mut server = Process::start(
        &app,
        Stdio::piped(),
        &[("FRESH_MEADOW_WORK_EVERY_S", "0.05"), ("NO_COLOR", "1")],
    );
    let log = BufReader::new(server.child.stderr.take().unwrap());
    until("the other site is planned", async || {
        planned_today(&app).await == 1
    })
    .await;
    let trouble = async || api.json(&broken).await["trouble"].clone();
    until("its managers are told", async || {
        trouble().await != Value::Null
    })
    .await;
    assert!(
        trouble().await["what"]
            .as_str()
            .unwrap()
            .contains("cannot be read")
    );
    // Again and again, as if ten minutes were over.
    let again = "UPDATE site SET next_event_at = now() - interval '1 second' WHERE id = 1 AND next_event_at > now()";
    for _ in 0..3 {
        sqlx::query(again).execute(&app.pool).await.unwrap();
        until("it is put off again", async || {
            sqlx::query_scalar(
                "SELECT next_event_at > now() + interval '9 minutes' FROM site WHERE id = 1",
            )
            .fetch_one(&app.pool)
            .await
            .unwrap()
        })
        .await;
    }
    let mended = "UPDATE zone SET settings = jsonb_set(settings, '{grass}', '\"tall_fescue\"') WHERE site_id = 1";
    for statement in [mended, again] {
        sqlx::query(statement).execute(&app.pool).await.unwrap();
    }
    until("it is planned", async || planned_today(&app).await == 2).await;
    until("nothing is said any more", async || {
        trouble().await == Value::Null
    })
    .await;
    server.kill();
    let told = log
        .lines()
        .map(Result::unwrap)
        .filter(|l| l.contains("round failed"))
        .count();
    assert_eq!(told, 1, "told once, however often it failed");
}

#[tokio::test]
async fn a_round_that_gets_no_lock_is_put_off_and_the_next_site_has_its_turn() {
    let (app, api, _, _) = two_sites().await;
    make_due(&app).await;
    // Somebody holds what the first site's round needs; it is due first, again and again.
    sqlx::query("UPDATE site SET next_event_at = now() - interval '1 hour' WHERE id = 1")
        .execute(&app.pool)
        .await
        .unwrap();
    let mut held = app.pool.begin().await.unwrap();
    sqlx::query("INSERT INTO site_day (site_id, day) SELECT id, (now() AT TIME ZONE time_zone)::date FROM site WHERE id = 1")
        .execute(&mut *held)
        .await
        .unwrap();
    let often = [("FRESH_MEADOW_WORK_EVERY_S", "0.05")];
    let _server = Process::start(&app, Stdio::null(), &often);
    until("the other site is planned", async || {
        sqlx::query_scalar(
            "SELECT EXISTS (SELECT FROM site_day WHERE site_id = 2 AND plan_id IS NOT NULL)",
        )
        .fetch_one(&app.pool)
        .await
        .unwrap()
    })
    .await;
    held.rollback().await.unwrap();
    let trouble = api.json("/sites/1").await["trouble"].clone();
    assert_eq!(trouble, Value::Null, "a busy moment is no trouble");
}

#[tokio::test]
async fn a_feed_is_changed_while_it_is_asked_and_nothing_deadlocks() {
    let app = App::with_weather().await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let path = format!("/sites/{}/weather-feed", site.0);
    let mut tasks = JoinSet::new();
    for i in 0..36 {
        let (method, path, body) = match i % 3 {
            0 => (
                Method::PUT,
                path.clone(),
                json!({ "climate": "transition" }),
            ),
            1 => (Method::DELETE, path.clone(), Value::Null),
            _ => (Method::POST, format!("{path}/fetches"), Value::Null),
        };
        let request = api
            .client
            .request(method, format!("{}{path}", api.base))
            .json(&body);
        tasks.spawn(async move { request.send().await.unwrap().status() });
    }
    for status in tasks.join_all().await {
        assert!(
            [
                StatusCode::OK,
                StatusCode::NO_CONTENT,
                StatusCode::SERVICE_UNAVAILABLE
            ]
            .contains(&status),
            "{status}"
        );
    }
    let deadlocks: i64 = sqlx::query_scalar(
        "SELECT deadlocks FROM pg_stat_database WHERE datname = current_database()",
    )
    .fetch_one(&app.pool)
    .await
    .unwrap();
    assert_eq!(deadlocks, 0);
}

#[tokio::test]
async fn whatever_the_weather_service_sends_is_cut_cleaned_refused_and_noted() {
    let kinds: [(Answer, &str); 6] = [
        (
            || HttpResponse::Ok().body("date,rain_mm\n2026-06-\u{0}17,1\n"),
            "holds a control character (U+0000)",
        ),
        (
            || HttpResponse::Ok().body("date,rain_mm\n2026-06-17,\u{1b}[31m\n"),
            "holds a control character (U+001B)",
        ),
        (
            || {
                HttpResponse::Ok().body(format!(
                    "date,rain_mm\n2026-06-17,{}\n",
                    "9".repeat(3_500_000)
                ))
            },
            "is longer than 200 characters",
        ),
        (
            || HttpResponse::Ok().body("x".repeat(5_000_000)),
            "more than 4 MB",
        ),
        (
            || {
                HttpResponse::Found()
                    .insert_header(("location", "http://127.0.0.1:1/elsewhere"))
                    .finish()
            },
            "it sends us to another place",
        ),
        (
            || HttpResponse::Ok().body(vec![0xff, 0xfe, 0x00]),
            "not text",
        ),
    ];
    for (answer, said) in kinds {
        let service = service_that(answer, false);
        let app = App::start_with(|s| s.weather_url = Some(service)).await;
        let owner = app.account(EMAIL).await;
        let site = app.site(owner, &small_site(), NIGHT).await;
        let api = app.sign_in(EMAIL).await;
        let path = format!("/sites/{}/weather-feed", site.0);
        let feed = api
            .send(Method::PUT, &path, json!({ "climate": "transition" }))
            .await;
        let feed = expect(feed, StatusCode::OK).await;
        assert_eq!(feed["failures"], 1);
        let error = feed["last_error"].as_str().unwrap();
        assert!(error.contains(said), "{error}");
        assert!(
            error.chars().count() < 400 && !error.chars().any(char::is_control),
            "{error}"
        );
        let kept: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day")
            .fetch_one(&app.pool)
            .await
            .unwrap();
        assert_eq!(kept, 0);
    }
}

#[tokio::test]
async fn a_clock_step_that_breaks_off_says_how_far_it_came() {
    let (app, api, site) = App::with_dry_zone().await;
    // The second of its days cannot be begun.
    sqlx::query("ALTER TABLE site_day ADD CHECK (day < '2026-06-20')")
        .execute(&app.pool)
        .await
        .unwrap();
    let step = |from: Value| {
        api.send(
            Method::POST,
            "/sites/1/clock-steps",
            json!({ "from": from, "days": 3 }),
        )
    };
    let said = expect(step(json!(NIGHT)).await, StatusCode::OK).await;
    assert_eq!(said["stopped"], "a day could not be planned");
    assert_eq!(said["today"], "2026-06-20", "{said}");
    assert_eq!(api.json(&site).await["now"], said["now"]);
    let history = api.json(&format!("{site}/history")).await;
    assert_eq!(history["entries"][0]["what"]["event"], "clock_stepped");
    assert_eq!(history["entries"][0]["what"]["to"], said["now"]);
    assert_eq!(
        api.json(&format!("{site}/plan")).await["current"]["plan"]["today"],
        "2026-06-19"
    );
    sqlx::query("ALTER TABLE site_day DROP CONSTRAINT site_day_day_check")
        .execute(&app.pool)
        .await
        .unwrap();
    let said = expect(step(said["now"].clone()).await, StatusCode::OK).await;
    assert_eq!(
        (&said["stopped"], &said["today"]),
        (&Value::Null, &json!("2026-06-23"))
    );
}

/// Not a timed test: while a site of two hundred zones replans, the server still answers; by how much is told by the bench.
#[tokio::test]
async fn a_large_site_that_replans_keeps_no_worker_from_answering() {
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    let mut document = small_site();
    for i in 0..200 {
        let mut zone: lawn::site::Zone =
            serde_json::from_value(zone(&format!("Zone {i}"))).unwrap();
        zone.id = i.to_string();
        document.zones.push(zone);
    }
    let site = app.site(owner, &document, NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let path = format!("/sites/{}", site.0);
    let one_more = api
        .send(Method::POST, &format!("{path}/zones"), zone("One more"))
        .await;
    let said = expect(one_more, StatusCode::CONFLICT).await;
    assert!(
        said["detail"]
            .as_str()
            .unwrap()
            .contains("at most 200 zones"),
        "{said}"
    );
    let imports = format!("{path}/weather-imports?conflicts=keep");
    let file = weather(|_| None);
    let mut import = Box::pin(api.csv(&imports, Some(1), &file));
    let health = app.stranger();
    let (mut asked, mut done) = (0, None);
    while done.is_none() {
        tokio::select! {
            biased;
            answer = &mut import => done = Some(answer),
            alive = health.client.get(format!("{}/healthz", app.origin())).send() => {
                assert_eq!(alive.unwrap().status(), StatusCode::OK);
                asked += 1;
            }
        }
    }
    expect(done.unwrap(), StatusCode::CREATED).await;
    assert!(asked > 10, "{asked} answers while it replanned");
}
