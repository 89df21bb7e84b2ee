//! Serving: the same `run` in the binary and in tests, which give it a listener of port 0.

use std::net::TcpListener;
use std::time::Duration;

use actix_web::http::Method;
use actix_web::http::header::RETRY_AFTER;
use actix_web::middleware::{Compress, from_fn};
use actix_web::web::{Data, get, to};
use actix_web::{App, HttpRequest, HttpResponse, HttpServer, ResponseError};
use thiserror::Error;
use tracing_actix_web::TracingLogger;
use utoipa_actix_web::AppExt;

use crate::api::{MinuteFiles, PlanAnswers};
use crate::computing::Turns;
use crate::controller_service::ControllerService;
use crate::db::Db;
use crate::http::door::door;
use crate::http::error::ApiError;
use crate::http::headers::headers;
use crate::http::limits::Limits;
use crate::http::picture::Pictures;
use crate::http::query::path_config;
use crate::http::request_id;
use crate::long_work::LongWork;
use crate::settings::Settings;
use crate::weather_service::WeatherService;
use crate::{api, db, first_account, rounds, tls, web};

/// Longest time that a request's head may take to come.
const SLOW_HEAD: Duration = Duration::from_secs(5);
/// How long a connection is kept without a request.
const IDLE: Duration = Duration::from_secs(30);
/// Within which the database must answer for this process to be ready.
const READY_WITHIN: Duration = Duration::from_millis(900);

/// Why the server did not start.
#[derive(Debug, Error)]
pub enum Error {
    /// No database.
    #[error("the database does not answer: {0}")]
    Database(#[from] sqlx::Error),
    /// A database of another version.
    #[error("the database cannot be brought to this version: {0}")]
    Migration(#[from] sqlx::migrate::MigrateError),
    /// The socket.
    #[error("serving failed: {0}")]
    Io(#[from] std::io::Error),
    /// A certificate or key that is none.
    #[error("TLS: {0}")]
    Tls(#[from] tls::Error),
    /// Demo accounts have known passwords.
    #[error(
        "the database holds demo accounts, whose passwords are known: listen on loopback, or use another database"
    )]
    DemoOnOpenAddress,
}

/// Logs to standard error; `RUST_LOG` says how much.
pub fn log_to_stderr() {
    let filter = tracing_subscriber::EnvFilter::try_from_default_env()
        .unwrap_or_else(|_| tracing_subscriber::EnvFilter::new("warn,fresh_meadow=info"));
    // A second call (tests) keeps the first logger.
    let _ = tracing_subscriber::fmt()
        .with_env_filter(filter)
        .with_writer(std::io::stderr)
        .try_init();
}

/// Ends when the process is told to stop, by Ctrl-C or by a service manager. Until it is first waited for, those end the process at once.
pub async fn told_to_stop() {
    use tokio::signal::unix::{SignalKind, signal};
    let (Ok(mut interrupt), Ok(mut terminate)) = (
        signal(SignalKind::interrupt()),
        signal(SignalKind::terminate()),
    ) else {
        tracing::error!("signals cannot be waited for: they end the process at once");
        return std::future::pending().await;
    };
    tokio::select! {
        _ = interrupt.recv() => {}
        _ = terminate.recv() => {}
    }
}

/// Connects, migrates and serves until `shutdown` ends; then lets what it is at finish, two seconds at most, and disconnects.
///
/// # Errors
/// [`Error`].
pub async fn run(
    settings: Settings,
    listener: TcpListener,
    shutdown: impl Future<Output = ()> + Send + 'static,
) -> Result<(), Error> {
    db::migrate(&settings.database_url).await?;
    let pool = db::connect(&settings.database_url, settings.database_connections).await?;
    let address = listener.local_addr()?;
    if !address.ip().is_loopback() && db::accounts::any_demo(&pool).await? {
        return Err(Error::DemoOnOpenAddress);
    }
    tracing::info!(%address, "serving");
    if let Some(code) = first_account::offer(&pool).await? {
        let at = settings.public_origin.clone();
        let at = at.unwrap_or_else(|| format!("http://{address}"));
        // To whoever started it, not to the log.
        println!(
            "Nobody has an account yet. Open {at} and make the first one with the code {code}"
        );
    }
    let db = Db::new(pool.clone());
    let service = WeatherService::of(&settings)?;
    let controllers = ControllerService::of(&settings)?;
    let worker = (settings.work_every_s > 0.0).then(|| {
        let work = rounds::work(db.clone(), settings.clone(), service, controllers);
        tokio::spawn(work)
    });
    let db = Data::new(db);
    let answers = Data::new(PlanAnswers::default());
    let limits = Data::new(Limits::new(&settings));
    let long_work = Data::from(LongWork::new(pool.clone()));
    let turns = Data::new(Turns::default());
    let pictures = Data::new(Pictures::default());
    let minute_files = Data::new(MinuteFiles::default());
    let tls = match &settings.tls {
        Some((certificate, key)) => Some(tls::server(certificate, key)?),
        None => None,
    };
    let settings = Data::new(settings);
    let server = HttpServer::new(move || {
        App::new()
            .app_data(db.clone())
            .app_data(answers.clone())
            .app_data(limits.clone())
            .app_data(long_work.clone())
            .app_data(turns.clone())
            .app_data(pictures.clone())
            .app_data(minute_files.clone())
            .app_data(settings.clone())
            .app_data(path_config())
            .wrap(from_fn(door))
            .wrap(from_fn(headers))
            .wrap(Compress::default())
            .wrap(from_fn(request_id::keep))
            .wrap(TracingLogger::default())
            .route("/healthz", get().to(|| async { "ok\n" }))
            .route("/readyz", get().to(ready))
            .into_utoipa_app()
            .configure(api::configure)
            .into_app()
            .default_service(to(otherwise))
    })
    .workers(2)
    // A browser that closes its side has gone: what it asked for is ended where that is worth it.
    .h1_allow_half_closed(false)
    .client_request_timeout(SLOW_HEAD)
    .keep_alive(IDLE)
    .shutdown_timeout(2)
    .shutdown_signal(shutdown);
    let server = match tls {
        Some(tls) => server.listen_rustls_0_23(listener, tls)?,
        None => server.listen(listener)?,
    };
    server.run().await?;
    if let Some(worker) = worker {
        // What it is at rolls back.
        worker.abort();
    }
    pool.close().await;
    Ok(())
}

/// Ready: the database answers, within a second.
async fn ready(db: Data<Db>) -> HttpResponse {
    let question = sqlx::query_scalar!("SELECT 1 AS \"one!\"").fetch_one(db.pool());
    match tokio::time::timeout(READY_WITHIN, question).await {
        Ok(Ok(_)) => return HttpResponse::Ok().body("ready\n"),
        Ok(Err(error)) => tracing::warn!(%error, "not ready"),
        Err(_) => tracing::warn!("not ready: no answer from the database"),
    }
    HttpResponse::ServiceUnavailable()
        .insert_header((RETRY_AFTER, "2"))
        .body("the database does not answer\n")
}

/// What no route takes: the front end's files and pages; of the API an error.
async fn otherwise(request: HttpRequest) -> HttpResponse {
    if request.path().starts_with("/api") {
        api::unknown(request).await
    } else if *request.method() == Method::GET && !matches!(request.path(), "/healthz" | "/readyz")
    {
        web::serve(request).await
    } else {
        ApiError::WrongMethod("GET, HEAD".to_owned()).error_response()
    }
}
