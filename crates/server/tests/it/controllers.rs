//! A controller that runs what is published: told once however often it is tried, each pass once or reported missing, and what it reports becomes the record.

use std::collections::BTreeMap;
use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;

use actix_web::dev::ServerHandle;
use fresh_meadow::controller_service::ControllerService;
use fresh_meadow::controlling;
use fresh_meadow::db::{Db, SiteId};
use fresh_meadow::settings::Settings;
use fresh_meadow::tls;
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use standins::controller::{Controllers, server};

use crate::harness::{Api, App, EMAIL, expect, settings};
use crate::publications::{newest, publish};
use crate::rounds::step;

const TOKEN: &str = "valves and heads";

fn client() -> Client {
    tls::asking(None).unwrap().build().unwrap()
}

/// The stand-in, served from a file on an address of its own until it is stopped.
pub struct Standin {
    pub address: SocketAddr,
    file: PathBuf,
    stop: ServerHandle,
}

/// Serves on an address.
async fn serve(listener: TcpListener, file: PathBuf) -> ServerHandle {
    let (tell, told) = tokio::sync::oneshot::channel();
    std::thread::spawn(move || {
        let controllers = Controllers::open(Some(file), TOKEN).unwrap();
        actix_web::rt::System::new().block_on(async {
            let server = server(listener, controllers).unwrap();
            tell.send(server.handle()).ok().unwrap();
            server.await.unwrap();
        });
    });
    told.await.unwrap()
}

impl Standin {
    pub async fn start(name: &str) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        let file = std::env::temp_dir().join(format!(
            "fresh-meadow-controller-{name}-{}.json",
            std::process::id()
        ));
        // Of an earlier run.
        let _ = std::fs::remove_file(&file);
        let stop = serve(listener, file.clone()).await;
        Self {
            address,
            file,
            stop,
        }
    }

    /// Has an application reach it.
    pub fn name_in(&self, settings: &mut Settings) {
        settings.controller_url = Some(format!("http://{}", self.address));
        settings.controller_token = Some(TOKEN.to_owned());
    }

    /// Nobody listens at its address any more.
    async fn stop(&self) {
        self.stop.stop(true).await;
    }

    /// It listens again, with its file.
    async fn start_again(&mut self) {
        let listener = TcpListener::bind(self.address).unwrap();
        self.stop = serve(listener, self.file.clone()).await;
    }

    pub async fn ask(&self, method: Method, path: &str, body: Value) -> (StatusCode, Value) {
        let address = format!("http://{}/v1{path}", self.address);
        let asked = client().request(method, address).bearer_auth(TOKEN);
        let answer = asked.json(&body).send().await.unwrap();
        let status = answer.status();
        let text = answer.text().await.unwrap();
        (status, serde_json::from_str(&text).unwrap_or(Value::Null))
    }

    pub async fn mood(&self, mood: &str) {
        let (status, _) = self
            .ask(Method::PUT, &format!("/mood/{mood}"), Value::Null)
            .await;
        assert_eq!(status, StatusCode::NO_CONTENT);
    }

    /// The valve of a zone does not open any more.
    pub async fn stick(&self, zone: &str) {
        let faults = json!({ "stuck": [zone] });
        let (status, _) = self.ask(Method::PUT, "/sites/1/faults", faults).await;
        assert_eq!(status, StatusCode::NO_CONTENT);
    }

    async fn log(&self) -> Vec<Value> {
        let path = "/sites/1/reports?as_of=2026-06-01T00:00:00Z&after=0";
        let (_, log) = self.ask(Method::GET, path, Value::Null).await;
        log["reports"].as_array().unwrap().clone()
    }

    /// How often each pass started, by its own log.
    async fn starts(&self) -> BTreeMap<String, usize> {
        let mut starts = BTreeMap::new();
        for line in self.log().await {
            if line["kind"] == "started" {
                *starts
                    .entry(line["pass"].as_str().unwrap().to_owned())
                    .or_default() += 1;
            }
        }
        starts
    }
}

impl Drop for Standin {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.file);
    }
}

/// The small dry site with its controller connected, its day planned, and the day on which it waters.
pub async fn connected(name: &str) -> (App, Api, String, String, Standin) {
    let standin = Standin::start(name).await;
    let app = App::start_with(|s| standin.name_in(s)).await;
    let owner = app.account(EMAIL).await;
    let api = app.sign_in(EMAIL).await;
    let site = app.dry_zone(owner, &api).await;
    let set = api
        .send(
            Method::PUT,
            &format!("{site}/controller"),
            json!({ "connected": true }),
        )
        .await;
    assert_eq!(set.status(), StatusCode::NO_CONTENT);
    let (_, week) = newest(&api, &site).await;
    let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
    let day = cells.clone().find(|c| !c["run"].is_null()).unwrap()["date"].clone();
    let day = day.as_str().unwrap().to_owned();
    (app, api, site, day, standin)
}

async fn state(api: &Api, site: &str) -> Value {
    api.json(&format!("{site}/publishing")).await["controller"].clone()
}

async fn runs_on(api: &Api, site: &str, day: &str) -> Vec<Value> {
    let runs = api.json(&format!("{site}/runs?from={day}&to={day}")).await;
    runs.as_array().unwrap().clone()
}

/// The run that is planned on a day.
async fn planned_on(api: &Api, site: &str, day: &str) -> Value {
    let (_, week) = newest(api, site).await;
    let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
    cells.clone().find(|c| c["date"] == day).unwrap()["run"].clone()
}

/// What a worker does when a controller is due.
async fn attend(app: &App, standin: &Standin, site: &str) {
    let mut named = settings(&app.database_url);
    standin.name_in(&mut named);
    let service = ControllerService::of(&named).unwrap().unwrap();
    let id = SiteId(site.trim_start_matches("/sites/").parse().unwrap());
    controlling::attend(&Db::new(app.pool.clone()), &service, id)
        .await
        .unwrap();
}

fn once(starts: &BTreeMap<String, usize>) {
    assert!(starts.values().all(|n| *n == 1), "{starts:?}");
}

#[tokio::test]
async fn what_is_published_runs_once_and_what_it_reports_is_the_record() {
    let (_app, api, site, day, standin) = connected("runs").await;
    let planned = planned_on(&api, &site, &day).await;
    assert!(state(&api, &site).await["holds_published"] == true);
    publish(&api, &site, "once").await;
    // Published twice with the same key, and a second time with another: each pass still runs once.
    publish(&api, &site, "once").await;
    publish(&api, &site, "again").await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["holds_published"], &is["holds_any"]),
        (&json!(true), &json!(true))
    );
    step(&api, &site, 1).await;
    let starts = standin.starts().await;
    assert_eq!(
        starts.len(),
        usize::try_from(planned["passes"].as_u64().unwrap()).unwrap()
    );
    once(&starts);
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!(
        (ran.len(), &ran[0]["source"]),
        (1, &json!("controller")),
        "{ran:?}"
    );
    assert_eq!(
        (&ran[0]["seconds"], &ran[0]["passes"]),
        (&planned["run_s"], &planned["passes"])
    );
    // Litres that flowed are as many as the zone takes, to a pulse for each pass.
    let pulses: i64 = standin
        .log()
        .await
        .iter()
        .filter_map(|line| line["count"].as_i64())
        .sum();
    let litres = planned["volume_l"].as_f64().unwrap();
    let flowed = f64::from(i32::try_from(pulses * 10).unwrap());
    assert!(
        (litres - flowed).abs() < 10.0 * planned["passes"].as_f64().unwrap() + 1.0,
        "{litres} {flowed}"
    );
    // A person's word stands over the controller's.
    let answer = format!("{site}/runs/{}/answer", ran[0]["id"]);
    let said = api
        .send(Method::PUT, &answer, json!({ "answer": "did_not_run" }))
        .await;
    expect(said, StatusCode::OK).await;
    step(&api, &site, 1).await;
    assert_eq!(runs_on(&api, &site, &day).await[0]["source"], "denied");
}

#[tokio::test]
async fn a_controller_that_is_not_there_gets_it_when_it_is_and_nothing_late() {
    let (app, api, site, day, mut standin) = connected("refused").await;
    standin.stop().await;
    publish(&api, &site, "refused").await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["trouble"], &is["holds_published"]),
        (&json!("it does not answer"), &json!(false))
    );
    // Back before the window, it is told and runs all of it.
    standin.start_again().await;
    attend(&app, &standin, &site).await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["trouble"], &is["holds_published"]),
        (&Value::Null, &json!(true))
    );
    step(&api, &site, 1).await;
    once(&standin.starts().await);
    assert_eq!(runs_on(&api, &site, &day).await[0]["source"], "controller");
    assert_eq!(state(&api, &site).await["missed"], json!([]));
}

#[tokio::test]
async fn a_programme_that_is_taken_and_its_reply_lost_runs_once() {
    let (app, api, site, day, standin) = connected("lost").await;
    standin.mood("lose-reply").await;
    publish(&api, &site, "lost").await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["trouble"], &is["holds_published"]),
        (&json!("it does not answer"), &json!(false))
    );
    // It is asked what it holds before it is told again: it holds it.
    attend(&app, &standin, &site).await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["trouble"], &is["holds_published"]),
        (&Value::Null, &json!(true))
    );
    standin.mood("fine").await;
    step(&api, &site, 1).await;
    let starts = standin.starts().await;
    assert!(!starts.is_empty());
    once(&starts);
    assert_eq!(runs_on(&api, &site, &day).await[0]["source"], "controller");
}

#[tokio::test]
async fn a_programme_that_is_refused_leaves_the_one_that_it_holds_and_that_is_said() {
    let (app, api, site, _, standin) = connected("refuses").await;
    let first = publish(&api, &site, "first").await["id"].clone();
    standin.mood("refuse").await;
    publish(&api, &site, "second").await;
    let is = state(&api, &site).await;
    assert_eq!(is["trouble"], "it answered with status 503", "{is}");
    assert_eq!(
        (&is["holds_any"], &is["holds_published"]),
        (&json!(true), &json!(false))
    );
    let path = "/sites/1/reports?as_of=2026-06-18T05:00:00Z";
    let (_, held) = standin.ask(Method::GET, path, Value::Null).await;
    assert_eq!(held["holds"], first);
    standin.mood("fine").await;
    attend(&app, &standin, &site).await;
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["trouble"], &is["holds_published"]),
        (&Value::Null, &json!(true))
    );
}

#[tokio::test]
async fn offline_past_its_window_its_passes_are_missing_and_never_late() {
    let (app, api, site, day, standin) = connected("offline").await;
    standin.mood("offline").await;
    publish(&api, &site, "offline").await;
    step(&api, &site, 1).await;
    // Nobody knows yet what ran: it is assumed, and said that the controller is silent.
    assert_eq!(runs_on(&api, &site, &day).await[0]["source"], "assumed");
    let is = state(&api, &site).await;
    assert_eq!(is["trouble"], "it does not answer", "{is}");
    let dry = async || {
        let (_, week) = newest(&api, &site).await;
        let today = week["today"].as_str().unwrap().to_owned();
        let cells = week["zones"][0]["cells"].as_array().unwrap().iter();
        let cell = cells.clone().find(|c| c["date"] == today.as_str()).unwrap();
        cell["depletion_start_mm"].as_f64().unwrap()
    };
    let assumed = dry().await;
    standin.mood("fine").await;
    attend(&app, &standin, &site).await;
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!(
        (&ran[0]["source"], &ran[0]["seconds"]),
        (&json!("controller"), &json!(0)),
        "{ran:?}"
    );
    let missed = state(&api, &site).await["missed"].clone();
    assert_eq!(missed.as_array().unwrap().len(), 1, "{missed}");
    let history = api.json(&format!("{site}/history")).await.to_string();
    assert!(history.contains("passes_missed"), "{history}");
    // What did not run is not counted on: the ground is drier by it.
    assert!(dry().await > assumed + 1.0);
    // None of the past night's passes was sent.
    let late = standin.starts().await;
    assert!(late.is_empty(), "{late:?}");
    assert!(
        !standin
            .log()
            .await
            .iter()
            .any(|line| line["kind"] == "missed")
    );
}

#[tokio::test]
async fn restarted_with_its_file_it_goes_on_in_the_middle_of_a_night() {
    let (app, api, site, day, mut standin) = connected("restart").await;
    publish(&api, &site, "restart").await;
    let planned = planned_on(&api, &site, &day).await;
    let starts = planned["starts"].as_array().unwrap();
    // In the middle of its first pass.
    let within: jiff::Timestamp = starts[0].as_str().unwrap().parse().unwrap();
    let within = within
        .checked_add(jiff::SignedDuration::from_mins(3))
        .unwrap();
    sqlx::query("UPDATE site SET simulated_now = $1::timestamptz")
        .bind(within.to_string())
        .execute(&app.pool)
        .await
        .unwrap();
    attend(&app, &standin, &site).await;
    assert_eq!(standin.starts().await.len(), 1);
    standin.stop().await;
    standin.start_again().await;
    attend(&app, &standin, &site).await;
    step(&api, &site, 1).await;
    let counted = standin.starts().await;
    assert_eq!(counted.len(), starts.len());
    once(&counted);
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!((ran.len(), &ran[0]["seconds"]), (1, &planned["run_s"]));
}

#[tokio::test]
async fn withdrawn_it_drops_what_has_not_begun_and_a_stuck_valve_did_not_water() {
    let (_app, api, site, day, standin) = connected("stuck").await;
    let published = publish(&api, &site, "withdrawn").await["id"].clone();
    let connection = format!("{site}/controller");
    let off = json!({ "connected": false });
    let said = api.send(Method::PUT, &connection, off.clone()).await;
    expect(said, StatusCode::CONFLICT).await;
    let withdrawn = api
        .send(
            Method::DELETE,
            &format!("{site}/publications/{published}"),
            Value::Null,
        )
        .await;
    assert_eq!(withdrawn.status(), StatusCode::NO_CONTENT);
    let is = state(&api, &site).await;
    assert_eq!(
        (&is["holds_any"], &is["holds_published"]),
        (&json!(false), &json!(true))
    );

    // Its valve does not open: what was to run did not, and the fault is told.
    publish(&api, &site, "stuck").await;
    standin.stick("1").await;
    step(&api, &site, 1).await;
    let ran = runs_on(&api, &site, &day).await;
    assert_eq!(
        (&ran[0]["source"], &ran[0]["seconds"]),
        (&json!("controller"), &json!(0))
    );
    let is = state(&api, &site).await;
    assert_eq!(is["faults"][0]["fault"], "no_flow", "{is}");
    assert_eq!(is["faults"][0]["zone_name"], "Front");
    assert_eq!(is["missed"].as_array().unwrap().len(), 1);
}

/// The protocol as docs/formats/controller.md says it, by a client that knows nothing of the server's. RFC 9110: PUT and DELETE are idempotent (9.2.2), so
/// that either may be sent again when its answer was lost; 401 without credentials (15.5.2), 409 where the state forbids it (15.5.10), 422 for what does not hold (15.5.21).
#[tokio::test]
async fn a_second_client_speaks_the_protocol_from_its_description() {
    let standin = Standin::start("second").await;
    let programme = json!({
        "from": "2026-06-18T00:00:00Z",
        "valves": [{ "zone": "north", "name": "North", "flow_l_min": 40.0 }],
        "passes": [
            { "id": "n1", "zone": "north", "starts": "2026-06-18T04:00:00Z", "seconds": 600 },
            { "id": "n2", "zone": "north", "starts": "2026-06-18T05:00:00Z", "seconds": 600 },
        ],
    });
    let at = |time: &str| format!("/sites/9/programmes/3?as_of=2026-06-18T{time}Z");
    let put = async |time: &str| standin.ask(Method::PUT, &at(time), programme.clone()).await;
    let unsigned = client()
        .put(format!("http://{}/v1{}", standin.address, at("00:00:00")))
        .json(&programme)
        .send()
        .await
        .unwrap();
    assert_eq!(unsigned.status(), StatusCode::UNAUTHORIZED);
    // The same request once, twice and in the middle: one programme, each pass once.
    assert_eq!(put("04:30:00").await.0, StatusCode::CREATED);
    for time in ["04:30:00", "05:05:00", "06:00:00"] {
        assert_eq!(put(time).await, (StatusCode::OK, json!({ "holds": 3 })));
    }
    let (_, log) = standin
        .ask(
            Method::GET,
            "/sites/9/reports?as_of=2026-06-18T06:00:00Z&after=0",
            Value::Null,
        )
        .await;
    let kinds: Vec<(&str, &str)> = log["reports"]
        .as_array()
        .unwrap()
        .iter()
        .map(|r| (r["kind"].as_str().unwrap(), r["pass"].as_str().unwrap()))
        .collect();
    let expected = [
        ("missed", "n1"),
        ("started", "n2"),
        ("pulses", "n2"),
        ("pulses", "n2"),
        ("stopped", "n2"),
    ];
    assert_eq!(kinds, expected);
    assert_eq!((&log["holds"], &log["more"]), (&json!(3), &json!(false)));
    let (_, rest) = standin
        .ask(
            Method::GET,
            "/sites/9/reports?as_of=2026-06-18T06:00:00Z&after=4",
            Value::Null,
        )
        .await;
    assert_eq!(rest["reports"].as_array().unwrap().len(), 1);
    // An older one that was long under way; one that does not hold together; dropped once and again.
    let (old, held) = standin
        .ask(
            Method::PUT,
            "/sites/9/programmes/2?as_of=2026-06-18T06:00:00Z",
            programme.clone(),
        )
        .await;
    assert_eq!((old, held), (StatusCode::CONFLICT, json!({ "holds": 3 })));
    let mut twice = programme.clone();
    twice["passes"][1]["id"] = json!("n1");
    let (unsound, _) = standin
        .ask(
            Method::PUT,
            "/sites/9/programmes/4?as_of=2026-06-18T06:00:00Z",
            twice,
        )
        .await;
    assert_eq!(unsound, StatusCode::UNPROCESSABLE_ENTITY);
    for _ in 0..2 {
        let (dropped, _) = standin
            .ask(Method::DELETE, &at("06:00:00"), Value::Null)
            .await;
        assert_eq!(dropped, StatusCode::NO_CONTENT);
    }
    assert_eq!(put("06:00:00").await.0, StatusCode::CONFLICT);
    let file = std::fs::read_to_string(&standin.file).unwrap();
    assert!(serde_json::from_str::<Value>(&file).is_ok());
}
