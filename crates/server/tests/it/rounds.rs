//! The rounds of a site's day: each site-day once, whoever does it; a stepped clock drains them; runs are settled and answered.

use std::net::TcpListener;
use std::process::Stdio;
use std::time::{Duration, Instant};

use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{
    Api, App, EMAIL, NIGHT, PATIENCE, Process, REAL_CLOCKS, expect, small_site, weather_service,
    zone,
};

async fn with_zone(app: &App) -> (Api, String) {
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    let api = app.sign_in(EMAIL).await;
    let path = format!("/sites/{}", site.0);
    expect(
        api.send(Method::POST, &format!("{path}/zones"), zone("Front"))
            .await,
        StatusCode::CREATED,
    )
    .await;
    (api, path)
}

/// Steps the demo clock of a site.
pub async fn step(api: &Api, site: &str, days: i64) -> Value {
    let now = api.json(site).await["now"].clone();
    let body = json!({ "from": now, "days": days });
    expect(
        api.send(Method::POST, &format!("{site}/clock-steps"), body)
            .await,
        StatusCode::OK,
    )
    .await
}

/// What a site has come to, without identifiers and real instants.
async fn state(app: &App, api: &Api, site: &str) -> Value {
    let days: Vec<String> = sqlx::query_scalar("SELECT day::text FROM site_day ORDER BY day")
        .fetch_all(&app.pool)
        .await
        .unwrap();
    json!({
        "now": api.json(site).await["now"],
        "plan": api.json(&format!("{site}/plan")).await["current"]["plan"],
        "runs": api.text(&format!("{site}/runs.csv")).await,
        "weather": api.text(&format!("{site}/weather.csv")).await,
        "days": days,
    })
}

#[tokio::test]
async fn a_step_of_three_days_is_three_steps_of_one() {
    let mut states = Vec::new();
    for steps in [vec![3], vec![1, 1, 1]] {
        let app = App::with_weather().await;
        let (api, site) = with_zone(&app).await;
        let feed = json!({ "climate": "transition" });
        expect(
            api.send(Method::PUT, &format!("{site}/weather-feed"), feed)
                .await,
            StatusCode::OK,
        )
        .await;
        for days in steps {
            step(&api, &site, days).await;
        }
        states.push(state(&app, &api, &site).await);
    }
    assert_eq!(states[0], states[1]);
    assert_eq!(
        states[0]["days"],
        json!(["2026-06-18", "2026-06-19", "2026-06-20"])
    );
    assert_eq!(states[0]["plan"]["today"], "2026-06-20");
}

#[tokio::test]
async fn a_clock_is_stepped_from_where_it_was_seen_and_real_ones_never() {
    let app = App::start().await;
    let (api, site) = with_zone(&app).await;
    let path = format!("{site}/clock-steps");
    for (body, status) in [
        (
            json!({ "from": NIGHT, "days": 0 }),
            StatusCode::UNPROCESSABLE_ENTITY,
        ),
        (
            json!({ "from": NIGHT, "days": 32 }),
            StatusCode::UNPROCESSABLE_ENTITY,
        ),
        (
            json!({ "from": NIGHT, "hours": 24 }),
            StatusCode::UNPROCESSABLE_ENTITY,
        ),
        (json!({ "from": NIGHT, "days": 1 }), StatusCode::OK),
        (json!({ "from": NIGHT, "days": 1 }), StatusCode::CONFLICT),
    ] {
        expect(api.send(Method::POST, &path, body).await, status).await;
    }
    sqlx::query("UPDATE site SET simulated_now = NULL")
        .execute(&app.pool)
        .await
        .unwrap();
    expect(
        api.send(Method::POST, &path, json!({ "from": NIGHT, "days": 1 }))
            .await,
        StatusCode::CONFLICT,
    )
    .await;
}

#[tokio::test]
async fn a_denied_run_dries_the_balance_and_the_plan_answers() {
    let (app, api, site) = App::with_dry_zone().await;
    let mut runs = Value::Null;
    for _ in 0..6 {
        step(&api, &site, 1).await;
        runs = api
            .json(&format!("{site}/runs?from=2026-06-01&to=2026-07-01"))
            .await;
        if !runs.as_array().unwrap().is_empty() {
            break;
        }
    }
    assert_eq!(runs[0]["source"], "assumed");
    let today = |plan: &Value| {
        let plan = &plan["current"]["plan"];
        let at = plan["days"]
            .as_array()
            .unwrap()
            .iter()
            .position(|d| d["date"] == plan["today"])
            .unwrap();
        plan["zones"][0]["cells"][at]["depletion_start_mm"]
            .as_f64()
            .unwrap()
    };
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let before = today(&api.json(&format!("{site}/plan")).await);
    let answer = format!("{site}/runs/{}/answer", runs[0]["id"]);
    let said = expect(
        api.send(Method::PUT, &answer, json!({ "answer": "did_not_run" }))
            .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&said["source"], &said["passes"], &said["who"]),
        (&json!("denied"), &json!(0), &json!("Hazel Fern"))
    );
    let after = today(&api.json(&format!("{site}/plan")).await);
    assert!(after > before + 3.0, "{before} became {after}");

    // Replanning does not bring the denied run back; the voided one stays in the record.
    expect(
        api.send(Method::POST, &format!("{site}/plans"), Value::Null)
            .await,
        StatusCode::CREATED,
    )
    .await;
    let counts: (i64, i64) =
        sqlx::query_as("SELECT count(*) FILTER (WHERE voided_at IS NULL), count(*) FROM run")
            .fetch_one(&app.pool)
            .await
            .unwrap();
    let all = api
        .json(&format!("{site}/runs?from=2026-06-01&to=2026-07-01"))
        .await;
    assert_eq!(counts, (1, 2), "{all}");
    // The first answer stands: the old number is gone.
    expect(
        api.send(Method::PUT, &answer, json!({ "answer": "ran" }))
            .await,
        StatusCode::NOT_FOUND,
    )
    .await;

    let answer = format!("{site}/runs/{}/answer", said["id"]);
    expect(
        api.send(
            Method::PUT,
            &answer,
            json!({ "answer": "changed", "seconds": 0 }),
        )
        .await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    let changed = json!({ "answer": "changed", "seconds": 1200, "sure": true });
    let said = expect(
        api.send(Method::PUT, &answer, changed).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&said["source"], &said["seconds"]),
        (&json!("changed"), &json!(1200))
    );
    assert!(today(&api.json(&format!("{site}/plan")).await) < after);
}

#[tokio::test]
async fn a_run_by_hose_is_written_once_however_often_it_is_sent() {
    let (_app, api, site) = App::with_dry_zone().await;
    let path = format!("{site}/runs");
    let run = json!({ "zone": 1, "started_at": "2026-06-17T18:00:00-04:00", "seconds": 900, "how": "hose", "idempotency_key": "hose-0001" });
    let (a, b) = tokio::join!(
        api.send(Method::POST, &path, run.clone()),
        api.send(Method::POST, &path, run.clone())
    );
    let mut got = [a.status(), b.status()];
    got.sort();
    assert_eq!(got, [StatusCode::OK, StatusCode::CREATED]);
    let other = json!({ "zone": 1, "started_at": "2026-06-17T18:00:00-04:00", "seconds": 60, "how": "hand", "idempotency_key": "hose-0002" });
    expect(
        api.send(Method::POST, &path, other).await,
        StatusCode::CONFLICT,
    )
    .await;
    for (field, run) in [
        (
            "started_at",
            json!({ "zone": 1, "started_at": "2026-06-18T18:00:00-04:00", "seconds": 60, "how": "hand", "idempotency_key": "hose-0003" }),
        ),
        (
            "started_at",
            json!({ "zone": 1, "started_at": "2026-05-01T18:00:00-04:00", "seconds": 60, "how": "hand", "idempotency_key": "hose-0003" }),
        ),
        (
            "seconds",
            json!({ "zone": 1, "started_at": "2026-06-16T18:00:00-04:00", "seconds": 0, "how": "hand", "idempotency_key": "hose-0003" }),
        ),
        (
            "idempotency_key",
            json!({ "zone": 1, "started_at": "2026-06-16T18:00:00-04:00", "seconds": 60, "how": "hand", "idempotency_key": "x" }),
        ),
    ] {
        let said = expect(
            api.send(Method::POST, &path, run).await,
            StatusCode::UNPROCESSABLE_ENTITY,
        )
        .await;
        assert_eq!(said["field"], field);
    }
    let runs = api
        .json(&format!("{site}/runs?from=2026-06-17&to=2026-06-17"))
        .await;
    assert_eq!(runs.as_array().unwrap().len(), 1);
    assert_eq!(runs[0]["seconds"], 900);
}

#[tokio::test]
async fn the_weather_service_may_fail_and_the_site_goes_on() {
    let app = App::with_weather().await;
    let (api, site) = with_zone(&app).await;
    let path = format!("{site}/weather-feed");
    let unknown = expect(
        api.send(Method::PUT, &path, json!({ "climate": "polar" }))
            .await,
        StatusCode::UNPROCESSABLE_ENTITY,
    )
    .await;
    assert_eq!(unknown["field"], "climate");
    let feed = expect(
        api.send(Method::PUT, &path, json!({ "climate": "continental" }))
            .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(feed["failures"], 0);
    let list = api
        .json(&format!("{site}/weather?from=2026-06-01&to=2026-06-30"))
        .await;
    assert_eq!(
        list["days"].as_array().unwrap().len(),
        17,
        "up to yesterday by the site's clock"
    );
    assert!(
        list["days"]
            .as_array()
            .unwrap()
            .iter()
            .all(|d| d["origin"] == "service")
    );
    let plan = api.json(&format!("{site}/plan")).await;
    assert_eq!(plan["current"]["plan"]["days"][2]["et0_from"], "forecast");
}

#[tokio::test]
async fn each_kind_of_failure_is_said_in_words_and_nothing_of_it_is_kept() {
    // A service of its own, so that its mood is nobody else's.
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let service = format!("http://{}", listener.local_addr().unwrap());
    std::thread::spawn(move || {
        actix_web::rt::System::new()
            .block_on(standins::service::run(listener))
            .unwrap();
    });
    let app = App::start_with(|s| s.weather_url = Some(service.clone())).await;
    let (api, site) = with_zone(&app).await;
    let mood = async |mood: &str| {
        let answer = crate::harness::plain()
            .build()
            .unwrap()
            .put(format!("{service}/v1/mood/{mood}"))
            .send()
            .await
            .unwrap();
        assert_eq!(answer.status(), StatusCode::NO_CONTENT);
    };
    let path = format!("{site}/weather-feed");
    mood("nonsense").await;
    let feed = expect(
        api.send(Method::PUT, &path, json!({ "climate": "transition" }))
            .await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(feed["failures"], 1);
    assert!(
        feed["last_error"]
            .as_str()
            .unwrap()
            .contains("what cannot be used (line 2"),
        "{feed}"
    );
    let days: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(days, 0);

    mood("fine").await;
    let fetches = format!("{path}/fetches");
    let feed = expect(
        api.send(Method::POST, &fetches, Value::Null).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&feed["failures"], &feed["last_error"]),
        (&json!(0), &Value::Null)
    );
    let observed = async || {
        let list = api
            .json(&format!("{site}/weather?from=2025-01-01&to=2026-07-01"))
            .await;
        list["days"].as_array().unwrap().len()
    };
    let known = observed().await;

    mood("down").await;
    step(&api, &site, 2).await;
    let feed = api.json(&path).await;
    assert_eq!(feed["failures"], 1, "asked once in a step, then left alone");
    assert!(feed["last_error"].as_str().unwrap().contains("503"));
    assert_eq!(observed().await, known);
    let plan = api.json(&format!("{site}/plan")).await;
    assert_eq!(
        plan["current"]["plan"]["today"], "2026-06-19",
        "it plans on with what it has"
    );
    assert_eq!(
        plan["current"]["plan"]["notes"][0]["note"],
        "weather_missing"
    );
    let next: bool = sqlx::query_scalar(
        "SELECT next_fetch_at > now() + interval '30 seconds' FROM weather_feed",
    )
    .fetch_one(&app.pool)
    .await
    .unwrap();
    assert!(next, "asked again later, not at once");

    mood("slow").await;
    let feed = expect(
        api.send(Method::POST, &fetches, Value::Null).await,
        StatusCode::OK,
    )
    .await;
    assert_eq!(
        (&feed["failures"], &feed["last_error"]),
        (&json!(2), &json!("it took longer than 4 s"))
    );

    mood("fine").await;
    step(&api, &site, 1).await;
    let list = api
        .json(&format!("{site}/weather?from=2026-06-17&to=2026-06-21"))
        .await;
    assert_eq!(
        list["days"].as_array().unwrap().len(),
        3,
        "what was missed is fetched: 17 to 19 June"
    );
}

/// Two server processes work through the sites of one database; one is killed -9 in the middle of a replan.
#[tokio::test]
async fn two_workers_one_killed_every_site_day_once() {
    const SITES: i64 = 40;
    let app = App::start().await;
    let owner = app.account(EMAIL).await;
    for _ in 0..SITES {
        app.site(owner, &small_site(), NIGHT).await;
    }
    // Real clocks where it is between 08:00 and 22:00 now, long before the next event, a zone of grass, and ten days of weather up to yesterday.
    for statement in [
        REAL_CLOCKS,
        "INSERT INTO zone (site_id, position, settings, active_from)
         SELECT id, 1, '{\"name\":\"Front\",\"grass\":\"tall_fescue\",\"soil\":\"loam\",\"slope_pct\":2,\"area_m2\":400,\"sprinkler\":\"multi_stream\"}', current_date - 10 FROM site",
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin)
         SELECT id, current_date - d, 17, 31, 0, 'service' FROM site, generate_series(0, 10) d",
    ] {
        sqlx::query(statement).execute(&app.pool).await.unwrap();
    }
    let often = [("FRESH_MEADOW_WORK_EVERY_S", "0.05")];
    let mut victim = Process::start(&app, Stdio::null(), &often);
    let mut other = Process::start(&app, Stdio::null(), &often);
    let deadline = Instant::now() + PATIENCE;
    let done = async || -> (i64, i64) {
        sqlx::query_as("SELECT (SELECT count(*) FROM site_day WHERE plan_id IS NOT NULL), (SELECT count(*) FROM plan)")
            .fetch_one(&app.pool)
            .await
            .unwrap()
    };
    // Killed while it holds a site's row, with work left.
    loop {
        let holding: i64 = sqlx::query_scalar(
            "SELECT count(DISTINCT client_port) FROM pg_stat_activity WHERE datname = current_database()
             AND state IN ('active', 'idle in transaction') AND backend_type = 'client backend' AND pid <> pg_backend_pid()",
        )
        .fetch_one(&app.pool)
        .await
        .unwrap();
        let (days, _) = done().await;
        assert!(Instant::now() < deadline, "never seen at work");
        if holding >= 2 && (3..SITES - 5).contains(&days) {
            break;
        }
        assert!(days < SITES - 5, "too quick to be killed in the middle");
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    victim.kill();
    while done().await.0 < SITES {
        assert!(Instant::now() < deadline, "{:?} of {SITES}", done().await);
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    other.kill();
    let (days, plans) = done().await;
    assert_eq!(
        (days, plans),
        (SITES, SITES),
        "every site-day once, no plan twice"
    );
    let whole: i64 = sqlx::query_scalar(
        "SELECT count(*) FROM site s JOIN site_day d ON d.site_id = s.id JOIN plan p ON p.id = d.plan_id AND p.site_id = s.id AND p.today = d.day
         WHERE s.next_event_at > now()",
    )
    .fetch_one(&app.pool)
    .await
    .unwrap();
    assert_eq!(whole, SITES, "each with its plan and its next event");
}

#[tokio::test]
async fn a_worker_fetches_what_is_due_and_replans() {
    let app = App::start_with(|s| {
        s.weather_url = Some(weather_service().to_owned());
        s.work_every_s = 0.05;
    })
    .await;
    let owner = app.account(EMAIL).await;
    let site = app.site(owner, &small_site(), NIGHT).await;
    sqlx::query("UPDATE site SET simulated_now = NULL, next_event_at = now() + interval '1 hour'")
        .execute(&app.pool)
        .await
        .unwrap();
    crate::harness::connect_feed(&app.pool, site, "transition", 5)
        .await
        .unwrap();
    let deadline = Instant::now() + PATIENCE;
    loop {
        let plans: i64 = sqlx::query_scalar("SELECT count(*) FROM plan")
            .fetch_one(&app.pool)
            .await
            .unwrap();
        if plans > 0 {
            break;
        }
        assert!(Instant::now() < deadline, "never fetched");
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    let days: i64 = sqlx::query_scalar("SELECT count(*) FROM weather_day WHERE origin = 'service'")
        .fetch_one(&app.pool)
        .await
        .unwrap();
    assert_eq!(days, 396);
}
