//! One PostgreSQL cluster a test process, one migrated template and one with the demo, a database and a server of its own for each test.

use std::net::{SocketAddr, TcpListener};
use std::process::{Child, Command, Stdio};
use std::sync::OnceLock;
use std::sync::atomic::{AtomicU32, Ordering};
use std::time::{Duration, Instant};

use fresh_meadow::settings::Settings;
use fresh_meadow::weather_service::WeatherService;
use fresh_meadow::{db, demo, password, serve};
use jiff::Timestamp;
use lawn::site::SiteDocument;
use reqwest::header::{HeaderMap, HeaderValue, IF_MATCH, ORIGIN};
use reqwest::{Client, Method, RequestBuilder, Response, StatusCode};
use serde_json::Value;
use sqlx::PgPool;
use sqlx::postgres::PgPoolOptions;
use tokio::sync::{OnceCell, oneshot};
use xtask::postgres::Cluster;

const TEMPLATE: &str = "template_fresh_meadow";
const DEMO_TEMPLATE: &str = "template_demo";
pub const EMAIL: &str = "hazel@meadow.example";
pub const PASSWORD: &str = "three dry days";

fn cluster() -> &'static Cluster {
    static CLUSTER: OnceLock<Cluster> = OnceLock::new();
    CLUSTER.get_or_init(|| {
        let cluster = Cluster::throwaway().unwrap_or_else(|e| panic!("{e}"));
        cluster.create_database(TEMPLATE).unwrap();
        let url = cluster.url(TEMPLATE);
        // Its own runtime: the first test to come here blocks the others for a moment.
        std::thread::spawn(move || {
            let runtime = tokio::runtime::Builder::new_current_thread()
                .enable_all()
                .build()
                .unwrap();
            runtime.block_on(db::migrate(&url)).unwrap();
        })
        .join()
        .unwrap();
        cluster
    })
}

/// A database of its own, migrated.
pub async fn database() -> String {
    create_database(TEMPLATE).await
}

/// Longest wait for what must come: a busy machine is slow, which is no defect of ours.
pub const PATIENCE: Duration = Duration::from_secs(180);

/// A database of its own without any table.
pub async fn empty_database() -> String {
    create_database("template1").await
}

/// A pool of a test's own, more patient than the application's: others start at the same time.
async fn patient(url: &str, most: u32) -> PgPool {
    PgPoolOptions::new()
        .max_connections(most)
        .acquire_timeout(PATIENCE)
        .connect(url)
        .await
        .unwrap()
}

async fn create_database(template: &str) -> String {
    static NEXT: AtomicU32 = AtomicU32::new(1);
    let name = format!("test_{}", NEXT.fetch_add(1, Ordering::Relaxed));
    copy_database(template, &name).await
}

/// A database of its own with the demo: its two seasons are lived through once a test process.
async fn demo_database() -> String {
    static LOADED: OnceCell<()> = OnceCell::const_new();
    LOADED
        .get_or_init(|| async {
            let pool = patient(&copy_database(TEMPLATE, DEMO_TEMPLATE).await, 2).await;
            let service = WeatherService::new(weather_service()).unwrap();
            assert!(demo::load(&pool, &service, None).await.unwrap());
            // PostgreSQL copies no database that somebody is connected to.
            pool.close().await;
        })
        .await;
    create_database(DEMO_TEMPLATE).await
}

async fn copy_database(template: &str, name: &str) -> String {
    let cluster = tokio::task::spawn_blocking(cluster).await.unwrap();
    let admin = patient(&cluster.url("postgres"), 1).await;
    sqlx::query(sqlx::AssertSqlSafe(format!(
        "CREATE DATABASE {name} TEMPLATE {template}"
    )))
    .execute(&admin)
    .await
    .unwrap();
    admin.close().await;
    cluster.url(name)
}

/// A served application with its database.
pub struct App {
    pub address: SocketAddr,
    pub pool: PgPool,
    pub database_url: String,
    /// Dropped, it stops the server, whose connections others need. `None`: another holds it.
    pub _running: Option<oneshot::Sender<()>>,
}

pub fn settings(database_url: &str) -> Settings {
    Settings {
        listen: "127.0.0.1:0".parse().unwrap(),
        database_connections: 4,
        work_every_s: 0.0,
        // Tests ask faster than people; those of the limits set them.
        account_requests_per_s: 0,
        peer_requests_per_s: 0,
        ..Settings::load(None, &|name| {
            (name == "FRESH_MEADOW_DATABASE_URL").then(|| database_url.to_owned())
        })
        .unwrap()
    }
}

/// The stand-in weather service, one a test process.
pub fn weather_service() -> &'static str {
    static SERVICE: OnceLock<String> = OnceLock::new();
    SERVICE.get_or_init(|| {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        std::thread::spawn(move || {
            actix_web::rt::System::new()
                .block_on(standins::service::run(listener))
                .unwrap();
        });
        format!("http://{address}")
    })
}

/// Subscribes a site to the simulated weather service.
pub async fn connect_feed(
    pool: &PgPool,
    site: db::SiteId,
    climate: &str,
    seed: i64,
) -> sqlx::Result<()> {
    let parameters = fresh_meadow::weather_service::simulated(climate, seed);
    db::feeds::connect(
        pool,
        site,
        fresh_meadow::weather_service::SIMULATED,
        &parameters,
    )
    .await
}

impl App {
    /// An empty application.
    pub async fn start() -> Self {
        Self::start_with(|_| ()).await
    }

    /// An empty application that asks the stand-in weather service.
    pub async fn with_weather() -> Self {
        Self::start_with(|s| s.weather_url = Some(weather_service().to_owned())).await
    }

    /// An empty application with other settings.
    pub async fn start_with(change: impl FnOnce(&mut Settings)) -> Self {
        Self::serve(database().await, change).await
    }

    /// An application on a database that is there.
    pub async fn start_on(database_url: String) -> Self {
        Self::serve(database_url, |_| ()).await
    }

    async fn serve(database_url: String, change: impl FnOnce(&mut Settings)) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        let mut served = settings(&database_url);
        change(&mut served);
        let (running, stopped) = oneshot::channel();
        std::thread::spawn(move || {
            let stopped = async move {
                let _ = stopped.await;
            };
            actix_web::rt::System::new()
                .block_on(serve::run(served, listener, stopped))
                .unwrap();
        });
        let pool = patient(&database_url, 2).await;
        Self {
            address,
            pool,
            database_url,
            _running: Some(running),
        }
    }

    /// The application with the demo.
    pub async fn with_demo() -> Self {
        Self::with_demo_and(|_| ()).await
    }

    async fn with_demo_and(change: impl FnOnce(&mut Settings)) -> Self {
        Self::serve(demo_database().await, |s| {
            s.weather_url = Some(weather_service().to_owned());
            change(s);
        })
        .await
    }

    /// The small site with one zone after ten dry days: its address, and its owner signed in.
    pub async fn with_dry_zone() -> (Self, Api, String) {
        let app = Self::start().await;
        let owner = app.account(EMAIL).await;
        let api = app.sign_in(EMAIL).await;
        let path = app.dry_zone(owner, &api).await;
        (app, api, path)
    }

    /// One more of such sites.
    pub async fn dry_zone(&self, owner: db::AccountId, api: &Api) -> String {
        let site = self.site(owner, &small_site(), NIGHT).await;
        let path = format!("/sites/{}", site.0);
        let zones = format!("{path}/zones");
        expect(
            api.send(Method::POST, &zones, zone("Front")).await,
            StatusCode::CREATED,
        )
        .await;
        let imports = format!("{path}/weather-imports?conflicts=keep");
        expect(
            api.csv(&imports, Some(1), &weather(|_| None)).await,
            StatusCode::CREATED,
        )
        .await;
        path
    }

    /// The demo, with an account of ours that owns its site.
    pub async fn own_demo() -> Self {
        Self::own_demo_with(|_| ()).await
    }

    /// The same with other settings.
    pub async fn own_demo_with(change: impl FnOnce(&mut Settings)) -> Self {
        let app = Self::with_demo_and(change).await;
        let owner = app.account(EMAIL).await;
        db::sites::add_member(&app.pool, db::SiteId(1), owner, "owner")
            .await
            .unwrap();
        app
    }

    pub fn origin(&self) -> String {
        format!("http://{}", self.address)
    }

    /// An account; its password is [`PASSWORD`].
    pub async fn account(&self, email: &str) -> db::AccountId {
        let hash = password::hash(PASSWORD.to_owned()).await.unwrap();
        db::accounts::insert(&self.pool, email, "Hazel Fern", &hash, false)
            .await
            .unwrap()
            .unwrap()
    }

    /// One more who manages a site, signed in.
    pub async fn manager(&self, email: &str, site: &str) -> Api {
        self.member(email, site, "manager").await
    }

    /// One more who belongs to a site in a role, signed in.
    pub async fn member(&self, email: &str, site: &str, role: &str) -> Api {
        let account = self.account(email).await;
        let id = site.trim_start_matches("/sites/").parse().unwrap();
        db::sites::add_member(&self.pool, db::SiteId(id), account, role)
            .await
            .unwrap();
        self.sign_in(email).await
    }

    /// A site of a document, with a clock that stands still.
    pub async fn site(
        &self,
        owner: db::AccountId,
        document: &SiteDocument,
        now: &str,
    ) -> db::SiteId {
        let now: Timestamp = now.parse().unwrap();
        let site = db::sites::insert(&self.pool, document, Some(now))
            .await
            .unwrap();
        db::sites::add_member(&self.pool, site, owner, "owner")
            .await
            .unwrap();
        for zone in &document.zones {
            db::zones::insert(&self.pool, site, zone).await.unwrap();
        }
        site
    }

    /// The header that the application's own pages send.
    pub fn own_origin(&self) -> HeaderMap {
        let mut headers = HeaderMap::new();
        headers.insert(ORIGIN, HeaderValue::from_str(&self.origin()).unwrap());
        headers
    }

    /// The API as a client asks it.
    pub fn api(&self, client: Client) -> Api {
        Api {
            client,
            base: format!("{}/api/v1", self.origin()),
            token: None,
        }
    }

    /// A client without a session.
    pub fn stranger(&self) -> Api {
        let client = plain()
            // The server ends connections that nobody uses for half a minute: none that it may be ending is used again.
            .pool_idle_timeout(Duration::from_secs(5))
            .cookie_store(true)
            .default_headers(self.own_origin())
            .build()
            .unwrap();
        self.api(client)
    }

    /// The cookie of a new session, for who writes their requests by hand.
    pub async fn session(&self, email: &str) -> String {
        let answer = self
            .stranger()
            .send(Method::POST, "/session", credentials(email, PASSWORD))
            .await;
        let cookie = answer.headers()["set-cookie"].to_str().unwrap();
        cookie.split(';').next().unwrap().to_owned()
    }

    /// A client that is signed in.
    pub async fn sign_in(&self, email: &str) -> Api {
        self.sign_in_as(email, PASSWORD).await
    }

    /// A client that is signed in with another password.
    pub async fn sign_in_as(&self, email: &str, password: &str) -> Api {
        let api = self.stranger();
        // A machine that starts many databases at once may be too busy for a moment: the answer says when to come again.
        for _ in 0..5 {
            let answer = api
                .send(Method::POST, "/session", credentials(email, password))
                .await;
            if answer.status() != StatusCode::SERVICE_UNAVAILABLE {
                assert_eq!(answer.status(), StatusCode::OK);
                return api;
            }
            assert!(answer.headers().contains_key("retry-after"));
            tokio::time::sleep(Duration::from_secs(1)).await;
        }
        panic!("the server stays too busy to sign in")
    }
}

/// A server process of its own on an application's database, killed when it goes out of sight.
pub struct Process {
    pub child: Child,
    /// The application as this process serves it.
    pub app: App,
}

impl Process {
    /// Starts one with more environment; it may not answer yet.
    pub fn start(app: &App, stderr: Stdio, env: &[(&str, &str)]) -> Self {
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        drop(listener);
        let child = Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .arg("serve")
            .env("FRESH_MEADOW_DATABASE_URL", &app.database_url)
            .env("FRESH_MEADOW_LISTEN", address.to_string())
            .env("FRESH_MEADOW_WORK_EVERY_S", "0")
            .env_remove("RUST_LOG")
            .envs(env.iter().copied())
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(stderr)
            .spawn()
            .unwrap();
        let app = App {
            address,
            pool: app.pool.clone(),
            database_url: app.database_url.clone(),
            _running: None,
        };
        Self { child, app }
    }

    pub async fn answers(&self) {
        let deadline = Instant::now() + PATIENCE;
        let client = plain().build().unwrap();
        let ready = format!("{}/readyz", self.app.origin());
        while client.get(&ready).send().await.is_err() {
            assert!(Instant::now() < deadline, "the server never answered");
            tokio::time::sleep(Duration::from_millis(20)).await;
        }
    }

    /// kill -9.
    pub fn kill(&mut self) {
        self.child.kill().unwrap();
        self.child.wait().unwrap();
    }
}

impl Drop for Process {
    fn drop(&mut self) {
        // It may be dead already.
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

pub fn credentials(email: &str, password: &str) -> Value {
    serde_json::json!({ "email": email, "password": password })
}

/// A client of HTTP without anything of ours, which waits as browsers do for a server that does not read on yet.
pub fn plain() -> reqwest::ClientBuilder {
    fresh_meadow::tls::asking(None)
        .unwrap()
        .tcp_user_timeout(None)
}

/// A client of the API.
pub struct Api {
    pub client: Client,
    pub base: String,
    /// Token of an invitation that every request carries.
    token: Option<String>,
}

impl Api {
    /// The same client with an invitation in hand.
    pub fn holding(&self, token: &str) -> Self {
        Self {
            client: self.client.clone(),
            base: self.base.clone(),
            token: Some(token.to_owned()),
        }
    }

    pub fn request(&self, method: Method, path: &str) -> RequestBuilder {
        let request = self.client.request(method, format!("{}{path}", self.base));
        match &self.token {
            Some(token) => request.header("invitation-token", token),
            None => request,
        }
    }

    pub async fn get(&self, path: &str) -> Response {
        self.request(Method::GET, path).send().await.unwrap()
    }

    pub async fn json(&self, path: &str) -> Value {
        let answer = self.get(path).await;
        assert_eq!(answer.status(), StatusCode::OK, "{path}");
        answer.json().await.unwrap()
    }

    pub async fn text(&self, path: &str) -> String {
        let answer = self.get(path).await;
        assert_eq!(answer.status(), StatusCode::OK, "{path}");
        answer.text().await.unwrap()
    }

    pub async fn send(&self, method: Method, path: &str, body: Value) -> Response {
        self.request(method, path).json(&body).send().await.unwrap()
    }

    pub async fn edit(&self, method: Method, path: &str, version: i64, body: Value) -> Response {
        self.client
            .request(method, format!("{}{path}", self.base))
            .header(IF_MATCH, format!("\"{version}\""))
            .json(&body)
            .send()
            .await
            .unwrap()
    }

    /// Posts a CSV file, with the weather version it was previewed at, if any.
    pub async fn csv(&self, path: &str, version: Option<i64>, text: &str) -> Response {
        let mut request = self
            .client
            .post(format!("{}{path}", self.base))
            .header("content-type", "text/csv")
            .body(text.to_owned());
        if let Some(version) = version {
            request = request.header(IF_MATCH, format!("\"{version}\""));
        }
        request.send().await.unwrap()
    }
}

/// The body of an answer that must have a status.
pub async fn expect(answer: Response, status: StatusCode) -> Value {
    let got = answer.status();
    let text = answer.text().await.unwrap();
    assert_eq!(got, status, "{text}");
    serde_json::from_str(&text).unwrap_or(Value::Null)
}

/// A small site: watered every morning from three to seven, no zones.
pub fn small_site() -> SiteDocument {
    lawn::site::document::read(
        r#"{ "format": "fresh-meadow-site", "version": 2,
             "site": { "name": "Clover Green", "time_zone": "America/New_York", "latitude": 36.4, "longitude": -80.5,
                       "elevation_m": 310 },
             "windows": [ { "days": ["monday","tuesday","wednesday","thursday","friday","saturday","sunday"],
                            "from": "03:00", "to": "07:00" } ] }"#,
    )
    .unwrap()
}

/// An hour after midnight of the demo's day: the morning's window is still ahead, as on the command line.
pub const NIGHT: &str = "2026-06-18T01:00:00-04:00";

/// Puts all sites on real clocks where it is between 08:00 and 22:00 now, long before the next event, and makes them due.
pub const REAL_CLOCKS: &str = "UPDATE site SET simulated_now = NULL, next_event_at = now() - interval '1 minute',
    time_zone = CASE WHEN extract(hour FROM now() AT TIME ZONE 'UTC') BETWEEN 8 AND 19 THEN 'UTC' ELSE 'Pacific/Honolulu' END";

/// A zone of the small site, as the API takes it.
pub fn zone(name: &str) -> Value {
    serde_json::json!({
        "name": name, "grass": "tall_fescue", "soil": "loam", "slope_pct": 2, "area_m2": 400,
        "sprinkler": "multi_stream", "active_from": "2026-06-08"
    })
}

/// Ten dry days, 8 to 17 June 2026; `change` may alter the line of a day of June.
pub fn weather(change: impl Fn(u32) -> Option<&'static str>) -> String {
    let mut text = String::from("date,tmin_c,tmax_c,rain_mm\n");
    for day in 8..=17 {
        let figures = change(day).unwrap_or("17,31,0");
        text.push_str(&format!("2026-06-{day:02},{figures}\n"));
    }
    text
}
