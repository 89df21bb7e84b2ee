//! A thousand sites replanned by two worker processes on one database: prints sites per second.
//! `cargo bench -p fresh-meadow --bench replan`.

use std::net::TcpListener;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fresh_meadow::db;
use xtask::postgres::Cluster;

const SITES: i64 = 1000;
const PROCESSES: usize = 2;

type Failure = Box<dyn std::error::Error>;

fn main() -> Result<(), Failure> {
    // `cargo test --benches` only asks whether it runs.
    if std::env::args().any(|a| a == "--test") {
        return Ok(());
    }
    let cluster = Cluster::throwaway()?;
    cluster.create_database("bench")?;
    let url = cluster.url("bench");
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()?;
    runtime.block_on(measure(url))
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

async fn measure(url: String) -> Result<(), Failure> {
    db::migrate(&url).await?;
    let pool = db::connect(&url, 2).await?;
    // Three zones a site, 120 days of weather, a forecast of a week; all due at once.
    for statement in [
        "INSERT INTO site (name, time_zone, latitude, longitude, elevation_m, wind_height_m, windows, supply, next_event_at)
         SELECT 'Site ' || i, 'UTC', 36.4, -80.5, 310, 2,
                '[{\"days\":[\"monday\",\"tuesday\",\"wednesday\",\"thursday\",\"friday\",\"saturday\",\"sunday\"],\"from\":\"23:00\",\"to\":\"23:59\"}]',
                '{}', now() + interval '1 day' FROM generate_series(1, 1000) i",
        "INSERT INTO zone (site_id, position, settings, active_from)
         SELECT id, p, '{\"name\":\"Front\",\"grass\":\"tall_fescue\",\"soil\":\"loam\",\"slope_pct\":2,\"area_m2\":400,\"sprinkler\":\"multi_stream\"}',
                current_date - 120 FROM site, generate_series(1, 3) p",
        "INSERT INTO weather_day (site_id, date, tmin_c, tmax_c, rain_mm, origin)
         SELECT id, current_date - d, 15 + d % 4, 29 + d % 5, CASE WHEN (d * 7 + id) % 4 = 0 THEN 9 ELSE 0 END, 'service'
         FROM site, generate_series(1, 120) d",
        "INSERT INTO forecast_day (site_id, issued_at, date, tmin_c, tmax_c, rain_mm, rain_probability_pct)
         SELECT id, now(), current_date + d, 17, 31, 8, 30 FROM site, generate_series(0, 6) d",
        "ANALYZE",
    ] {
        sqlx::query(statement).execute(&pool).await?;
    }
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
    let begin = Instant::now();
    sqlx::query("UPDATE site SET next_event_at = now()")
        .execute(&pool)
        .await?;
    loop {
        let plans: i64 = sqlx::query_scalar("SELECT count(*) FROM plan")
            .fetch_one(&pool)
            .await?;
        if plans >= SITES {
            break;
        }
        if begin.elapsed() > Duration::from_secs(600) {
            return Err(format!("{plans} of {SITES} after ten minutes").into());
        }
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
    let seconds = begin.elapsed().as_secs_f64();
    println!(
        "{SITES} sites of three zones, {PROCESSES} worker processes: {seconds:.1} s, {:.0} sites/s",
        1000.0 / seconds
    );
    Ok(())
}
