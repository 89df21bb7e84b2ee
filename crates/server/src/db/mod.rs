//! PostgreSQL: one module a resource; rows become the core's types here and nowhere else.

pub mod accounts;
pub mod feeds;
pub mod head_faults;
pub mod history;
pub mod people;
pub mod plans;
pub mod runs;
pub mod sites;
pub mod sprinkler_tests;
pub mod weather;
pub mod zones;

use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use sqlx::postgres::{PgConnectOptions, PgPoolOptions};
use utoipa::ToSchema;

/// A site's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct SiteId(pub i64);

/// A zone's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct ZoneId(pub i64);

/// An account's identifier.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct AccountId(pub i64);

/// Connects with a pool of at most so many connections.
///
/// # Errors
/// A malformed address, or no database there.
pub async fn connect(url: &str, most: u32) -> Result<PgPool, sqlx::Error> {
    let options: PgConnectOptions = url.parse()?;
    PgPoolOptions::new()
        .max_connections(most)
        .acquire_timeout(std::time::Duration::from_secs(10))
        .connect_with(options.application_name("fresh-meadow"))
        .await
}

static MIGRATIONS: sqlx::migrate::Migrator = sqlx::migrate!();

/// Brings the database to this program's version.
///
/// # Errors
/// A database that another version has changed, or that does not answer.
pub async fn migrate(pool: &PgPool) -> Result<(), sqlx::migrate::MigrateError> {
    MIGRATIONS.run(pool).await
}

/// Stored JSON that this program cannot read: a defect, not the user's.
pub(crate) fn undecodable(error: impl std::error::Error + Send + Sync + 'static) -> sqlx::Error {
    sqlx::Error::Decode(Box::new(error))
}
