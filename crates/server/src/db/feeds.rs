//! Subscriptions to weather services.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use serde_json::Value;
use sqlx::PgExecutor;

use super::SiteId;

/// A site's subscription.
#[derive(Debug, Clone)]
pub struct Feed {
    /// The site.
    pub site: SiteId,
    /// Who provides it.
    pub provider: String,
    /// What it is asked with, by name.
    pub parameters: Value,
    /// The site's instant of the last answer that could be used.
    pub last_success_at: Option<Timestamp>,
    /// Failures since.
    pub failures: i32,
    /// The last failure.
    pub last_error: Option<String>,
    /// When it is asked next, by the real clock.
    pub next_fetch_at: Timestamp,
}

/// The subscription of a site.
pub async fn get(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Feed>> {
    let row = sqlx::query!("SELECT * FROM weather_feed WHERE site_id = $1", site.0)
        .fetch_optional(db)
        .await?;
    Ok(row.map(|r| Feed {
        site: SiteId(r.site_id),
        provider: r.provider,
        parameters: r.parameters,
        last_success_at: r.last_success_at.map(jiff_sqlx::Timestamp::to_jiff),
        failures: r.failures,
        last_error: r.last_error,
        next_fetch_at: r.next_fetch_at.to_jiff(),
    }))
}

/// Subscribes a site, or changes what it subscribes to.
pub async fn connect(
    db: impl PgExecutor<'_>,
    site: SiteId,
    provider: &str,
    parameters: &Value,
) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO weather_feed (site_id, provider, parameters) VALUES ($1, $2, $3)
         ON CONFLICT (site_id) DO UPDATE SET provider = $2, parameters = $3, failures = 0, last_error = NULL, next_fetch_at = now()",
        site.0,
        provider,
        parameters
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Ends a subscription; what it brought stays.
pub async fn disconnect(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<bool> {
    let done = sqlx::query!("DELETE FROM weather_feed WHERE site_id = $1", site.0)
        .execute(db)
        .await?;
    Ok(done.rows_affected() > 0)
}

/// The last day that the service has brought.
pub async fn last_day(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Date>> {
    let last = sqlx::query_scalar!(
        "SELECT max(date) FROM weather_day WHERE site_id = $1 AND origin = 'service'",
        site.0
    )
    .fetch_one(db)
    .await?;
    Ok(last.map(jiff_sqlx::Date::to_jiff))
}

/// Claims a subscription of a real-clock site that is due, for two minutes: a worker that dies leaves it to the next.
pub async fn claim(db: impl PgExecutor<'_>) -> sqlx::Result<Option<SiteId>> {
    let site = sqlx::query_scalar!(
        "UPDATE weather_feed SET next_fetch_at = now() + interval '2 minutes'
         WHERE site_id = (SELECT f.site_id FROM weather_feed f JOIN site s ON s.id = f.site_id
                          WHERE s.simulated_now IS NULL AND f.next_fetch_at <= now()
                          ORDER BY f.next_fetch_at LIMIT 1 FOR UPDATE OF f SKIP LOCKED)
         RETURNING site_id"
    )
    .fetch_optional(db)
    .await?;
    Ok(site.map(SiteId))
}

/// Notes an answer that could be used; asked again in three hours.
pub async fn succeeded(
    db: impl PgExecutor<'_>,
    site: SiteId,
    site_now: Timestamp,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE weather_feed SET last_success_at = $2, failures = 0, last_error = NULL, next_fetch_at = now() + interval '3 hours'
         WHERE site_id = $1",
        site.0,
        site_now.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes a failure; asked again after one minute, two, four, up to about an hour. `true` if it is the first since the last answer that
/// could be used.
pub async fn failed(db: impl PgExecutor<'_>, site: SiteId, error: &str) -> sqlx::Result<bool> {
    let failures = sqlx::query_scalar!(
        "UPDATE weather_feed SET failures = failures + 1, last_error = $2,
                next_fetch_at = now() + interval '1 minute' * least(power(2, failures), 64)
         WHERE site_id = $1 RETURNING failures",
        site.0,
        error
    )
    .fetch_optional(db)
    .await?;
    Ok(failures == Some(1))
}
