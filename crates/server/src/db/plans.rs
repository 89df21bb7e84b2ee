//! Plans: append-only results.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::changes::Change;
use lawn::week_plan::WeekPlan;
use serde_json::Value;
use sqlx::PgExecutor;

use super::{SiteId, undecodable};

/// A plan as it is stored.
pub struct StoredPlan {
    /// Its identifier.
    pub id: i64,
    /// The site's instant at which it was made.
    pub made_at: Timestamp,
    /// The result, as JSON.
    pub result: Value,
    /// What it changes against the morning before, as JSON.
    pub changes: Value,
}

/// The newest plan of a site.
pub async fn newest(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<StoredPlan>> {
    let row = sqlx::query!(
        "SELECT id, made_at, result, changes FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1",
        site.0
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| StoredPlan {
        id: r.id,
        made_at: r.made_at.to_jiff(),
        result: r.result,
        changes: r.changes,
    }))
}

/// The last plan made for an earlier day than a date.
pub async fn before(
    db: impl PgExecutor<'_>,
    site: SiteId,
    today: Date,
) -> sqlx::Result<Option<Value>> {
    sqlx::query_scalar!(
        "SELECT result FROM plan WHERE site_id = $1 AND today < $2 ORDER BY today DESC, id DESC LIMIT 1",
        site.0,
        today.to_sqlx() as _,
    )
    .fetch_optional(db)
    .await
}

/// Adds a plan.
pub async fn insert(
    db: impl PgExecutor<'_>,
    site: SiteId,
    made_at: Timestamp,
    plan: &WeekPlan,
    inputs: &Value,
    changes: &[Change],
) -> sqlx::Result<i64> {
    let result = serde_json::to_value(plan).map_err(undecodable)?;
    let changes = serde_json::to_value(changes).map_err(undecodable)?;
    sqlx::query_scalar!(
        "INSERT INTO plan (site_id, made_at, today, inputs, result, changes) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id",
        site.0,
        made_at.to_sqlx() as _,
        plan.today.to_sqlx() as _,
        inputs,
        result,
        changes,
    )
    .fetch_one(db)
    .await
}
