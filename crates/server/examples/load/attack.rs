//! One member who misbehaves within the limits, and what the others notice of it: long computations that are asked for and hung up on, photos that are large once they are read.

use std::collections::BTreeMap;
use std::fs;
use std::time::{Duration, Instant};

use fresh_meadow::{db, demo};
use tokio::io::AsyncWriteExt;
use tokio::net::TcpStream;
use tokio::task::JoinSet;

use crate::Failure;
use crate::database::Database;
use crate::http::{Connection, JSON, sign_in};
use crate::server::Server;
use crate::speed::{MIX, load_demo, told};

/// Questions a second of who attacks: one less than an account may send.
const ASKS: u64 = 19;
/// How long each is waited for.
const HANGS_UP_AFTER: Duration = Duration::from_millis(1500);
/// After how long a question is hung up on of which it is asked when its computing ends: before it is done.
const IN_THE_MIDDLE: Duration = Duration::from_millis(500);
/// How long an attack goes on.
const ATTACKED: Duration = Duration::from_secs(15);
/// Questions of another member a second.
const READS: u64 = 15;
/// A server's usual limits.
const LIMITS: [(&str, &str); 2] = [
    ("FRESH_MEADOW_ACCOUNT_REQUESTS_PER_S", "20"),
    ("FRESH_MEADOW_PEER_REQUESTS_PER_S", "200"),
];

pub(crate) async fn starve() -> Result<(), Failure> {
    let database = Database::start()?;
    db::migrate(&database.url()).await?;
    load_demo(&database.url()).await?;
    let server = Server::start(&database.url(), Server::free_port()?, &LIMITS)?;
    server.ready().await?;
    let at = &server.address;
    let large = large_site(at).await?;
    // What the database does after so large an import is not what is measured.
    let pool = db::connect(&database.url(), 1).await?;
    for tidies in ["VACUUM ANALYZE", "CHECKPOINT"] {
        sqlx::raw_sql(tidies).execute(&pool).await?;
    }
    pool.close().await;
    let viewer = sign_in(at, demo::PEOPLE[3].0, demo::PASSWORD).await?;
    let schools = format!("/api/v1/sites/{large}/school-comparisons");
    for _ in 0..3 {
        let rests = rests_after(&server, &viewer, &schools).await?;
        println!("a comparison of 200 zones, hung up on: its processor rests after {rests:.0} ms");
    }
    let attacks: [(&str, &str, Vec<String>); 4] = [
        ("nothing", "GET", Vec::new()),
        (
            "decisions of the demo",
            "GET",
            vec!["/api/v1/sites/1/decision".to_owned()],
        ),
        ("schools of 200 zones", "POST", vec![schools]),
        (
            "sowing weeks, another zone each time",
            "GET",
            (1..=8)
                .map(|zone| format!("/api/v1/sites/1/zones/{zone}/sowing-weeks"))
                .collect(),
        ),
    ];
    for (what, method, paths) in attacks {
        let attacker = sign_in(at, demo::PEOPLE[3].0, demo::PASSWORD).await?;
        let reader = sign_in(at, demo::PEOPLE[1].0, demo::PASSWORD).await?;
        let before = server.processor_s()?;
        let begun = Instant::now();
        let attack = tokio::spawn(ask_and_hang_up(at.clone(), attacker, method, paths));
        let signing = tokio::spawn(sign_ins(at.clone()));
        let (mut read, statuses) = reads(at, &reader).await?;
        read.sort_unstable();
        let mut waits: Vec<Duration> = read.iter().map(|(wait, _)| *wait).collect();
        let slowest = read.iter().rev().take(3);
        let slowest =
            slowest.map(|(wait, path)| format!("{} {:.0} ms", path, wait.as_secs_f64() * 1e3));
        let slowest: Vec<String> = slowest.collect();
        let signed = signing.await??;
        attack.await??;
        let took = begun.elapsed().as_secs_f64();
        let during = server.processor_s()? - before;
        let end = server.processor_s()?;
        tokio::time::sleep(Duration::from_secs(3)).await;
        let after = server.processor_s()? - end;
        println!(
            "{what}: reads {} ({}), by status {statuses:?}; sign-ins by status {signed:?}; {during:.1} s of processor in {took:.0} s, {after:.2} s in the 3 s after it; {:.0} MB",
            told(&mut waits, Duration::ZERO),
            slowest.join(", "),
            server.resident_mb()?
        );
    }
    Ok(())
}

/// A site of two hundred zones with two years of weather, of which the attacker is a viewer.
async fn large_site(at: &str) -> Result<i64, Failure> {
    let owner = sign_in(at, demo::EMAIL, demo::PASSWORD).await?;
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
    let headers = format!("{owner}{JSON}");
    let made = connection
        .send("POST", "/api/v1/sites", &headers, &document.to_string())
        .await?;
    let site = made.json()?["id"].as_i64().ok_or("no site")?;
    let weather = connection
        .get("/api/v1/sites/1/weather.csv", &owner)
        .await?;
    let text = String::from_utf8(weather.body)?;
    let lines: Vec<&str> = text.lines().collect();
    let kept = [&lines[..1], &lines[lines.len().saturating_sub(740)..]].concat();
    let import = format!("/api/v1/sites/{site}/weather-imports?conflicts=keep");
    let headers = format!("{owner}If-Match: \"1\"\r\nContent-Type: text/csv\r\n");
    let imported = connection
        .send("POST", &import, &headers, &kept.join("\n"))
        .await?;
    if imported.status != 201 {
        return Err(format!("the import answered {}", imported.status).into());
    }
    let invite = serde_json::json!({ "name": "Bram Sedge", "role": "viewer" }).to_string();
    let headers = format!("{owner}{JSON}");
    let invited = connection
        .send(
            "POST",
            &format!("/api/v1/sites/{site}/invitations"),
            &headers,
            &invite,
        )
        .await?;
    let token = invited.json()?["token"]
        .as_str()
        .ok_or("no invitation")?
        .to_owned();
    let viewer = sign_in(at, demo::PEOPLE[3].0, demo::PASSWORD).await?;
    let headers = format!("{viewer}Invitation-Token: {token}\r\n{JSON}");
    let accepted = connection
        .send("POST", "/api/v1/invitation/acceptance", &headers, "{}")
        .await?;
    if !(200..300).contains(&accepted.status) {
        return Err(format!("the invitation answered {}", accepted.status).into());
    }
    Ok(site)
}

/// How long a server goes on computing after who asked has hung up, ms: to the last hundredth of a second in which it took any processor time.
async fn rests_after(server: &Server, cookie: &str, path: &str) -> Result<f64, Failure> {
    let at = &server.address;
    let request = format!(
        "POST {path} HTTP/1.1\r\nHost: {at}\r\nOrigin: http://{at}\r\nContent-Length: 0\r\n{cookie}\r\n"
    );
    let mut stream = TcpStream::connect(at).await?;
    let idle = server.processor_s()?;
    stream.write_all(request.as_bytes()).await?;
    tokio::time::sleep(IN_THE_MIDDLE).await;
    let before = server.processor_s()?;
    drop(stream);
    if before - idle < IN_THE_MIDDLE.as_secs_f64() / 2.0 {
        return Err("the comparison was not under way".into());
    }
    let (begun, mut last, mut took) = (Instant::now(), Duration::ZERO, before);
    while begun.elapsed() < Duration::from_secs(2) {
        tokio::time::sleep(Duration::from_millis(2)).await;
        let now = server.processor_s()?;
        if now > took {
            (last, took) = (begun.elapsed(), now);
        }
    }
    Ok(last.as_secs_f64() * 1e3)
}

/// Asks so often, each time over another connection, and hangs up.
async fn ask_and_hang_up(
    at: String,
    cookie: String,
    method: &'static str,
    paths: Vec<String>,
) -> Result<(), Failure> {
    let begun = tokio::time::Instant::now();
    let mut asked = JoinSet::new();
    let mut n: u64 = 0;
    while begun.elapsed() < ATTACKED {
        tokio::time::sleep_until(begun + Duration::from_millis(n * 1000 / ASKS)).await;
        n += 1;
        let Some(path) = paths.get(usize::try_from(n)? % paths.len().max(1)) else {
            continue;
        };
        let request = format!(
            "{method} {path} HTTP/1.1\r\nHost: {at}\r\nOrigin: http://{at}\r\nContent-Length: 0\r\n{cookie}\r\n"
        );
        let at = at.clone();
        asked.spawn(async move {
            let mut stream = TcpStream::connect(at).await?;
            stream.write_all(request.as_bytes()).await?;
            tokio::time::sleep(HANGS_UP_AFTER).await;
            Ok::<_, Failure>(())
        });
    }
    for done in asked.join_all().await {
        done?;
    }
    Ok(())
}

type ByStatus = BTreeMap<u16, usize>;

/// What was read and how long its answer took.
type Read = (Duration, &'static str);

/// What another member reads meanwhile, at a steady rate; waits count from when each question was due.
async fn reads(at: &str, cookie: &str) -> Result<(Vec<Read>, ByStatus), Failure> {
    let begun = tokio::time::Instant::now();
    let lanes = 8;
    let mut tasks = JoinSet::new();
    for lane in 0..lanes {
        let (at, cookie) = (at.to_owned(), cookie.to_owned());
        tasks.spawn(async move {
            let mut connection = Connection::to(&at).await?;
            let (mut waits, mut statuses) = (Vec::new(), Vec::new());
            let mut n = lane;
            while n < READS * ATTACKED.as_secs() {
                let due = begun + Duration::from_millis(n * 1000 / READS);
                tokio::time::sleep_until(due).await;
                let path = MIX[usize::try_from(n)? % MIX.len()];
                let answer = connection.get(path, &cookie).await?;
                waits.push((due.elapsed(), path));
                statuses.push(answer.status);
                n += lanes;
            }
            Ok::<_, Failure>((waits, statuses))
        });
    }
    let (mut all, mut by_status) = (Vec::new(), ByStatus::new());
    for done in tasks.join_all().await {
        let (waits, statuses) = done?;
        all.extend(waits);
        for status in statuses {
            *by_status.entry(status).or_default() += 1;
        }
    }
    Ok((all, by_status))
}

/// Signs in once a second, by the statuses that it got.
async fn sign_ins(at: String) -> Result<ByStatus, Failure> {
    let mut by_status = ByStatus::new();
    let body = serde_json::json!({ "email": demo::PEOPLE[2].0, "password": demo::PASSWORD });
    for _ in 0..ATTACKED.as_secs() {
        let mut connection = Connection::to(&at).await?;
        let answer = connection
            .send("POST", "/api/v1/session", JSON, &body.to_string())
            .await?;
        *by_status.entry(answer.status).or_default() += 1;
        tokio::time::sleep(Duration::from_secs(1)).await;
    }
    Ok(by_status)
}

/// Sends files as photos from several accounts at once, and tells what the server needed for them at most.
pub(crate) async fn photos(files: &[std::path::PathBuf]) -> Result<(), Failure> {
    let database = Database::start()?;
    db::migrate(&database.url()).await?;
    load_demo(&database.url()).await?;
    let server = Server::start(&database.url(), Server::free_port()?, &LIMITS)?;
    server.ready().await?;
    let at = &server.address;
    let crew = sign_in(at, demo::PEOPLE[2].0, demo::PASSWORD).await?;
    let mut connection = Connection::to(at).await?;
    let seen = serde_json::json!({ "seen": { "seen": "footprints" }, "idempotency_key": "photos-of-load" });
    let headers = format!("{crew}{JSON}");
    let noted = connection
        .send(
            "POST",
            "/api/v1/sites/1/zones/1/seen",
            &headers,
            &seen.to_string(),
        )
        .await?;
    let path = format!("/api/v1/sites/1/seen/{}/photo", noted.json()?["id"]);
    server.forget_peak()?;
    let idle = server.resident_mb()?;
    let begun = Instant::now();
    let mut tasks = JoinSet::new();
    for (email, _, role) in demo::PEOPLE {
        if role == "viewer" {
            continue;
        }
        let cookie = sign_in(at, email, demo::PASSWORD).await?;
        for file in files.iter().cycle().take(files.len() * 4) {
            let (at, path, cookie, body) =
                (at.clone(), path.clone(), cookie.clone(), fs::read(file)?);
            tasks.spawn(async move {
                let head = format!(
                    "PUT {path} HTTP/1.1\r\nHost: {at}\r\nOrigin: http://{at}\r\nContent-Length: {}\r\n{cookie}\r\n",
                    body.len()
                );
                Connection::to(&at).await?.put(&head, &body).await
            });
        }
    }
    let mut by_status = ByStatus::new();
    for answer in tasks.join_all().await {
        *by_status.entry(answer?).or_default() += 1;
    }
    println!(
        "{by_status:?} in {:.1} s; at most {:.0} MB above {idle:.0} MB",
        begun.elapsed().as_secs_f64(),
        server.peak_mb()? - idle
    );
    Ok(())
}
