//! `fresh-meadow serve` and `migrate`.

use std::path::PathBuf;

use clap::Args;
use jiff::SignedDuration;

use super::Failure;
use crate::settings::Settings;

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Settings file (fresh-meadow.example.toml says what it may hold); the environment overrides it.
    #[arg(long, value_name = "FILE.toml")]
    settings: Option<PathBuf>,
}

impl Arguments {
    pub(crate) fn settings(&self) -> Result<Settings, Failure> {
        Ok(Settings::load(self.settings.as_deref(), &|name| {
            std::env::var(name).ok()
        })?)
    }
}

pub(crate) fn runtime() -> Result<tokio::runtime::Runtime, Failure> {
    Ok(tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()?)
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    crate::serve::log_to_stderr();
    crate::memory::give_back_what_is_free();
    let settings = a.settings()?;
    if settings.clock_ahead_s > 0.0 {
        crate::clock::run_ahead(SignedDuration::from_secs_f64(settings.clock_ahead_s));
        tracing::warn!(ahead_s = settings.clock_ahead_s, "the clock runs ahead");
    }
    runtime()?.block_on(async {
        let listener = std::net::TcpListener::bind(settings.listen)
            .map_err(|e| Failure(format!("cannot listen on {}: {e}", settings.listen)))?;
        crate::serve::run(settings, listener, crate::serve::told_to_stop())
            .await
            .map_err(Failure::from)
    })?;
    Ok(String::new())
}

pub(crate) fn migrate(a: &Arguments) -> Result<String, Failure> {
    let settings = a.settings()?;
    runtime()?.block_on(async {
        crate::db::migrate(&settings.database_url).await?;
        Ok::<(), Failure>(())
    })?;
    Ok(String::from("database is current\n"))
}
