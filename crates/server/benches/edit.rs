//! A person's change of a day on a site of forty zones, as its page asks for it: tried, kept, undone; beside a replan that changes nothing, taken in turns, without and
//! with a published week; then heat, drought and scarce water as their pages ask for them. `cargo bench -p fresh-meadow --bench edit`.

use std::time::{Duration, Instant};

use fresh_meadow::{db, password, planning};
use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use lawn::site::{SiteDocument, Zone};
use lawn::weather::WeatherDay;
use reqwest::{Client, Method, StatusCode};
use serde_json::{Value, json};
use sqlx::PgPool;

mod served;

use served::{Failure, on_a_database, serve};

const SITE: &str = include_str!("../../../docs/formats/site.example.json");
const EMAIL: &str = "hazel@meadow.example";
const PASSWORD: &str = "three dry days";
const TODAY: Date = Date::constant(2026, 6, 18);
const ROUNDS: usize = 40;

fn main() -> Result<(), Failure> {
    on_a_database(measure)
}

/// Forty sprays on slow ground, some three passes each, every night six and a half hours.
fn document() -> Result<SiteDocument, Failure> {
    let mut site = lawn::site::document::read(SITE).map_err(|e| e.to_string())?;
    let spray = |zone: &&Zone| zone.sprinkler == science::sprinkler::Kind::FixedSpray;
    let lawn = site
        .zones
        .iter()
        .find(spray)
        .ok_or("the example has sprays")?;
    let lawn = Zone {
        active_from: None,
        soil: science::soil::Texture::ClayLoam,
        ..lawn.clone()
    };
    site.zones = (1..=40)
        .map(|n| Zone {
            id: format!("lawn-{n}"),
            name: format!("Lawn {n}"),
            ..lawn.clone()
        })
        .collect();
    for window in &mut site.windows {
        window.days = lawn::site::Weekday::ALL.to_vec();
        window.from = jiff::civil::time(0, 0, 0, 0);
        window.to = jiff::civil::time(6, 30, 0, 0);
    }
    Ok(site)
}

/// Four hundred and twenty days, as many as a ledger of dormancy reads and more, a wet one in six.
fn days() -> Vec<WeatherDay> {
    (1..=420_i32)
        .map(|back| WeatherDay {
            date: TODAY.saturating_sub(i64::from(back).days()),
            tmin_c: Some(15.0 + f64::from(back % 4)),
            tmax_c: Some(28.0 + f64::from(back % 5)),
            rain_mm: Some(if back % 6 == 5 { 11.0 } else { 0.0 }),
            ..WeatherDay::default()
        })
        .collect()
}

async fn fill(pool: &PgPool) -> Result<(), Failure> {
    let hash = password::hash(PASSWORD.to_owned())
        .await
        .map_err(|e| e.to_string())?;
    let owner = db::accounts::insert(pool, EMAIL, "Hazel Fern", &hash, false).await?;
    let owner = owner.ok_or("the account is new")?;
    let document = document()?;
    let now: Timestamp = "2026-06-18T07:30:00-04:00".parse()?;
    let site = db::sites::insert(pool, &document, Some(now)).await?;
    db::sites::add_member(pool, site, owner, "owner").await?;
    for zone in &document.zones {
        db::zones::insert(pool, site, zone).await?;
    }
    let mut tx = pool.begin().await?;
    db::weather::upsert_days(&mut *tx, site, &days(), "service", None).await?;
    tx.commit().await?;
    Ok(())
}

struct Asked {
    client: Client,
    site: String,
}

impl Asked {
    async fn send(&self, method: Method, path: &str, body: Value) -> Result<Value, Failure> {
        let address = format!("{}{path}", self.site);
        let origin = self.site.split("/api").next().unwrap_or_default();
        let asked = self
            .client
            .request(method, address)
            .header("origin", origin);
        let answer = asked.json(&body).send().await?;
        let status = answer.status();
        let text = answer.text().await?;
        if status == StatusCode::NO_CONTENT {
            return Ok(Value::Null);
        }
        if !status.is_success() {
            return Err(format!("{path}: {status} {text}").into());
        }
        Ok(serde_json::from_str(&text)?)
    }
}

async fn measure(database_url: String) -> Result<(), Failure> {
    db::migrate(&database_url).await?;
    let pool = db::connect(&database_url, 2).await?;
    fill(&pool).await?;
    let origin = serve(&database_url)?;
    let client = fresh_meadow::tls::asking(None)?
        .cookie_store(true)
        .build()?;
    client
        .post(format!("{origin}/api/v1/session"))
        .header("origin", &origin)
        .json(&json!({ "email": EMAIL, "password": PASSWORD }))
        .send()
        .await?;
    let asked = Asked {
        client,
        site: format!("{origin}/api/v1/sites/1"),
    };
    asked.send(Method::POST, "/plans", Value::Null).await?;
    in_turns(&asked, &pool, "nothing published").await?;
    let plan = asked.send(Method::GET, "/plan", Value::Null).await?;
    let publish = json!({ "plan": plan["current"]["id"], "idempotency_key": "bench-publish" });
    asked.send(Method::POST, "/publications", publish).await?;
    in_turns(&asked, &pool, "a published week").await?;
    for path in ["/stress", "/scarcity", "/scarcity?litres=40000"] {
        let mut took = Vec::new();
        for _ in 0..ROUNDS {
            let begun = Instant::now();
            asked.send(Method::GET, path, Value::Null).await?;
            took.push(begun.elapsed());
        }
        took.sort();
        println!(
            "GET {path}, forty zones: {:?} in the middle of {ROUNDS}",
            took[ROUNDS / 2]
        );
    }
    Ok(())
}

async fn in_turns(asked: &Asked, pool: &PgPool, what: &str) -> Result<(), Failure> {
    let mut took: [Vec<Duration>; 5] = Default::default();
    for round in 0..ROUNDS + 5 {
        let zone = 1 + round % 40;
        let edit = json!({ "act": { "kind": "minutes", "run_minutes": 20 + round % 7 }, "date": TODAY.saturating_add(2.days()),
            "idempotency_key": format!("bench-{what}-{round}").replace(' ', "-") });
        let path = format!("/zones/{zone}/edits");
        let mut times = Vec::new();
        let mut timed = Instant::now();
        asked.send(Method::POST, "/plans", Value::Null).await?;
        times.push(timed.elapsed());
        timed = Instant::now();
        asked
            .send(Method::POST, &format!("{path}/preview"), edit.clone())
            .await?;
        times.push(timed.elapsed());
        timed = Instant::now();
        asked.send(Method::POST, &path, edit).await?;
        times.push(timed.elapsed());
        let edits = asked.send(Method::GET, "/edits", Value::Null).await?;
        let undo = format!("/edits/{}", edits["undo"]["id"]);
        timed = Instant::now();
        asked.send(Method::DELETE, &undo, Value::Null).await?;
        times.push(timed.elapsed());
        // What the server computes for it: all that is known read, planned, written and rolled back.
        let mut tx = pool.begin().await?;
        timed = Instant::now();
        planning::replan(&mut tx, db::SiteId(1)).await?;
        times.push(timed.elapsed());
        tx.rollback().await?;
        // The first rounds warm connections and caches.
        if round >= 5 {
            for (of, time) in took.iter_mut().zip(times) {
                of.push(time);
            }
        }
    }
    let [replan, tried, kept, undone, recompute] = took.map(median);
    println!(
        "forty zones, {what}: recompute {recompute:?}; by request: a replan {replan:?}, a change tried {tried:?}, kept {kept:?}, undone {undone:?}"
    );
    println!(
        "  a change against a replan: {:.2}",
        kept.as_secs_f64() / replan.as_secs_f64()
    );
    Ok(())
}

fn median(mut times: Vec<Duration>) -> Duration {
    times.sort_unstable();
    times[times.len() / 2]
}
