//! A thousand sites of three zones with three years of record, replanned on a new day by two worker processes on one database: sites per second.
//! Then in one process, in turns: a site with ten years of record against one with one. And what stored plans take.
//! `cargo bench -p fresh-meadow --bench replan`.

use std::net::TcpListener;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fresh_meadow::db::{self, SiteId};
use fresh_meadow::planning;
use sqlx::postgres::PgPoolOptions;
use sqlx::{Connection, PgPool};

mod served;

use served::{Failure, on_a_database};

const SITES: i64 = 1000;
const PROCESSES: usize = 2;

fn main() -> Result<(), Failure> {
    on_a_database(measure)
}

/// Kills the workers in all cases.
struct Workers(Vec<Child>);

impl Drop for Workers {
    fn drop(&mut self) {
        for child in &mut self.0 {
            // It may have ended by itself.
            let _ = child.kill();
            let _ = child.wait();
        }
    }
}

/// Sites that are replanned in turns, of each kind.
const IN_TURNS: i64 = 150;

/// Adds sites with a record of some days up to yesterday and a forecast of a week; none is due.
async fn add(pool: &PgPool, sites: i64, days: i32) -> Result<(), Failure> {
    let first: i64 = sqlx::query_scalar("SELECT coalesce(max(id), 0) + 1 FROM site")
        .fetch_one(pool)
        .await?;
    sqlx::query(
        "INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply, next_event_at)
         SELECT 'Site ' || i, 'UTC', 36.4, -80.5, 310, 2,
                '[{\"days\":[\"monday\",\"tuesday\",\"wednesday\",\"thursday\",\"friday\",\"saturday\",\"sunday\"],\"from\":\"23:00\",\"to\":\"23:59\"}]',
                '{}', now() + interval '1 day' FROM generate_series(1, $1) i",
    )
    .bind(sites)
    .execute(pool)
    .await?;
    let statements = [
        "INSERT INTO zone (site_id, position, settings, active_from)
         SELECT id, p, '{\"name\":\"Front\",\"grass\":\"tall_fescue\",\"soil\":\"loam\",\"slope_pct\":2,\"area_m2\":400,\"sprinkler\":\"multi_stream\"}',
                current_date - $2::int FROM site, generate_series(1, 3) p WHERE id >= $1",
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin)
         SELECT id, current_date - d, 15 + d % 4, 29 + d % 5, CASE WHEN (d * 7 + id) % 4 = 0 THEN 9 ELSE 0 END, 'service'
         FROM site, generate_series(1, $2::int) d WHERE id >= $1",
        "INSERT INTO forecast_day (site_id, issued_at, date, tmin_c, tmax_c, rain_mm, rain_probability_pct)
         SELECT id, now(), current_date + d, 17, 31, 8, 30 FROM site, generate_series(0, 6) d WHERE id >= $1 AND $2 > 0",
    ];
    for statement in statements {
        sqlx::query(statement)
            .bind(first)
            .bind(days)
            .execute(pool)
            .await?;
    }
    Ok(())
}

/// Makes what was planned yesterday's, so that a new day is to be planned.
const NEXT_MORNING: [&str; 4] = [
    "UPDATE plan SET today = today - 1, made_at = made_at - interval '1 day', in_force = true, digest = NULL",
    "DELETE FROM weather_ledger WHERE date = current_date - 1",
    "DELETE FROM zone_day WHERE date = current_date - 1",
    "DELETE FROM site_day",
];

async fn next_morning(pool: &PgPool) -> Result<(), Failure> {
    for statement in NEXT_MORNING.into_iter().chain(["VACUUM ANALYZE"]) {
        sqlx::query(statement).execute(pool).await?;
    }
    Ok(())
}

async fn measure(url: String) -> Result<(), Failure> {
    db::migrate(&url).await?;
    let pool = PgPoolOptions::new()
        .max_connections(2)
        .connect(&url)
        .await?;
    add(&pool, SITES, 3 * 365).await?;
    let mut workers = Workers(Vec::new());
    for _ in 0..PROCESSES {
        let port = TcpListener::bind("127.0.0.1:0")?.local_addr()?.port();
        workers.0.push(
            Command::new(env!("CARGO_BIN_EXE_fresh-meadow"))
                .arg("serve")
                .env("FRESH_MEADOW_DATABASE_URL", &url)
                .env("FRESH_MEADOW_LISTEN", format!("127.0.0.1:{port}"))
                .env("FRESH_MEADOW_WORK_EVERY_S", "0.05")
                .stdin(Stdio::null())
                .stdout(Stdio::null())
                .stderr(Stdio::null())
                .spawn()?,
        );
    }
    // Both are up and idle before the work is there.
    tokio::time::sleep(Duration::from_secs(2)).await;
    let whole = rounds(&pool).await?;
    println!(
        "{SITES} sites of three zones, three years of record, {PROCESSES} worker processes; their first plan, all ledgers made: {:.0} sites/s",
        1000.0 / whole
    );
    for _ in 0..3 {
        next_morning(&pool).await?;
        println!(
            "a new morning: {:.0} sites/s",
            1000.0 / rounds(&pool).await?
        );
    }
    drop(workers);
    stored(&pool).await?;
    in_turns(&pool).await
}

/// Lets all sites be due and waits until each has a new plan; seconds.
async fn rounds(pool: &PgPool) -> Result<f64, Failure> {
    let begin = Instant::now();
    sqlx::query("UPDATE site SET next_event_at = now()")
        .execute(pool)
        .await?;
    loop {
        let left: i64 =
            sqlx::query_scalar("SELECT count(*) FROM site WHERE next_event_at <= now()")
                .fetch_one(pool)
                .await?;
        if left == 0 {
            return Ok(begin.elapsed().as_secs_f64());
        }
        if begin.elapsed() > Duration::from_secs(900) {
            return Err(format!("{left} of {SITES} left after a quarter of an hour").into());
        }
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

/// What the stored plans of a site take in a year: each that was in force for sixty days (three events a day), then one a day.
async fn stored(pool: &PgPool) -> Result<(), Failure> {
    let bytes: f64 = sqlx::query_scalar(
        "SELECT (SELECT sum(pg_total_relation_size(t::regclass)) FROM unnest(ARRAY['plan', 'planned_run', 'planned_hold',
                'planned_use']) t)::float8 / (SELECT count(*) FROM plan)",
    )
    .fetch_one(pool)
    .await?;
    let plans = 60.0 * 3.0 + 305.0;
    println!(
        "a stored plan of three zones takes {:.1} kB, {plans} of a site-year {:.1} MB",
        bytes / 1e3,
        bytes * plans / 1e6
    );
    Ok(())
}

/// A site with ten years of record against one with one, on a new morning.
async fn in_turns(pool: &PgPool) -> Result<(), Failure> {
    let first: i64 = sqlx::query_scalar("SELECT max(id) + 1 FROM site")
        .fetch_one(pool)
        .await?;
    add(pool, IN_TURNS, 365).await?;
    add(pool, IN_TURNS, 10 * 365).await?;
    let mut connection = pool.acquire().await?;
    let mut times = [Vec::new(), Vec::new()];
    for measured in [false, true] {
        if measured {
            next_morning(pool).await?;
        }
        for i in 0..IN_TURNS {
            for (kind, times) in times.iter_mut().enumerate() {
                let site = SiteId(first + i + if kind == 0 { 0 } else { IN_TURNS });
                let begin = Instant::now();
                let mut tx = connection.begin().await?;
                planning::replan(&mut tx, site).await?;
                tx.commit().await?;
                if measured {
                    times.push(begin.elapsed());
                }
            }
        }
    }
    let [one, ten] = times.map(median);
    println!(
        "a replan with one year of record {:.2} ms, with ten {:.2} ms: {:.2} times",
        one * 1e3,
        ten * 1e3,
        ten / one
    );
    Ok(())
}

/// Seconds.
fn median(mut times: Vec<Duration>) -> f64 {
    times.sort_unstable();
    times[times.len() / 2].as_secs_f64()
}
