//! PostgreSQL: one module a resource; rows become the core's types here and nowhere else.

pub mod accounts;
pub mod attempts;
pub mod constraints;
pub mod controller_doubts;
pub mod controllers;
pub mod devices;
pub mod dry_days;
pub mod edits;
pub mod feeds;
pub mod flow;
pub mod head_faults;
pub mod history;
pub mod invitations;
pub mod kept_sowings;
pub mod ledgers;
pub mod measured;
pub mod meters;
pub mod patches;
pub mod people;
pub mod plans;
pub mod programmes;
pub mod publications;
pub mod regimes;
pub mod runs;
pub mod seen;
pub mod sites;
pub mod soil_tests;
pub mod sprinkler_tests;
pub mod stand_counts;
mod turns;
pub mod weather;
pub mod wet_checks;
pub mod zones;

use std::collections::BTreeMap;
use std::time::Duration;

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use utoipa::ToSchema;

pub use turns::{Db, SiteWrite};

/// A site's identifier.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema,
)]
#[serde(transparent)]
pub struct SiteId(pub i64);

/// A zone's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct ZoneId(pub i64);

/// An account's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct AccountId(pub i64);

/// Longest wait for a connection: who asks is told to come again instead.
const PATIENCE: Duration = Duration::from_secs(2);
/// What a connection bears: for a lock, for a statement, for a transaction that nobody goes on with. A row that somebody holds, or a
/// question that does not end, must not keep a connection from the others.
const LIMITS: [(&str, &str); 3] = [
    ("lock_timeout", "3s"),
    ("statement_timeout", "20s"),
    ("idle_in_transaction_session_timeout", "60s"),
];

/// Connects with a pool of at most so many connections.
///
/// # Errors
/// A malformed address, or no database there.
pub async fn connect(url: &str, most: u32) -> Result<PgPool, sqlx::Error> {
    let options: PgConnectOptions = url.parse()?;
    PgPoolOptions::new()
        .max_connections(most)
        .acquire_timeout(PATIENCE)
        .connect_with(options.application_name("fresh-meadow").options(LIMITS))
        .await
}

static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!();

/// Brings the database to this program's version, however long that takes.
///
/// # Errors
/// A database that another version has changed, or that does not answer.
pub async fn migrate(url: &str) -> Result<(), sqlx::migrate::MigrateError> {
    let options: PgConnectOptions = url.parse()?;
    let pool = PgPoolOptions::new()
        .max_connections(1)
        .connect_with(options.application_name("fresh-meadow migrations"))
        .await?;
    MIGRATIONS.run(&pool).await?;
    pool.close().await;
    Ok(())
}

/// Days of a site.
#[derive(Debug, Clone, Copy)]
pub struct Span {
    /// The site.
    pub site: SiteId,
    /// The first day.
    pub from: Date,
    /// The day after the last.
    pub before: Date,
}

impl Span {
    /// As the columns of a statement.
    fn columns(spans: &[Self]) -> (Vec<i64>, Vec<String>, Vec<String>) {
        let sites = spans.iter().map(|span| span.site.0).collect();
        let from = spans.iter().map(|span| span.from.to_string()).collect();
        let before = spans.iter().map(|span| span.before.to_string()).collect();
        (sites, from, before)
    }
}

/// Sites with a day each, as the columns of a statement.
fn days_of(sites: &[(SiteId, Date)]) -> (Vec<i64>, Vec<String>) {
    let columns = sites.iter().map(|(site, day)| (site.0, day.to_string()));
    columns.unzip()
}

/// Rows by whose they are.
fn grouped<K: Ord, T>(rows: impl IntoIterator<Item = (K, T)>) -> BTreeMap<K, Vec<T>> {
    let mut of: BTreeMap<K, Vec<T>> = BTreeMap::new();
    for (key, row) in rows {
        of.entry(key).or_default().push(row);
    }
    of
}

/// The rows of the only one that was asked about.
fn of_one<K: Ord, T>(mut of: BTreeMap<K, Vec<T>>) -> Vec<T> {
    of.pop_first().map(|(_, rows)| rows).unwrap_or_default()
}

/// A description as JSON, without the keys that have columns or tables of their own.
fn without(described: &impl Serialize, keys: &[&str]) -> sqlx::Result<serde_json::Value> {
    let mut value = serde_json::to_value(described).map_err(undecodable)?;
    if let Some(map) = value.as_object_mut() {
        map.retain(|key, _| !keys.contains(&key.as_str()));
    }
    Ok(value)
}

/// Stored JSON that this program cannot read: a defect, not the user's.
pub(crate) fn undecodable(error: impl std::error::Error + Send + Sync + 'static) -> sqlx::Error {
    sqlx::Error::Decode(Box::new(error))
}

/// Whether an error says that the database is away, full or too busy, so that the same request may succeed later; else it is a defect.
#[must_use]
pub fn is_away(error: &sqlx::Error) -> bool {
    match error {
        sqlx::Error::Io(_)
        | sqlx::Error::Tls(_)
        | sqlx::Error::Protocol(_)
        | sqlx::Error::PoolTimedOut
        | sqlx::Error::PoolClosed
        | sqlx::Error::WorkerCrashed => true,
        // PostgreSQL's appendix A: connection exceptions, rollbacks for a deadlock, no resources, no lock in time, cancelled, shut down,
        // idle in a transaction.
        sqlx::Error::Database(said) => said.code().is_some_and(|code| {
            ["08", "40", "53", "57", "58"]
                .iter()
                .any(|class| code.starts_with(class))
                || matches!(code.as_ref(), "55P03" | "25P03")
        }),
        _ => false,
    }
}
