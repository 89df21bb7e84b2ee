//! Plans: results as they were made, for display; thinned as they age. What they run is in [`super::programmes`].

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use jiff_sqlx::ToSqlx;
use lawn::record::programme::Programme;
use serde_json::Value;
use sha2::{Digest, Sha256};
use sqlx::{PgConnection, PgExecutor};

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

/// The newest plan of a site.
#[derive(Debug, Clone, Copy)]
pub struct Newest {
    /// Its number.
    pub id: i64,
    /// The version of its form.
    pub version: i32,
}

/// The newest plan of a site.
pub async fn newest(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Newest>> {
    sqlx::query_as!(
        Newest,
        "SELECT id, version FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1",
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

/// The last plan made for an earlier day than a date, and the site's instant at which it was made.
pub async fn before(
    db: impl PgExecutor<'_>,
    site: SiteId,
    today: Date,
) -> sqlx::Result<Option<(i64, Timestamp)>> {
    let row = sqlx::query!(
        "SELECT id, made_at FROM plan WHERE site_id = $1 AND today < $2 ORDER BY today DESC, id DESC LIMIT 1",
        site.0,
        today.to_sqlx() as _,
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.id, r.made_at.to_jiff())))
}

/// A plan to be added: JSON as text.
pub struct NewPlan {
    /// The day that it begins with.
    pub today: Date,
    /// The result.
    pub result: String,
    /// What it changes against the morning before.
    pub changes: String,
    /// The version of its form.
    pub version: i32,
    /// What it runs.
    pub programme: Programme,
    /// What was known, each part by its hash.
    pub inputs: Value,
}

impl NewPlan {
    fn digest(&self) -> Vec<u8> {
        let mut digest = Sha256::new();
        digest.update(&self.result);
        digest.update([0]);
        digest.update(&self.changes);
        digest.finalize().to_vec()
    }
}

/// Adds a plan, unless the newest is equal: then that one's number. What it supersedes without having been in force at an event goes.
pub async fn insert(
    db: &mut PgConnection,
    site: SiteId,
    made_at: Timestamp,
    plan: &NewPlan,
) -> sqlx::Result<i64> {
    let digest = plan.digest();
    let equal = sqlx::query_scalar!(
        "SELECT id FROM (SELECT id, digest, version FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1) AS newest
         WHERE digest = $2 AND version = $3",
        site.0,
        digest,
        plan.version,
    )
    .fetch_optional(&mut *db)
    .await?;
    if let Some(id) = equal {
        return Ok(id);
    }
    let id = sqlx::query_scalar!(
        "INSERT INTO plan (site_id, made_at, today, inputs, version, digest, result, changes)
         VALUES ($1, $2, $3, $4, $5, $6, $7::text::jsonb, $8::text::jsonb) RETURNING id",
        site.0,
        made_at.to_sqlx() as _,
        plan.today.to_sqlx() as _,
        plan.inputs,
        plan.version,
        digest,
        plan.result,
        plan.changes,
    )
    .fetch_one(&mut *db)
    .await?;
    sqlx::query!(
        "DELETE FROM plan WHERE site_id = $1 AND id < $2 AND NOT in_force",
        site.0,
        id
    )
    .execute(&mut *db)
    .await?;
    super::programmes::insert(db, id, &plan.programme).await?;
    Ok(id)
}

/// Notes at an event of a site's day that its newest plan is in force.
pub async fn in_force(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE plan SET in_force = true WHERE id = (SELECT max(id) FROM plan WHERE site_id = $1) AND NOT in_force",
        site.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Days for which each plan that was in force is kept, and days for which one a day is.
const KEPT_DAYS: (i64, i64) = (60, 365);

/// Thins plans out as they age: each that was in force for some weeks, the last of each day for a year, then none. The newest stays; runs
/// and forecasts stay.
pub async fn thin(db: impl PgExecutor<'_>, site: SiteId, today: Date) -> sqlx::Result<()> {
    let (each, daily) = KEPT_DAYS;
    sqlx::query!(
        "DELETE FROM plan p WHERE p.site_id = $1 AND p.id < (SELECT max(id) FROM plan WHERE site_id = $1)
         AND (p.today < $3 OR (p.today < $2 AND EXISTS (
              SELECT FROM plan later WHERE later.site_id = p.site_id AND later.today = p.today AND later.id > p.id)))",
        site.0,
        today.saturating_sub(each.days()).to_sqlx() as _,
        today.saturating_sub(daily.days()).to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Claims the next site after another whose newest plan has an older form, for the caller's transaction; whatever its clock.
pub async fn claim_outdated(
    db: impl PgExecutor<'_>,
    version: i32,
    after: SiteId,
) -> sqlx::Result<Option<SiteId>> {
    let id = sqlx::query_scalar!(
        "SELECT s.id FROM site s
         WHERE (SELECT p.version FROM plan p WHERE p.site_id = s.id ORDER BY p.id DESC LIMIT 1) < $1 AND s.id > $2
         ORDER BY s.id LIMIT 1 FOR UPDATE OF s SKIP LOCKED",
        version,
        after.0,
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(SiteId))
}
