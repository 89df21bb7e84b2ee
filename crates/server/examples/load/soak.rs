//! Half an hour of bad days: two servers on one database, one of them killed each minute, PostgreSQL restarted once; the Morning mix goes
//! on, with runs noted by phones that send again until they are answered, clock steps and imports. At the end every acknowledged write
//! must be there, and none twice.

use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use fresh_meadow::{db, demo};
use serde_json::Value;
use tokio::task::JoinSet;

use crate::Failure;
use crate::database::Database;
use crate::http::{Connection, JSON, sign_in};
use crate::server::Server;
use crate::speed::{MIX, load_demo};

/// Sites beside the demo's: their runs are noted, their weather imported.
const SITES: usize = 20;
/// Of so many requests one notes a run.
const WRITE_EVERY: u64 = 25;

#[derive(Default)]
struct Counts {
    reads: AtomicU64,
    refused: AtomicU64,
    unanswered: AtomicU64,
    defects: AtomicU64,
    sent_again: AtomicU64,
    steps: AtomicU64,
    broken_steps: AtomicU64,
    imports: AtomicU64,
}

/// What all that ask know.
struct Soak {
    cookie: String,
    servers: [String; 2],
    sites: Vec<i64>,
    zones: Vec<i64>,
    counts: Counts,
    /// Keys of runs that were acknowledged.
    noted: Mutex<Vec<String>>,
    ends: Instant,
}

pub(crate) async fn run(minutes: u64, rate: u64) -> Result<(), Failure> {
    let database = Database::start()?;
    db::migrate(&database.url()).await?;
    load_demo(&database.url()).await?;
    let ports = [Server::free_port()?, Server::free_port()?];
    let mut victim = Server::start(&database.url(), ports[0], &[])?;
    let steady = Server::start(&database.url(), ports[1], &[])?;
    victim.ready().await?;
    steady.ready().await?;
    let cookie = sign_in(&steady.address, demo::EMAIL, demo::PASSWORD).await?;
    let (sites, zones) = more_sites(&steady.address, &cookie).await?;
    let soak = Arc::new(Soak {
        cookie,
        servers: [victim.address.clone(), steady.address.clone()],
        sites,
        zones,
        counts: Counts::default(),
        noted: Mutex::new(Vec::new()),
        ends: Instant::now() + Duration::from_secs(60 * minutes),
    });

    let mut tasks = JoinSet::new();
    let lanes = 20;
    for lane in 0..lanes {
        tasks.spawn(ask(soak.clone(), lane, lanes, rate));
    }
    tasks.spawn(step_clock(soak.clone()));
    tasks.spawn(import(soak.clone()));
    let mut recoveries = Vec::new();
    let mut memory = Vec::new();
    let mut minute = 0;
    while Instant::now() < soak.ends {
        tokio::time::sleep(Duration::from_secs(30)).await;
        memory.push(steady.resident_mb()?);
        victim.kill()?;
        victim = Server::start(&database.url(), ports[0], &[])?;
        let recovery = victim.ready().await?;
        recoveries.push(recovery);
        tokio::time::sleep(Duration::from_secs(30).saturating_sub(recovery)).await;
        minute += 1;
        if minute == minutes.div_ceil(2) {
            let begun = Instant::now();
            // Blocks the questions of this program too, for as long as it takes.
            database.restart()?;
            let down = begun.elapsed();
            let back = steady.ready().await?;
            println!(
                "minute {minute}: PostgreSQL restarted in {:.1} s; a server was ready {:.2} s later",
                down.as_secs_f64(),
                back.as_secs_f64()
            );
        }
        if minute % 5 == 0 {
            println!(
                "minute {minute}: {:.0} MB, {}",
                steady.resident_mb()?,
                soak.told()
            );
        }
    }
    while let Some(ended) = tasks.join_next().await {
        ended?;
    }
    memory.push(steady.resident_mb()?);
    println!(
        "the server that lived on, MB each minute: {}",
        memory
            .iter()
            .map(|mb| format!("{mb:.0}"))
            .collect::<Vec<_>>()
            .join(" ")
    );
    recoveries.sort_unstable();
    println!(
        "{} kills; ready again after {:.2} s (median), {:.2} s (longest)",
        recoveries.len(),
        recoveries[recoveries.len() / 2].as_secs_f64(),
        recoveries[recoveries.len() - 1].as_secs_f64()
    );
    println!("{}", soak.told());
    let pool = db::connect(&database.url(), 2).await?;
    let noted = soak
        .noted
        .lock()
        .unwrap_or_else(PoisonError::into_inner)
        .clone();
    let found: Vec<(String, i64)> = sqlx::query_as(
        "SELECT idempotency_key, count(*) FROM run WHERE idempotency_key = ANY($1) AND voided_at IS NULL GROUP BY 1",
    )
    .bind(&noted)
    .fetch_all(&pool)
    .await?;
    let twice = found.iter().filter(|(_, n)| *n > 1).count();
    let kept: i64 =
        sqlx::query_scalar("SELECT count(*) FROM run WHERE idempotency_key LIKE 'soak-%'")
            .fetch_one(&pool)
            .await?;
    println!(
        "{} runs acknowledged: {} of them in the record, {twice} twice; {kept} rows of this soak in all",
        noted.len(),
        found.len()
    );
    let days: (i64, i64) = sqlx::query_as(
        "SELECT count(*), count(DISTINCT (site_id, day)) FROM site_day WHERE plan_id IS NOT NULL",
    )
    .fetch_one(&pool)
    .await?;
    println!("{} site-days planned, {} of them distinct", days.0, days.1);
    if found.len() == noted.len() && twice == 0 && soak.counts.defects.load(Ordering::Relaxed) == 0
    {
        Ok(())
    } else {
        Err("something was lost, came twice, or broke".into())
    }
}

impl Soak {
    fn told(&self) -> String {
        let n = |count: &AtomicU64| count.load(Ordering::Relaxed);
        let c = &self.counts;
        format!(
            "{} reads answered, {} runs noted ({} sent again), {} steps ({} broke off), {} imports; 503 or 429: {}, no answer: {}, 500: {}",
            n(&c.reads),
            self.noted
                .lock()
                .unwrap_or_else(PoisonError::into_inner)
                .len(),
            n(&c.sent_again),
            n(&c.steps),
            n(&c.broken_steps),
            n(&c.imports),
            n(&c.refused),
            n(&c.unanswered),
            n(&c.defects)
        )
    }

    /// A request over a connection that is kept; a new one is made where it broke. `None`: no answer.
    async fn send(
        &self,
        connection: &mut Option<Connection>,
        server: usize,
        (method, path, headers, body): (&str, &str, &str, &str),
    ) -> Option<u16> {
        if connection.is_none() {
            *connection = Connection::to(&self.servers[server]).await.ok();
        }
        let answer = match connection {
            Some(open) => {
                let headers = format!("{}{headers}", self.cookie);
                open.send(method, path, &headers, body).await.ok()
            }
            None => None,
        };
        let Some(answer) = answer else {
            *connection = None;
            self.counts.unanswered.fetch_add(1, Ordering::Relaxed);
            return None;
        };
        match answer.status {
            503 | 429 => {
                self.counts.refused.fetch_add(1, Ordering::Relaxed);
            }
            500 => {
                self.counts.defects.fetch_add(1, Ordering::Relaxed);
                eprintln!(
                    "{method} {path} answered 500: {}",
                    String::from_utf8_lossy(&answer.body)
                );
            }
            _ => {}
        }
        Some(answer.status)
    }
}

/// One of the lanes: its share of the questions, each when it is due.
async fn ask(soak: Arc<Soak>, lane: u64, lanes: u64, rate: u64) {
    let begun = tokio::time::Instant::now();
    let mut connections = [None, None];
    let mut n = lane;
    while Instant::now() < soak.ends {
        tokio::time::sleep_until(begun + Duration::from_micros(n * 1_000_000 / rate)).await;
        let server = usize::from(n.is_multiple_of(2));
        let connection = &mut connections[server];
        if n.is_multiple_of(WRITE_EVERY) {
            note_run(&soak, connection, server, n).await;
        } else {
            let path = MIX[usize::try_from(n).unwrap_or(0) % MIX.len()];
            let status = soak
                .send(
                    connection,
                    server,
                    ("GET", path, "Accept-Encoding: gzip\r\n", ""),
                )
                .await;
            if status == Some(200) {
                soak.counts.reads.fetch_add(1, Ordering::Relaxed);
            }
        }
        n += lanes;
    }
}

/// Notes a run as a phone does: with a key, sent again until it is answered.
async fn note_run(soak: &Soak, connection: &mut Option<Connection>, server: usize, n: u64) {
    let at = usize::try_from(n).unwrap_or(0) % soak.sites.len();
    let key = format!("soak-{n:08}");
    // A second each, over the last days by the real clock.
    let second = i64::try_from(n).unwrap_or(0) % 500_000;
    let started = jiff::Timestamp::now()
        .as_second()
        .saturating_sub(600_000)
        .saturating_add(second);
    let started =
        jiff::Timestamp::from_second(started).map_or_else(|_| String::new(), |t| t.to_string());
    let body = serde_json::json!({ "zone": soak.zones[at], "started_at": started, "seconds": 60, "how": "hose", "idempotency_key": key });
    let path = format!("/api/v1/sites/{}/runs", soak.sites[at]);
    let body = body.to_string();
    for attempt in 0..120 {
        if attempt > 0 {
            soak.counts.sent_again.fetch_add(1, Ordering::Relaxed);
            tokio::time::sleep(Duration::from_millis(500)).await;
        }
        match soak
            .send(connection, server, ("POST", &path, JSON, &body))
            .await
        {
            Some(200 | 201) => {
                soak.noted
                    .lock()
                    .unwrap_or_else(PoisonError::into_inner)
                    .push(key);
                return;
            }
            // Another run of the zone at that second: not this soak's.
            Some(409) => return,
            _ => {}
        }
    }
}

/// Steps the demo's clock a day on, again and again; each step from where the clock stands.
async fn step_clock(soak: Arc<Soak>) {
    let mut connection = None;
    while Instant::now() < soak.ends {
        tokio::time::sleep(Duration::from_secs(7)).await;
        let Ok(mut look) = Connection::to(&soak.servers[1]).await else {
            continue;
        };
        let Ok(site) = look.get("/api/v1/sites/1", &soak.cookie).await else {
            continue;
        };
        let now = site.json().map_or(Value::Null, |s| s["now"].clone());
        let body = serde_json::json!({ "from": now, "days": 1 }).to_string();
        let server = usize::from(soak.counts.steps.load(Ordering::Relaxed).is_multiple_of(2));
        let answered = soak
            .send(
                &mut connection,
                server,
                ("POST", "/api/v1/sites/1/clock-steps", JSON, &body),
            )
            .await;
        connection = None;
        let count = if answered == Some(200) {
            &soak.counts.steps
        } else {
            &soak.counts.broken_steps
        };
        count.fetch_add(1, Ordering::Relaxed);
    }
}

/// Imports two hundred days into one of the sites, again and again.
async fn import(soak: Arc<Soak>) {
    let mut connection = None;
    let mut n = 0_usize;
    while Instant::now() < soak.ends {
        tokio::time::sleep(Duration::from_secs(5)).await;
        n += 1;
        let site = soak.sites[n % soak.sites.len()];
        let Ok(mut look) = Connection::to(&soak.servers[1]).await else {
            continue;
        };
        let Ok(view) = look
            .get(&format!("/api/v1/sites/{site}"), &soak.cookie)
            .await
        else {
            continue;
        };
        let version = view
            .json()
            .map_or(Value::Null, |s| s["weather_version"].clone());
        let headers = format!("If-Match: \"{version}\"\r\nContent-Type: text/csv\r\n");
        let path = format!("/api/v1/sites/{site}/weather-imports?conflicts=replace");
        let answered = soak
            .send(
                &mut connection,
                n % 2,
                ("POST", &path, &headers, &weather(n)),
            )
            .await;
        if answered == Some(201) {
            soak.counts.imports.fetch_add(1, Ordering::Relaxed);
        }
    }
}

/// Two hundred days up to yesterday.
fn weather(n: usize) -> String {
    let today = jiff::Zoned::now().date();
    let mut text = String::from("date,tmin_c,tmax_c,rain_mm\n");
    for back in 1..=200_i64 {
        let day = today.saturating_sub(jiff::Span::new().days(back));
        let rain = (back + i64::try_from(n).unwrap_or(0)) % 5 * 2;
        text.push_str(&format!("{day},17,{},{rain}\n", 24 + back % 9));
    }
    text
}

/// Sites with the demo's first zone, on real clocks; their numbers and those of their zones.
async fn more_sites(at: &str, cookie: &str) -> Result<(Vec<i64>, Vec<i64>), Failure> {
    let mut document: Value = serde_json::from_str(demo::SITE)?;
    let first = document["zones"][0].clone();
    document["zones"] = serde_json::json!([first]);
    let headers = format!("{cookie}{JSON}");
    let mut connection = Connection::to(at).await?;
    let (mut sites, mut zones) = (Vec::new(), Vec::new());
    for _ in 0..SITES {
        let made = connection
            .send("POST", "/api/v1/sites", &headers, &document.to_string())
            .await?;
        let site = made.json()?["id"].as_i64().ok_or("no site")?;
        let listed = connection
            .get(&format!("/api/v1/sites/{site}/zones"), cookie)
            .await?;
        zones.push(listed.json()?[0]["id"].as_i64().ok_or("no zone")?);
        sites.push(site);
    }
    Ok((sites, zones))
}
