//! TLS both ways: browsers are served with a certificate of our own; a weather service is asked over it with a key.

use std::net::{SocketAddr, TcpListener};
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Duration;

use actix_web::web::{self, Query};
use actix_web::{App as Web, HttpRequest, HttpResponse, HttpServer};
use fresh_meadow::tls;
use jiff::ToSpan;
use jiff::civil::Date;
use reqwest::{Method, Response, StatusCode};
use serde::Deserialize;
use serde_json::json;

use crate::harness::{App, EMAIL, NIGHT, Process, credentials, expect, small_site, zone};

/// A folder with a certificate for this machine and a name.
fn certificate(name: &str) -> (PathBuf, PathBuf) {
    let folder =
        std::env::temp_dir().join(format!("fresh-meadow-tls-{name}-{}", std::process::id()));
    let names = ["127.0.0.1", "localhost", NAME].map(str::to_owned);
    let made = tls::make(&folder, &names).unwrap();
    (made.certificate, made.key)
}

/// A name that the tests' clients find on this machine.
const NAME: &str = "meadow.example";

/// A server that serves TLS itself, a client that trusts it, and its origin.
struct Encrypted {
    _process: Process,
    client: reqwest::Client,
    origin: String,
    address: SocketAddr,
}

impl Encrypted {
    async fn start(app: &App, host: &str) -> Self {
        let (certificate, key) = certificate(host);
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let address = listener.local_addr().unwrap();
        drop(listener);
        let origin = format!("https://{host}:{}", address.port());
        let env = [
            (
                "FRESH_MEADOW_TLS_CERTIFICATE",
                certificate.to_str().unwrap(),
            ),
            ("FRESH_MEADOW_TLS_KEY", key.to_str().unwrap()),
            ("FRESH_MEADOW_PUBLIC_ORIGIN", &origin),
            ("FRESH_MEADOW_LISTEN", &address.to_string()),
        ];
        let process = Process::start(app, Stdio::inherit(), &env);
        let client = tls::asking(Some(&certificate)).unwrap();
        let client = client.resolve(NAME, address).build().unwrap();
        Self {
            _process: process,
            client,
            origin,
            address,
        }
    }

    /// Its answer to whether it is well, once it answers.
    async fn answers(&self) -> Response {
        for _ in 0..200 {
            let asked = self.client.get(format!("{}/healthz", self.origin));
            if let Ok(answer) = asked.send().await {
                return answer;
            }
            tokio::time::sleep(Duration::from_millis(50)).await;
        }
        panic!("no answer over TLS")
    }
}

const STRICT: &str = "strict-transport-security";

#[tokio::test]
async fn browsers_are_asked_to_keep_a_name_to_tls() {
    let app = App::start().await;
    let server = Encrypted::start(&app, NAME).await;
    let healthy = server.answers().await;
    assert_eq!(healthy.status(), StatusCode::OK);
    assert_eq!(healthy.headers()[STRICT], "max-age=31536000");
    // Who opens it by another name of this machine could not sign in there: they are sent to the name that browsers use.
    let by_number = format!("https://{}/site/1/week?day=2", server.address);
    let sent_on = server.client.get(by_number).send().await.unwrap();
    assert_eq!(
        sent_on.url().as_str(),
        format!("{}/site/1/week?day=2", server.origin)
    );
}

#[tokio::test]
async fn browsers_are_served_over_tls_and_cookies_stay_there() {
    let app = App::start().await;
    app.account(EMAIL).await;
    let server = Encrypted::start(&app, "127.0.0.1").await;
    let (client, origin, address) = (&server.client, &server.origin, server.address);
    let healthy = server.answers().await;
    assert_eq!(healthy.status(), StatusCode::OK);
    // An address is no name that browsers could keep to TLS.
    assert!(!healthy.headers().contains_key(STRICT));
    let signed_in = client
        .post(format!("{origin}/api/v1/session"))
        .header("origin", origin)
        .json(&credentials(EMAIL, crate::harness::PASSWORD))
        .send()
        .await
        .unwrap();
    assert_eq!(signed_in.status(), StatusCode::OK);
    let cookie = signed_in.headers()["set-cookie"].to_str().unwrap();
    assert!(cookie.contains("; Secure"), "{cookie}");
    // Nobody else vouches for it, and nobody is served without.
    let stranger = crate::harness::plain().build().unwrap();
    assert!(
        stranger
            .get(format!("{origin}/healthz"))
            .send()
            .await
            .is_err()
    );
    let bare = stranger
        .get(format!("http://{address}/healthz"))
        .send()
        .await;
    assert!(bare.is_err() || bare.unwrap().status() != StatusCode::OK);
}

#[test]
fn a_certificate_is_made_once_and_its_key_is_nobody_elses() {
    use std::os::unix::fs::PermissionsExt;
    let folder = std::env::temp_dir().join(format!("fresh-meadow-tls-made-{}", std::process::id()));
    let make = || {
        Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
            .args([
                "certificate",
                "--name",
                "192.0.2.7",
                "--name",
                "meadow.local",
                "--out",
            ])
            .arg(&folder)
            .output()
            .unwrap()
    };
    assert!(make().status.success());
    let (certificate, key) = (folder.join(tls::CERTIFICATE), folder.join(tls::KEY));
    let first = std::fs::read(&certificate).unwrap();
    assert!(make().status.success());
    assert_eq!(
        std::fs::read(&certificate).unwrap(),
        first,
        "phones were told to trust it"
    );
    assert_eq!(
        std::fs::metadata(&key).unwrap().permissions().mode() & 0o777,
        0o600
    );
    tls::server(&certificate, &key).unwrap();
    let swapped = tls::server(&key, &certificate).unwrap_err().to_string();
    assert!(swapped.contains("key.pem"), "{swapped}");
    std::fs::remove_dir_all(&folder).unwrap();
}

/// The names, the times and the purpose of a certificate, as another program reads them.
fn read_certificate(file: &Path) -> String {
    let said = Command::new("openssl")
        .args(["x509", "-noout", "-text", "-in"])
        .arg(file)
        .output()
        .unwrap();
    assert!(said.status.success());
    String::from_utf8(said.stdout).unwrap()
}

#[test]
fn a_certificate_says_whose_and_for_what_it_is_and_is_made_anew_for_other_names() {
    let folder = std::env::temp_dir().join(format!("fresh-meadow-tls-anew-{}", std::process::id()));
    let make = |names: &[&str]| {
        let names: Vec<String> = names.iter().map(|name| (*name).to_owned()).collect();
        tls::make(&folder, &names)
    };
    for wrong in ["a b", "../../x", "", "x y.example", "-"] {
        assert!(make(&[wrong]).is_err(), "{wrong}");
    }
    assert!(!folder.exists());
    let first = make(&["192.0.2.7", "localhost"]).unwrap();
    assert!(first.is_new);
    let said = read_certificate(&first.certificate);
    for words in [
        "O = Fresh Meadow",
        "CN = 192.0.2.7",
        "TLS Web Server Authentication",
        "DNS:localhost",
        "IP Address:192.0.2.7",
    ] {
        assert!(said.contains(words), "{words}: {said}");
    }
    let until = |days: &str| {
        let checked = Command::new("openssl")
            .args(["x509", "-noout", "-checkend", days, "-in"])
            .arg(&first.certificate)
            .status();
        checked.unwrap().success()
    };
    let days = |n: u64| (n * 86_400).to_string();
    assert!(until(&days(800)) && !until(&days(826)));
    // Fewer names hold; another is not passed over.
    assert!(!make(&["192.0.2.7"]).unwrap().is_new);
    let old = std::fs::read(&first.certificate).unwrap();
    let other = make(&["192.0.2.8", "localhost"]).unwrap();
    assert!(other.is_new);
    assert!(read_certificate(&other.certificate).contains("IP Address:192.0.2.8"));
    let kept = folder.join("certificate.before.pem");
    assert_eq!(std::fs::read(kept).unwrap(), old);
    tls::server(&other.certificate, &other.key).unwrap();
    // Somebody else's is not touched.
    let foreign = Command::new("openssl")
        .args([
            "req",
            "-x509",
            "-newkey",
            "ec",
            "-pkeyopt",
            "ec_paramgen_curve:P-256",
            "-nodes",
        ])
        .args([
            "-subj",
            "/CN=meadow.example",
            "-addext",
            "subjectAltName=DNS:meadow.example",
        ])
        .arg("-keyout")
        .arg(&other.key)
        .arg("-out")
        .arg(&other.certificate)
        .output()
        .unwrap();
    assert!(foreign.status.success());
    let foreign = std::fs::read(&other.certificate).unwrap();
    let refused = make(&["meadow.example"]).unwrap_err().to_string();
    assert!(refused.contains("not made here"), "{refused}");
    assert_eq!(std::fs::read(&other.certificate).unwrap(), foreign);
    std::fs::remove_dir_all(&folder).unwrap();
}

/// What a weather service is asked with (docs/formats/weather-service.md).
#[derive(Deserialize)]
struct Question {
    latitude: f64,
    longitude: f64,
    elevation_m: f64,
    as_of: String,
    from: Option<Date>,
    to: Option<Date>,
}

/// A second provider, of some lines: the same weather every day, for who has its key.
async fn answer(request: HttpRequest, Query(asked): Query<Question>) -> HttpResponse {
    let key = request
        .headers()
        .get("authorization")
        .and_then(|v| v.to_str().ok());
    if key != Some("Bearer meadow key") {
        return HttpResponse::Unauthorized().finish();
    }
    assert!(
        (asked.latitude - 36.4).abs() < 1e-9
            && asked.longitude < -80.0
            && asked.elevation_m > 300.0
    );
    let today: Date = asked.as_of[..10].parse().unwrap();
    let (first, last) = match (asked.from, asked.to) {
        (Some(from), Some(to)) => (from, to),
        _ => (today, today.saturating_add(6.days())),
    };
    let mut text = "date,tmin_c,tmax_c,rain_mm\n".to_owned();
    for date in first.series(1.day()).take_while(|date| *date <= last) {
        text += &format!("{date},15,30,0\n");
    }
    HttpResponse::Ok().content_type("text/csv").body(text)
}

/// Serves it over TLS; its address.
fn provider(certificate: &std::path::Path, key: &std::path::Path) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap();
    let config = tls::server(certificate, key).unwrap();
    std::thread::spawn(move || {
        let server = HttpServer::new(|| {
            Web::new()
                .route("/v1/observed", web::get().to(answer))
                .route("/v1/forecast", web::get().to(answer))
        });
        let server = server
            .workers(1)
            .disable_signals()
            .listen_rustls_0_23(listener, config)
            .unwrap();
        actix_web::rt::System::new().block_on(server.run()).unwrap();
    });
    format!("https://{address}")
}

#[tokio::test]
async fn a_service_is_asked_over_tls_with_its_key() {
    let (certificate, key) = certificate("ask");
    let url = provider(&certificate, &key);
    for (given, trusted, says) in [
        (Some("meadow key"), true, ""),
        (Some("another"), true, "401"),
        (None, true, "401"),
        (Some("meadow key"), false, "does not answer"),
    ] {
        let app = App::start_with(|s| {
            s.weather_url = Some(url.clone());
            s.weather_name = Some("Valley bridge".to_owned());
            s.weather_key = given.map(str::to_owned);
            s.weather_certificate = trusted.then(|| certificate.clone());
        })
        .await;
        let owner = app.account(EMAIL).await;
        let site = format!("/sites/{}", app.site(owner, &small_site(), NIGHT).await.0);
        let api = app.sign_in(EMAIL).await;
        expect(
            api.send(Method::POST, &format!("{site}/zones"), zone("Front"))
                .await,
            StatusCode::CREATED,
        )
        .await;
        let feed = api
            .send(Method::PUT, &format!("{site}/weather-feed"), json!({}))
            .await;
        let feed = expect(feed, StatusCode::OK).await;
        assert_eq!(
            (&feed["name"], &feed["connected"]),
            (&json!("Valley bridge"), &json!(true))
        );
        assert_eq!(feed["climates"], json!([]));
        let plan = api.json(&format!("{site}/plan")).await["current"]["plan"].clone();
        if says.is_empty() {
            assert_eq!(feed["failures"], 0, "{feed}");
            assert_eq!(plan["days"][2]["et0_from"], "forecast");
        } else {
            assert!(
                feed["last_error"].as_str().unwrap().contains(says),
                "{feed}"
            );
            assert!(plan.is_null());
        }
    }
}
