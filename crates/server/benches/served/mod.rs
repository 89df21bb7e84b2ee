//! What the benches share: a database of their own, and the application served on it.

use std::net::TcpListener;

use fresh_meadow::settings::Settings;
use fresh_meadow::weather_service::WeatherService;
use fresh_meadow::{db, demo, serve};
use xtask::postgres::Cluster;

pub type Failure = Box<dyn std::error::Error>;

/// Runs a measurement on an empty database; nothing where it is only asked whether it runs (`cargo test --benches`).
pub fn on_a_database<F: Future<Output = Result<(), Failure>>>(
    measure: impl FnOnce(String) -> F,
) -> Result<(), Failure> {
    if std::env::args().any(|a| a == "--test") {
        return Ok(());
    }
    let cluster = Cluster::throwaway()?;
    cluster.create_database("bench")?;
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()?;
    runtime.block_on(measure(cluster.url("bench")))
}

/// Loads the demo, with a weather service of its own; a pool of two connections.
#[allow(dead_code)] // not by each of them
pub async fn demo_on(database_url: &str) -> Result<sqlx::PgPool, Failure> {
    db::migrate(database_url).await?;
    let pool = db::connect(database_url, 2).await?;
    let weather = TcpListener::bind("127.0.0.1:0")?;
    let service = WeatherService::new(&format!("http://{}", weather.local_addr()?))?;
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(standins::service::run(weather))
    });
    demo::load(&pool, &service, None).await?;
    Ok(pool)
}

/// Serves the application without workers and limits; its address.
#[allow(dead_code)] // not by each of them
pub fn serve(database_url: &str) -> Result<String, Failure> {
    let listener = TcpListener::bind("127.0.0.1:0")?;
    let origin = format!("http://{}", listener.local_addr()?);
    let settings = Settings {
        listen: listener.local_addr()?,
        work_every_s: 0.0,
        account_requests_per_s: 0,
        peer_requests_per_s: 0,
        ..Settings::load(None, &|name| {
            (name == "FRESH_MEADOW_DATABASE_URL").then(|| database_url.to_owned())
        })?
    };
    std::thread::spawn(move || {
        actix_web::rt::System::new().block_on(serve::run(
            settings,
            listener,
            std::future::pending(),
        ))
    });
    Ok(origin)
}
