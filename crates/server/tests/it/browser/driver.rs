//! One ChromeDriver a test process; a browser session a test, few at a time.

use std::io::{BufRead, BufReader};
use std::process::{Command, Stdio};
use std::sync::{Mutex, OnceLock};

use base64::Engine;
use fantoccini::{Client, ClientBuilder};
use hyper_util::client::legacy::connect::HttpConnector;
use serde_json::{Value, json};
use tokio::sync::{Semaphore, SemaphorePermit};
use xtask::guard::{self, Guarded, Stop};

static SESSIONS: Semaphore = Semaphore::const_new(2);

/// How often a browser is started at most until it answers.
const STARTS: u32 = 3;

/// The size of a page, and whether it is a phone.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Screen {
    Desk,
    Phone,
    /// The narrowest that a page must still fit.
    Narrow,
    /// A page of 640 px at 200 %.
    Doubled,
    /// A desk whose owner likes it dark.
    Night,
}

fn driver() -> String {
    static DRIVER: OnceLock<(Mutex<Guarded>, String)> = OnceLock::new();
    let (_, url) = DRIVER.get_or_init(|| {
        let mut command = Command::new("chromedriver");
        command.arg("--port=0");
        let mut child = guard::spawn(
            &command,
            Stop::KillGroup,
            None,
            Stdio::piped(),
            Stdio::null(),
        )
        .unwrap();
        let mut lines = BufReader::new(child.take_stdout().unwrap()).lines();
        let port = loop {
            let line = lines.next().expect("chromedriver says its port").unwrap();
            if let Some(rest) = line.split("started successfully on port ").nth(1) {
                break rest.trim_end_matches('.').to_owned();
            }
        };
        // Its later lines are of no use, and a full pipe would stop it.
        std::thread::spawn(move || lines.for_each(drop));
        (Mutex::new(child), format!("http://127.0.0.1:{port}"))
    });
    url.clone()
}

/// A browser session with its place among the few.
pub async fn session(screen: Screen) -> (Client, SemaphorePermit<'static>) {
    let permit = SESSIONS.acquire().await.unwrap();
    let url = tokio::task::spawn_blocking(driver).await.unwrap();
    let (width, height, phone) = match screen {
        Screen::Desk | Screen::Night => (1280, 800, false),
        Screen::Phone => (390, 844, true),
        Screen::Narrow => (320, 640, true),
        Screen::Doubled => (320, 400, false),
    };
    let ratio = if screen == Screen::Doubled { 2 } else { 1 };
    let scheme = if screen == Screen::Night {
        "--blink-settings=preferredColorScheme=0"
    } else {
        "--blink-settings=preferredColorScheme=1"
    };
    let capabilities = json!({
        "browserName": "chrome",
        // A scan of a large page takes its time on a busy machine.
        "timeouts": { "script": 180_000, "pageLoad": 180_000 },
        "goog:chromeOptions": {
            "args": ["--headless=new", "--no-sandbox", "--disable-gpu", "--disable-dev-shm-usage", "--hide-scrollbars",
                     "--force-device-scale-factor=1", "--lang=en", "--no-first-run", "--disable-background-networking",
                     "--disable-component-update", "--disable-sync", scheme],
            // Where lawns are measured in metres; a test of the other units switches to them.
            "prefs": { "intl.accept_languages": "en-GB,en" },
            "mobileEmulation": { "deviceMetrics": { "width": width, "height": height, "pixelRatio": ratio, "mobile": phone, "touch": phone } }
        }
    });
    let mut tries = 0;
    loop {
        let client = ClientBuilder::new(HttpConnector::new())
            .capabilities(capabilities.as_object().unwrap().clone())
            .connect(&url)
            .await;
        match client {
            Ok(client) => return (client, permit),
            // On a busy machine a browser may not start in ChromeDriver's time.
            Err(error) => {
                tries += 1;
                assert!(tries < STARTS, "no browser starts: {error}");
            }
        }
    }
}

/// Asks the browser itself something, as its own tools do.
async fn ask(client: &Client, cmd: &str, params: Value) -> Value {
    let url = tokio::task::spawn_blocking(driver).await.unwrap();
    let session = client.session_id().await.unwrap().unwrap();
    let answer = crate::harness::plain()
        .build()
        .unwrap()
        .post(format!("{url}/session/{session}/goog/cdp/execute"))
        .json(&json!({ "cmd": cmd, "params": params }))
        .send()
        .await
        .unwrap();
    assert!(answer.status().is_success(), "{}", answer.status());
    answer.json().await.unwrap()
}

/// The page on paper, as PDF; width and height of the paper in inches.
pub async fn print(client: &Client, width: f64, height: f64) -> Vec<u8> {
    let params = json!({ "paperWidth": width, "paperHeight": height, "landscape": true, "preferCSSPageSize": false });
    let answer = ask(client, "Page.printToPDF", params).await;
    base64::engine::general_purpose::STANDARD
        .decode(answer["value"]["data"].as_str().unwrap())
        .unwrap()
}

/// Cuts the page off from the network, or connects it again.
pub async fn offline(client: &Client, offline: bool) {
    ask(client, "Network.enable", json!({})).await;
    let params = json!({ "offline": offline, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1 });
    ask(client, "Network.emulateNetworkConditions", params).await;
}

/// Slows the page's own work down, as an old phone would: 4 is a quarter of the speed.
pub async fn slow_down(client: &Client, times: u32) {
    let params = json!({ "rate": times });
    ask(client, "Emulation.setCPUThrottlingRate", params).await;
}
