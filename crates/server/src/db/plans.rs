//! Plans: append-only results.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use serde_json::Value;
use sqlx::PgExecutor;

use super::SiteId;

/// A plan as it is stored: JSON as text, to be read away from the thread that asks.
pub struct PlanText {
    /// Its identifier.
    pub id: i64,
    /// The site's instant at which it was made.
    pub made_at: Timestamp,
    /// The result.
    pub result: String,
    /// What it changes against the morning before.
    pub changes: String,
}

/// The number of the newest plan of a site.
pub async fn newest_id(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<i64>> {
    sqlx::query_scalar!(
        "SELECT id FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1",
        site.0
    )
    .fetch_optional(db)
    .await
}

/// A plan of a site.
pub async fn text(
    db: impl PgExecutor<'_>,
    site: SiteId,
    id: i64,
) -> sqlx::Result<Option<PlanText>> {
    let row = sqlx::query!(
        r#"SELECT id, made_at, result::text AS "result!", changes::text AS "changes!" FROM plan WHERE site_id = $1 AND id = $2"#,
        site.0,
        id
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| PlanText {
        id: r.id,
        made_at: r.made_at.to_jiff(),
        result: r.result,
        changes: r.changes,
    }))
}

/// The result of the newest plan of a site, with its number.
pub async fn newest(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<(i64, String)>> {
    let row = sqlx::query!(
        r#"SELECT id, result::text AS "result!" FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1"#,
        site.0
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.id, r.result)))
}

/// The last plan made for an earlier day than a date, and the site's instant at which it was made.
pub async fn before(
    db: impl PgExecutor<'_>,
    site: SiteId,
    today: Date,
) -> sqlx::Result<Option<(String, Timestamp)>> {
    let row = sqlx::query!(
        r#"SELECT result::text AS "result!", made_at FROM plan WHERE site_id = $1 AND today < $2 ORDER BY today DESC, id DESC LIMIT 1"#,
        site.0,
        today.to_sqlx() as _,
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.result, r.made_at.to_jiff())))
}

/// A plan to be added: JSON as text.
pub struct NewPlan {
    /// The day that it begins with.
    pub today: Date,
    /// The result.
    pub result: String,
    /// What it changes against the morning before.
    pub changes: String,
}

/// Adds a plan.
pub async fn insert(
    db: impl PgExecutor<'_>,
    site: SiteId,
    made_at: Timestamp,
    plan: &NewPlan,
    inputs: &Value,
) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        "INSERT INTO plan (site_id, made_at, today, inputs, result, changes)
         VALUES ($1, $2, $3, $4, $5::text::jsonb, $6::text::jsonb) RETURNING id",
        site.0,
        made_at.to_sqlx() as _,
        plan.today.to_sqlx() as _,
        inputs,
        plan.result,
        plan.changes,
    )
    .fetch_one(db)
    .await
}
