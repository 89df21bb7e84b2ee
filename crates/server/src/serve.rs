//! Serving: the same `run` in the binary and in tests, which give it a listener of port 0.

use std::net::TcpListener;

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{HOST, HeaderName, HeaderValue, ORIGIN};
use actix_web::middleware::{Compress, Next, from_fn};
use actix_web::web::{Data, PayloadConfig, get};
use actix_web::{App, HttpResponse, HttpServer};
use sqlx::PgPool;
use thiserror::Error;
use tracing_actix_web::TracingLogger;
use utoipa_actix_web::AppExt;

use crate::api::error::ApiError;
use crate::api::request_id;
use crate::settings::Settings;
use crate::{api, db, rounds, web};

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
    let pool = db::connect(&settings.database_url, settings.database_connections).await?;
    db::migrate(&pool).await?;
    let address = listener.local_addr()?;
    if !address.ip().is_loopback() && db::accounts::any_demo(&pool).await? {
        return Err(Error::DemoOnOpenAddress);
    }
    tracing::info!(%address, "serving");
    let worker = (settings.work_every_s > 0.0)
        .then(|| tokio::spawn(rounds::work(pool.clone(), settings.clone())));
    let connections = pool.clone();
    let pool = Data::new(pool);
    let settings = Data::new(settings);
    HttpServer::new(move || {
        App::new()
            .app_data(pool.clone())
            .app_data(settings.clone())
            .app_data(PayloadConfig::new(api::LARGEST_BODY))
            .wrap(from_fn(same_origin))
            .wrap(from_fn(headers))
            .wrap(Compress::default())
            .wrap(from_fn(request_id::keep))
            .wrap(TracingLogger::default())
            .route("/healthz", get().to(|| async { "ok\n" }))
            .route("/readyz", get().to(ready))
            .into_utoipa_app()
            .configure(api::configure)
            .into_app()
            .default_service(get().to(web::serve))
    })
    .workers(2)
    .shutdown_timeout(2)
    .shutdown_signal(shutdown)
    .listen(listener)?
    .run()
    .await?;
    if let Some(worker) = worker {
        // What it is at rolls back.
        worker.abort();
    }
    connections.close().await;
    Ok(())
}

/// Ready: the database answers.
async fn ready(pool: Data<PgPool>) -> HttpResponse {
    match sqlx::query_scalar!("SELECT 1 AS \"one!\"")
        .fetch_one(pool.as_ref())
        .await
    {
        Ok(_) => HttpResponse::Ok().body("ready\n"),
        Err(error) => {
            tracing::warn!(%error, "not ready");
            HttpResponse::ServiceUnavailable().body("the database does not answer\n")
        }
    }
}

/// Refuses what changes something and does not come from the application's own pages.
async fn same_origin(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, actix_web::Error> {
    let safe = matches!(
        *request.method(),
        Method::GET | Method::HEAD | Method::OPTIONS
    );
    if !safe && !is_own(&request) {
        return Err(ApiError::ForeignOrigin.into());
    }
    next.call(request).await
}

fn is_own(request: &ServiceRequest) -> bool {
    let header = |name| {
        request
            .headers()
            .get(name)
            .and_then(|v: &HeaderValue| v.to_str().ok())
    };
    let Some(origin) = header(ORIGIN) else {
        return false;
    };
    let public = request
        .app_data::<Data<Settings>>()
        .and_then(|s| s.public_origin.as_deref());
    match public {
        Some(public) => origin == public,
        None => header(HOST).is_some_and(|host| origin == format!("http://{host}")),
    }
}

/// Headers that every answer carries.
async fn headers(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, actix_web::Error> {
    let mut response = next.call(request).await?;
    // Styles are set by script on elements, which counts as inline style; scripts come from files alone.
    const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; \
                          object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";
    for (name, value) in [
        ("content-security-policy", POLICY),
        ("x-content-type-options", "nosniff"),
        ("referrer-policy", "same-origin"),
        ("x-frame-options", "DENY"),
    ] {
        response.headers_mut().insert(
            HeaderName::from_static(name),
            HeaderValue::from_static(value),
        );
    }
    Ok(response)
}
