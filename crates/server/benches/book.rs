//! The water book over ten years of runs and of one meter's minutes, by request; and minutes as they come: prints medians.
//! `cargo bench -p fresh-meadow --bench book`.

use std::time::{Duration, Instant};

use fresh_meadow::demo;
use reqwest::Client;

mod served;

use served::{Failure, demo_on, on_a_database, serve};

const ROUNDS: usize = 30;
/// Minutes sent one by one.
const MINUTES: i64 = 500;

/// Ten years before the demo's own: a run of each zone every third day, its ledger, the weather, and every minute of the meter.
const TEN_YEARS: [&str; 4] = [
    "INSERT INTO weather_ledger (site_id, date, et0_mm, method, rain_mm, rain_expected)
     SELECT 1, d, 4, 'hargreaves', 1, false FROM generate_series('2015-03-01'::date, '2025-02-28', '1 day') d",
    "INSERT INTO zone_day (zone_id, date, regime, taw_mm, raw_mm, start_mm, end_mm, etc_mm, eta_mm, ks, rain_mm, effective_rain_mm, rain_runoff_mm,
                           gross_mm, net_mm, runoff_mm, drainage_mm, adjustment_mm, below_mm, below_thickness_mm, variance_mm2, drift, drift_variance)
     SELECT z.id, d, 'established', 50, 25, 10, 12, 3, 3, 1, 1, 1, 0, 2, 1.5, 0, 0, 0, 0, 0, 1, 0, 0
     FROM zone z, generate_series('2015-03-01'::date, '2025-02-28', '1 day') d",
    "INSERT INTO run (zone_id, date, started_at, passes, run_s, source, planned_passes, planned_s, planned_end)
     SELECT z.id, d, d + interval '8 hours' + z.position * interval '20 minutes', 3, 1080, 'confirmed', 3, 1080, d + interval '9 hours'
     FROM zone z, generate_series('2015-03-01'::date, '2025-02-28', '3 days') d",
    "INSERT INTO flow_hour SELECT 1, h, array_fill(1::smallint, ARRAY[60]) FROM generate_series('2015-03-01'::timestamptz, '2026-04-01', '1 hour') h
     ON CONFLICT DO NOTHING",
];

/// A thousand sites like the demo's, each with a flow meter of its own.
const THOUSAND: [&str; 3] = [
    "INSERT INTO site OVERRIDING SYSTEM VALUE
     SELECT (jsonb_populate_record(s, jsonb_build_object('id', n))).* FROM site s, generate_series(1001, 2000) n WHERE s.id = 1",
    "INSERT INTO membership (site_id, account_id, role) SELECT n, m.account_id, 'crew' FROM membership m, generate_series(1001, 2000) n WHERE m.site_id = 1
     ON CONFLICT DO NOTHING",
    "INSERT INTO meter OVERRIDING SYSTEM VALUE
     SELECT (jsonb_populate_record(m, jsonb_build_object('id', n, 'site_id', n))).* FROM meter m, generate_series(1001, 2000) n WHERE m.id = 1",
];
/// Minutes of the import.
const IMPORTED: i64 = 1_000_000;
/// Requests under way at once.
const AT_ONCE: i64 = 8;

fn main() -> Result<(), Failure> {
    on_a_database(measure)
}

async fn measure(database_url: String) -> Result<(), Failure> {
    let pool = demo_on(&database_url).await?;
    for statement in TEN_YEARS {
        sqlx::query(statement).execute(&pool).await?;
    }
    sqlx::query("ANALYZE").execute(&pool).await?;
    let (hours, bytes): (i64, String) = sqlx::query_as(
        "SELECT count(*), pg_size_pretty(pg_total_relation_size('flow_hour')) FROM flow_hour",
    )
    .fetch_one(&pool)
    .await?;
    println!(
        "{} minutes of one meter in {hours} rows, {bytes}",
        hours * 60
    );

    let origin = serve(&database_url)?;
    let client = fresh_meadow::tls::asking(None)?
        .cookie_store(true)
        .build()?;
    let session = format!("{origin}/api/v1/session");
    client
        .post(session)
        .header("origin", &origin)
        .json(&serde_json::json!({ "email": demo::EMAIL, "password": demo::PASSWORD }))
        .send()
        .await?
        .error_for_status()?;
    for (what, path) in [
        (
            "the book of a month, ten years back",
            "book?from=2016-06-01&to=2016-06-30",
        ),
        (
            "of a season of seven months",
            "book?from=2016-04-01&to=2016-10-31",
        ),
        ("of ten years", "book?from=2015-03-01&to=2025-02-28"),
        (
            "day by day: a month of the demo, with the 90 days before it",
            "reconciliation?from=2026-06-01&to=2026-06-17",
        ),
        ("findings: the last 90 days' minutes watched", "findings"),
    ] {
        let url = format!("{origin}/api/v1/sites/1/{path}");
        println!("{what}: median {:?}", asked(&client, &url).await?);
    }
    told(&client, &origin).await?;
    imported(&client, &origin).await?;
    for statement in THOUSAND {
        sqlx::query(statement).execute(&pool).await?;
    }
    told_by_a_thousand(&client, &origin).await
}

async fn asked(client: &Client, url: &str) -> Result<Duration, Failure> {
    let mut times = Vec::new();
    for round in 0..ROUNDS + 3 {
        let begun = Instant::now();
        client
            .get(url)
            .send()
            .await?
            .error_for_status()?
            .bytes()
            .await?;
        // The first rounds warm connections and caches.
        if round >= 3 {
            times.push(begun.elapsed());
        }
    }
    times.sort_unstable();
    Ok(times[times.len() / 2])
}

/// Sends minutes: a week at once, and one by one.
async fn told(client: &Client, origin: &str) -> Result<(), Failure> {
    let url = format!("{origin}/api/v1/sites/1/meters/1/pulses");
    let send = async |from: String, counts: Vec<u16>| {
        let body = serde_json::json!({ "from": from, "counts": counts });
        let request = client.post(&url).header("origin", origin).json(&body);
        request.send().await?.error_for_status()
    };
    let begun = Instant::now();
    send("2014-01-01T00:00:00Z".to_owned(), vec![2; 10_080]).await?;
    println!("a week's minutes kept at once: {:?}", begun.elapsed());
    let first: jiff::Timestamp = "2014-02-01T00:00:00Z".parse()?;
    let begun = Instant::now();
    for minute in 0..MINUTES {
        let from = first + jiff::SignedDuration::from_mins(minute);
        send(from.to_string(), vec![2]).await?;
    }
    let each = begun.elapsed() / u32::try_from(MINUTES)?;
    println!("a minute kept: {each:?}, one after another; 1000 sites a minute leave 60 ms");
    Ok(())
}

/// Sends a file of a million minutes.
async fn imported(client: &Client, origin: &str) -> Result<(), Failure> {
    let first: jiff::Timestamp = "2012-01-01T00:00:00Z".parse()?;
    let mut text = String::from("minute,pulses\n");
    for minute in 0..IMPORTED {
        let at = first + jiff::SignedDuration::from_mins(minute);
        text.push_str(&format!("{at},{}\n", minute % 7));
    }
    let megabytes = text.len() / 1_000_000;
    let url = format!("{origin}/api/v1/sites/1/meters/1/minute-imports");
    let begun = Instant::now();
    let request = client.post(&url).header("origin", origin);
    let done = request.header("content-type", "text/csv").body(text).send();
    let done = done.await?.error_for_status()?.text().await?;
    println!(
        "a file of {IMPORTED} minutes, {megabytes} MB, imported: {:?}: {done}",
        begun.elapsed()
    );
    Ok(())
}

/// A minute of each of a thousand sites.
async fn told_by_a_thousand(client: &Client, origin: &str) -> Result<(), Failure> {
    let begun = Instant::now();
    let mut senders = Vec::new();
    for sender in 0..AT_ONCE {
        let (client, origin) = (client.clone(), origin.to_owned());
        senders.push(tokio::spawn(async move {
            for n in (1001 + sender..=2000).step_by(usize::try_from(AT_ONCE).unwrap_or(1)) {
                let url = format!("{origin}/api/v1/sites/{n}/meters/{n}/pulses");
                let body = serde_json::json!({ "from": "2014-06-01T00:00:00Z", "counts": [3] });
                let request = client.post(&url).header("origin", &origin).json(&body);
                request.send().await?.error_for_status()?;
            }
            Ok::<_, reqwest::Error>(())
        }));
    }
    for sender in senders {
        sender.await??;
    }
    println!("a minute of a thousand sites kept: {:?}", begun.elapsed());
    Ok(())
}
