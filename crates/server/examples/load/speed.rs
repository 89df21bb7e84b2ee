//! How fast, with the demo's data: the plan, the Morning mix, memory after sign-ins, health beside a large replan.

use std::net::TcpListener;
use std::time::{Duration, Instant};

use fresh_meadow::weather_service::WeatherService;
use fresh_meadow::{db, demo};
use tokio::task::JoinSet;

use crate::Failure;
use crate::database::Database;
use crate::http::{Connection, JSON, sign_in};
use crate::server::Server;

/// Connections at a time.
const CONNECTIONS: usize = 16;
/// How long each is measured.
const MEASURED: Duration = Duration::from_secs(10);

pub(crate) async fn run() -> Result<(), Failure> {
    let database = Database::start()?;
    db::migrate(&database.url()).await?;
    load_demo(&database.url()).await?;
    let server = Server::start(&database.url(), Server::free_port()?, &[])?;
    server.ready().await?;
    let cookie = sign_in(&server.address, demo::EMAIL, demo::PASSWORD).await?;
    let at = server.address.clone();
    let plan = "/api/v1/sites/1/plan";
    let whole = Connection::to(&at)
        .await?
        .get(plan, &format!("{cookie}Accept-Encoding: gzip\r\n"))
        .await?;
    let tag = whole.header("etag").ok_or("no tag")?.to_owned();
    println!("after start: {:.0} MB", server.resident_mb()?);

    for (what, headers) in [
        (
            "GET plan, known (304)",
            format!("{cookie}If-None-Match: {tag}\r\n"),
        ),
        (
            "GET plan, whole, gzip",
            format!("{cookie}Accept-Encoding: gzip\r\n"),
        ),
        ("GET plan, whole, unpacked", cookie.clone()),
        ("GET session", cookie.clone()),
    ] {
        let path = if what == "GET session" {
            "/api/v1/session"
        } else {
            plan
        };
        let mut waits = flood(&at, path, &headers).await?;
        println!("{what}: {}", told(&mut waits, MEASURED));
    }
    for (rate, seconds) in [(100, 10), (300, 20)] {
        let mut waits = mix(&at, &cookie, &tag, rate, seconds).await?;
        println!(
            "Morning mix at {rate}/s: {}",
            told(&mut waits, Duration::from_secs(seconds))
        );
    }
    println!("after the mix: {:.0} MB", server.resident_mb()?);
    let begun = Instant::now();
    for _ in 0..250 {
        let mut four = JoinSet::new();
        for (email, ..) in demo::PEOPLE {
            let at = at.clone();
            four.spawn(async move { sign_in(&at, email, demo::PASSWORD).await.map(|_| ()) });
        }
        for done in four.join_all().await {
            done?;
        }
    }
    println!(
        "1000 sign-ins, four at a time, in {:.0} s; after them: {:.0} MB",
        begun.elapsed().as_secs_f64(),
        server.resident_mb()?
    );
    large_site(&at, &cookie).await?;
    println!("after the large site: {:.0} MB", server.resident_mb()?);
    Ok(())
}

pub(crate) async fn load_demo(url: &str) -> Result<(), Failure> {
    let listener = TcpListener::bind("127.0.0.1:0")?;
    let service = WeatherService::new(&format!("http://{}", listener.local_addr()?))?;
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(standins::service::run(listener))
    });
    let pool = db::connect(url, 2).await?;
    demo::load(&pool, &service, None).await?;
    pool.close().await;
    Ok(())
}

/// Asks again and again over some connections; how long each answer took.
async fn flood(at: &str, path: &str, headers: &str) -> Result<Vec<Duration>, Failure> {
    let mut tasks = JoinSet::new();
    for _ in 0..CONNECTIONS {
        let (at, path, headers) = (at.to_owned(), path.to_owned(), headers.to_owned());
        tasks.spawn(async move {
            let mut connection = Connection::to(&at).await?;
            let mut waits = Vec::new();
            let begun = Instant::now();
            while begun.elapsed() < MEASURED {
                let asked = Instant::now();
                let answer = connection.get(&path, &headers).await?;
                if !matches!(answer.status, 200 | 304) {
                    return Err(format!("{path} answered {}", answer.status).into());
                }
                waits.push(asked.elapsed());
            }
            Ok::<_, Failure>(waits)
        });
    }
    let mut all = Vec::new();
    for waits in tasks.join_all().await {
        all.extend(waits?);
    }
    Ok(all)
}

/// What a phone asks in the morning, in turn. The plan is known but for one time in ten.
pub(crate) const MIX: [&str; 10] = [
    "/api/v1/sites/1/plan",
    "/api/v1/sites/1",
    "/api/v1/session",
    "/api/v1/sites/1/plan",
    "/api/v1/sites/1/runs?from=2026-06-16&to=2026-06-18",
    "/api/v1/sites/1/plan",
    "/api/v1/sites/1/zones",
    "/api/v1/sites/1/head-faults",
    "/api/v1/sites/1/plan",
    "/api/v1/sites/1/weather?from=2026-06-16&to=2026-06-18",
];

/// Asks at a steady rate, whether answers come or not; waits count from when the question was due.
async fn mix(
    at: &str,
    cookie: &str,
    tag: &str,
    rate: u64,
    seconds: u64,
) -> Result<Vec<Duration>, Failure> {
    let begun = tokio::time::Instant::now();
    let mut tasks = JoinSet::new();
    let lanes = 20;
    for lane in 0..lanes {
        let (at, cookie, tag) = (at.to_owned(), cookie.to_owned(), tag.to_owned());
        tasks.spawn(async move {
            let mut connection = Connection::to(&at).await?;
            let mut waits = Vec::new();
            let mut n = lane;
            while n < rate * seconds {
                let due = begun + Duration::from_micros(n * 1_000_000 / rate);
                tokio::time::sleep_until(due).await;
                let path = MIX[usize::try_from(n)? % MIX.len()];
                let headers = if n % 10 == 0 {
                    format!("{cookie}Accept-Encoding: gzip\r\n")
                } else {
                    format!("{cookie}Accept-Encoding: gzip\r\nIf-None-Match: {tag}\r\n")
                };
                let answer = connection.get(path, &headers).await?;
                if !matches!(answer.status, 200 | 304) {
                    return Err(format!("{path} answered {}", answer.status).into());
                }
                waits.push(due.elapsed());
                n += lanes;
            }
            Ok::<_, Failure>(waits)
        });
    }
    let mut all = Vec::new();
    for waits in tasks.join_all().await {
        all.extend(waits?);
    }
    Ok(all)
}

/// Replans a site of two hundred zones several times, and asks beside it whether the server lives.
async fn large_site(at: &str, cookie: &str) -> Result<(), Failure> {
    let mut document: serde_json::Value = serde_json::from_str(demo::SITE)?;
    let zone = document["zones"][0].clone();
    document["zones"] = (0..200)
        .map(|i| {
            let mut zone = zone.clone();
            zone["id"] = format!("z{i}").into();
            zone["name"] = format!("Zone {i}").into();
            zone
        })
        .collect();
    let mut connection = Connection::to(at).await?;
    let headers = format!("{cookie}{JSON}");
    let made = connection
        .send("POST", "/api/v1/sites", &headers, &document.to_string())
        .await?;
    let site = made.json()?["id"].clone();
    let weather = connection
        .get("/api/v1/sites/1/weather.csv", cookie)
        .await?;
    let text = String::from_utf8(weather.body)?;
    let kept: Vec<&str> = text.lines().take(700).collect();
    let import = format!("/api/v1/sites/{site}/weather-imports?conflicts=keep");
    let headers = format!("{cookie}If-Match: \"1\"\r\nContent-Type: text/csv\r\n");
    let begun = Instant::now();
    let imported = connection
        .send("POST", &import, &headers, &kept.join("\n"))
        .await?;
    println!(
        "a site of 200 zones: import of {} days and first plan answered {} in {:.2} s",
        kept.len() - 1,
        imported.status,
        begun.elapsed().as_secs_f64()
    );
    let replan = format!("/api/v1/sites/{site}/plans");
    let (at_owned, cookie_owned) = (at.to_owned(), cookie.to_owned());
    let replans = tokio::spawn(async move {
        let mut connection = Connection::to(&at_owned).await?;
        let mut longest = Duration::ZERO;
        for _ in 0..5 {
            let begun = Instant::now();
            let answer = connection.send("POST", &replan, &cookie_owned, "").await?;
            if answer.status != 201 {
                return Err(format!("the replan answered {}", answer.status).into());
            }
            longest = longest.max(begun.elapsed());
        }
        Ok::<_, Failure>(longest)
    });
    let mut health = Connection::to(at).await?;
    let mut waits = Vec::new();
    while !replans.is_finished() {
        let asked = Instant::now();
        health.get("/healthz", "").await?;
        waits.push(asked.elapsed());
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    let longest = replans.await??;
    println!(
        "its replan: at most {:.2} s; /healthz meanwhile: {}",
        longest.as_secs_f64(),
        told(&mut waits, Duration::ZERO)
    );
    Ok(())
}

/// Rate and waits in words.
pub(crate) fn told(waits: &mut [Duration], over: Duration) -> String {
    waits.sort_unstable();
    let at = |share: usize| waits[(waits.len() - 1) * share / 1000].as_secs_f64() * 1e3;
    let rate = if over.is_zero() {
        String::new()
    } else {
        format!(
            "{:.0} a second, ",
            f64::from(u32::try_from(waits.len()).unwrap_or(u32::MAX)) / over.as_secs_f64()
        )
    };
    format!(
        "{rate}{} answers, p50 {:.2} ms, p99 {:.2} ms, longest {:.1} ms",
        waits.len(),
        at(500),
        at(990),
        at(1000)
    )
}
