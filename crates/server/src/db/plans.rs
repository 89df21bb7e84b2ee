//! Plans: results as they were made, for display; thinned as they age. What they run is in [`super::programmes`].

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use jiff_sqlx::ToSqlx;
use lawn::record::programme::Programme;
use serde_json::Value;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};

use super::SiteId;
use super::programmes::Rows;

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
        "SELECT id, made_at, result, changes FROM plan WHERE site_id = $1 AND id = $2",
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

/// Adds a plan with its programme, unless the newest is equal: then that one's number. What it supersedes is noted to have been in force where
/// `at_event` says that this is an event of the site's day, and goes where it never was.
pub async fn insert(
    db: &mut PgConnection,
    site: SiteId,
    made_at: Timestamp,
    plan: &NewPlan,
    at_event: bool,
) -> sqlx::Result<i64> {
    let rows = Rows::of(&plan.programme)?;
    sqlx::query_scalar!(
        r#"WITH new AS (SELECT sha256(convert_to($7 || $8, 'UTF8')) AS digest),
           newest AS (SELECT id, digest, version FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1),
           equal AS (SELECT newest.id FROM newest, new WHERE newest.digest = new.digest AND newest.version = $5),
           noted AS (UPDATE plan SET in_force = true WHERE $6 AND id = (SELECT id FROM newest) AND NOT in_force),
           superseded AS (DELETE FROM plan WHERE site_id = $1 AND NOT in_force AND NOT EXISTS (SELECT FROM equal)
                          AND NOT ($6 AND id = (SELECT id FROM newest))),
           added AS (
               INSERT INTO plan (site_id, made_at, today, inputs, version, digest, result, changes, opens_at, closes_at, et0_mm, rain_mm)
               SELECT $1, $2, $3, $4, $5, new.digest, $7, $8, $9::text[]::timestamptz[], $10::text[]::timestamptz[], $11, $12
               FROM new WHERE NOT EXISTS (SELECT FROM equal) RETURNING id),
           runs AS (
               INSERT INTO planned_run SELECT added.id, r.* FROM added, jsonb_to_recordset($13) AS r (zone_id int8, date date,
                   opens_at timestamptz, closes_at timestamptz, passes int4, pass_s int4, starts timestamptz[])),
           holds AS (
               INSERT INTO planned_hold SELECT added.id, h.* FROM added, jsonb_to_recordset($14) AS h (zone_id int8, date date,
                   closes_at timestamptz, probability_pct float8, expected_mm float8, saves_mm float8, stress_mm float8)),
           uses AS (
               INSERT INTO planned_use SELECT added.id, u.* FROM added, jsonb_to_recordset($15) AS u (zone_id int8, eta_mm float8[]))
           SELECT coalesce((SELECT id FROM added), (SELECT id FROM equal)) AS "id!""#,
        site.0,
        made_at.to_sqlx() as _,
        plan.today.to_sqlx() as _,
        plan.inputs,
        plan.version,
        at_event,
        plan.result,
        plan.changes,
        &rows.opens,
        &rows.closes,
        &rows.et0_mm,
        &rows.rain_mm,
        Json(rows.runs) as _,
        Json(rows.holds) as _,
        Json(rows.uses) as _,
    )
    .fetch_one(db)
    .await
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
