//! Controllers whose figures cannot be so: each line is held against the pass that was sent, what cannot be so is left out and said, and the site goes on.

use std::net::TcpListener;
use std::sync::{Arc, Mutex};

use actix_web::web::{self, Data, Json, Path};
use actix_web::{App as Service, HttpResponse, HttpServer};
use fresh_meadow::controller_service::ControllerService;
use fresh_meadow::controlling;
use fresh_meadow::db::{Db, SiteId};
use reqwest::{Method, StatusCode};
use serde_json::{Value, json};

use crate::harness::{Api, App, EMAIL, expect, settings};
use crate::publications::{newest, publish};
use crate::rounds::step;

/// What a controller that tells anything tells next, and what it was sent last.
#[derive(Default)]
struct Told {
    answer: Option<String>,
    log: Value,
    reports: Vec<Value>,
    programme: Value,
    holds: Value,
}

/// A controller that tells whatever it is given.
pub struct Liar {
    told: Arc<Mutex<Told>>,
    url: String,
}

impl Liar {
    fn start() -> Self {
        let told = Arc::<Mutex<Told>>::default();
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let url = format!("http://{}", listener.local_addr().unwrap());
        let data = Data::from(told.clone());
        std::thread::spawn(move || {
            actix_web::rt::System::new().block_on(async move {
                let reports = async |told: Data<Mutex<Told>>| {
                    let told = told.lock().unwrap();
                    if let Some(answer) = &told.answer {
                        return HttpResponse::Ok().body(answer.clone());
                    }
                    HttpResponse::Ok().json(json!({
                        "holds": told.holds, "log": told.log, "litres_per_pulse": 10, "reports": told.reports, "more": false,
                    }))
                };
                let put = async |told: Data<Mutex<Told>>, path: Path<(i64, i64)>, body: Json<Value>| {
                    let mut told = told.lock().unwrap();
                    told.programme = body.into_inner();
                    told.holds = json!(path.1);
                    HttpResponse::Created().json(json!({ "holds": path.1 }))
                };
                HttpServer::new(move || {
                    Service::new()
                        .app_data(data.clone())
                        .route("/v1/sites/{site}/reports", web::get().to(reports))
                        .route("/v1/sites/{site}/programmes/{number}", web::put().to(put))
                })
                .workers(1)
                .listen(listener)
                .unwrap()
                .run()
                .await
                .unwrap();
            });
        });
        Self { told, url }
    }

    pub fn tells(&self, reports: Vec<Value>) {
        self.told.lock().unwrap().reports = reports;
    }

    pub fn sent(&self) -> Vec<Value> {
        let told = self.told.lock().unwrap();
        told.programme["passes"].as_array().unwrap().clone()
    }

    pub async fn heard(&self, app: &App) {
        let mut named = settings(&app.database_url);
        named.controller_url = Some(self.url.clone());
        let service = ControllerService::of(&named).unwrap().unwrap();
        let db = Db::new(app.pool.clone());
        controlling::attend(&db, &service, SiteId(1)).await.unwrap();
    }
}

/// The small dry site whose week is published to such a controller, and the day of its first run.
pub async fn published() -> (App, Api, String, String, Liar) {
    let liar = Liar::start();
    let app = App::start_with(|s| s.controller_url = Some(liar.url.clone())).await;
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = app.dry_zone(owner, &api).await;
    let connected = json!({ "connected": true });
    let set = api
        .send(Method::PUT, &format!("{site}/controller"), connected)
        .await;
    assert_eq!(set.status(), StatusCode::NO_CONTENT);
    let (_, week) = newest(&api, &site).await;
    let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
    let day = cells.clone().find(|c| !c["run"].is_null()).unwrap()["date"].clone();
    publish(&api, &site, "published").await;
    (app, api, site, day.as_str().unwrap().to_owned(), liar)
}

async fn state(api: &Api, site: &str) -> Value {
    api.json(&format!("{site}/publishing")).await["controller"].clone()
}

async fn runs_on(api: &Api, site: &str, day: &str) -> Vec<Value> {
    let runs = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    runs.as_array().unwrap().clone()
}

fn whys(state: &Value) -> Vec<&str> {
    let lines = state["left_out"].as_array().unwrap().iter();
    lines.map(|line| line["why"].as_str().unwrap()).collect()
}

/// A line about a pass.
pub fn line(number: i64, pass: &Value, kind: &str, more: &Value) -> Value {
    let mut line =
        json!({ "number": number, "at": pass["starts"], "kind": kind, "pass": pass["id"] });
    for (key, value) in more.as_object().unwrap() {
        line[key] = value.clone();
    }
    line
}

#[tokio::test]
async fn figures_that_cannot_be_so_are_left_out_and_the_lines_after_them_count() {
    let (app, api, site, day, liar) = published().await;
    let sent = liar.sent();
    let of_day: Vec<Value> = sent
        .into_iter()
        .filter(|pass| pass["starts"].as_str().unwrap().starts_with(&day))
        .collect();
    assert!(of_day.len() >= 2, "a run of several passes: {of_day:?}");
    let (first, second) = (&of_day[0], &of_day[1]);
    let seconds = second["seconds"].as_i64().unwrap();
    let stopped =
        |number, pass, seconds: i64| line(number, pass, "stopped", &json!({ "seconds": seconds }));
    step(&api, &site, 1).await;
    liar.tells(vec![
        line(1, first, "started", &json!({})),
        stopped(2, first, i64::from(i32::MAX)),
        stopped(3, first, -5),
        stopped(4, first, i64::MAX),
        line(
            5,
            second,
            "started",
            &json!({ "at": "-009999-01-03T00:00:00Z" }),
        ),
        line(6, second, "pulses", &json!({ "count": u64::MAX })),
        line(7, second, "stopped", &json!({ "seconds": "long" })),
        stopped(i64::MAX, second, seconds),
        stopped(8, second, seconds),
        json!({ "kind": "stopped" }),
        json!(7),
    ]);
    liar.heard(&app).await;
    let is = state(&api, &site).await;
    assert_eq!(is["trouble"], Value::Null, "{is}");
    let mut said = whys(&is);
    said.sort_unstable();
    assert_eq!(
        said,
        [
            "negative",
            "numbered",
            "too_long",
            "too_long",
            "too_much",
            "unreadable",
            "unreadable",
            "untimely"
        ]
    );
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!(
        (&ran[0]["source"], &ran[0]["passes"], &ran[0]["seconds"]),
        (&json!("controller"), &json!(1), &json!(seconds)),
        "what holds counts: {ran:?}"
    );
    // The log goes on after it, and so does the site.
    liar.tells(vec![stopped(9, first, first["seconds"].as_i64().unwrap())]);
    liar.heard(&app).await;
    assert_eq!(runs_on(&api, &site, &day).await[0]["passes"], 2);
    step(&api, &site, 1).await;
    // Looked at, it is said no more.
    let clear = format!("{site}/controller/left-out");
    let cleared = api.request(Method::DELETE, &clear).send().await.unwrap();
    assert_eq!(cleared.status(), StatusCode::NO_CONTENT);
    assert_eq!(state(&api, &site).await["left_out"], json!([]));
}

#[tokio::test]
async fn lines_and_runs_that_were_kept_before_stop_no_day_and_are_said() {
    let (app, api, site, day, liar) = published().await;
    step(&api, &site, 1).await;
    liar.heard(&app).await;
    // As an earlier version kept them: each pass open for 68 years, and the run of them.
    for (number, pass) in (1..).zip(liar.sent()) {
        let id = pass["id"].as_str().unwrap();
        let publication: i64 = id.split('-').next().unwrap().parse().unwrap();
        sqlx::query(
            "INSERT INTO controller_report (site_id, number, at, kind, zone_id, publication_id, starts, seconds)
             VALUES (1, $1, $2::timestamptz, 'stopped', 1, $3, $2::timestamptz, 2147483647)",
        )
        .bind(i64::from(number))
        .bind(pass["starts"].as_str().unwrap())
        .bind(publication)
        .execute(&app.pool)
        .await
        .unwrap();
    }
    sqlx::query("UPDATE run SET run_s = 2147483647, passes = 1 WHERE source IN ('assumed', 'controller') AND voided_at IS NULL AND date = $1::date")
        .bind(&day)
        .execute(&app.pool)
        .await
        .unwrap();
    sqlx::query(
        "UPDATE run SET source = 'controller' WHERE source = 'assumed' AND voided_at IS NULL",
    )
    .execute(&app.pool)
    .await
    .unwrap();
    sqlx::query("UPDATE zone SET ledger_from = $1::date WHERE id = 1")
        .bind(&day)
        .execute(&app.pool)
        .await
        .unwrap();
    let is = state(&api, &site).await;
    assert!(whys(&is).iter().all(|why| *why == "too_long") && !whys(&is).is_empty());
    let doubtful = is["doubtful"].as_array().unwrap().clone();
    assert_eq!(doubtful.len(), 1, "{is}");
    assert_eq!(doubtful[0]["zone_name"], "Front");
    // A person says what is so.
    let answer = format!("{site}/runs/{}/answer", doubtful[0]["run"]);
    let as_sent = json!({ "answer": "changed", "seconds": doubtful[0]["planned_s"], "sure": true });
    let said = api.send(Method::PUT, &answer, as_sent).await;
    let said = expect(said, StatusCode::OK).await;
    assert_eq!(said["seconds"], doubtful[0]["planned_s"]);
    // The site's days go on with it, and with a run of which nobody has said anything.
    sqlx::query("UPDATE run SET source = 'controller', run_s = 2147483647 WHERE id = $1")
        .bind(said["id"].as_i64().unwrap())
        .execute(&app.pool)
        .await
        .unwrap();
    step(&api, &site, 1).await;
    liar.heard(&app).await;
    step(&api, &site, 1).await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["doubtful"], &is["trouble"]),
        (&json!([]), &Value::Null),
        "what the controller told does not hold: its run is none"
    );
}

#[tokio::test]
async fn a_controller_that_was_replaced_is_heard_from_its_first_line_on() {
    let (app, api, site, day, liar) = published().await;
    let sent = liar.sent();
    let stopped = |number, pass: &Value| {
        line(
            number,
            pass,
            "stopped",
            &json!({ "seconds": pass["seconds"] }),
        )
    };
    step(&api, &site, 1).await;
    liar.told.lock().unwrap().log = json!("a");
    liar.tells(vec![
        line(40, &sent[0], "started", &json!({})),
        stopped(41, &sent[0]),
    ]);
    liar.heard(&app).await;
    assert_eq!(runs_on(&api, &site, &day).await[0]["passes"], 1);
    // Another one says so by the name of its log.
    liar.told.lock().unwrap().log = json!("b");
    liar.tells(vec![stopped(1, &sent[1])]);
    liar.heard(&app).await;
    assert_eq!(runs_on(&api, &site, &day).await[0]["passes"], 2);
    assert_eq!(state(&api, &site).await["trouble"], Value::Null);
    // One that does not say so is silent to us, until a manager says it.
    liar.told.lock().unwrap().log = Value::Null;
    liar.tells(vec![line(1, &sent[0], "missed", &json!({}))]);
    liar.heard(&app).await;
    let trouble = state(&api, &site).await["trouble"].clone();
    assert!(
        trouble.as_str().unwrap().contains("if it was replaced"),
        "{trouble}"
    );
    let replaced = format!("{site}/controller/replacements");
    let said = api.send(Method::POST, &replaced, Value::Null).await;
    assert_eq!(said.status(), StatusCode::NO_CONTENT);
    assert_eq!(state(&api, &site).await["trouble"], Value::Null);
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("controller_replaced"), "{history}");
}

#[tokio::test]
async fn a_controllers_own_words_are_cleaned_and_cut() {
    let (app, api, site, _, liar) = published().await;
    let wild = format!("{{\"holds\": \"\u{1b}[31m{}\"}}", "x".repeat(24_000));
    liar.told.lock().unwrap().answer = Some(wild);
    liar.heard(&app).await;
    let trouble = state(&api, &site).await["trouble"].clone();
    let trouble = trouble.as_str().unwrap();
    assert!(trouble.chars().count() < 400, "{trouble}");
    assert!(!trouble.chars().any(char::is_control), "{trouble:?}");
}
