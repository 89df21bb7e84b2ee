//! Plans: results as they were made, for display; thinned as they age. What they run is in [`super::programmes`].

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use jiff_sqlx::ToSqlx;
use lawn::record::programme::Programme;
use serde_json::Value;
use sqlx::types::Json;
use sqlx::{PgConnection, PgExecutor};

use super::programmes::Rows;
use super::{SiteId, days_of};

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

/// What the newest plan of a site changes of the week that was published when it was made.
pub async fn since_published(
    db: impl PgExecutor<'_>,
    site: SiteId,
) -> sqlx::Result<Option<String>> {
    let newest = sqlx::query_scalar!(
        "SELECT since_published FROM plan WHERE site_id = $1 ORDER BY id DESC LIMIT 1",
        site.0
    )
    .fetch_optional(db)
    .await?;
    Ok(newest.flatten())
}

/// The plans that a replan goes on from.
#[derive(Debug, Clone, Copy, Default)]
pub struct Recent {
    /// The newest.
    pub newest: Option<i64>,
    /// The last that was made for an earlier day, and the site's instant at which it was made.
    pub before: Option<(i64, Timestamp)>,
}

/// The plans that sites' replans go on from, each on its day.
pub async fn recent(
    db: impl PgExecutor<'_>,
    today: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Recent>> {
    let (sites, days) = days_of(today);
    let rows = sqlx::query!(
        r#"SELECT s.site AS "site!", (SELECT id FROM plan WHERE site_id = s.site ORDER BY id DESC LIMIT 1) AS newest,
                  before.id AS "id?", before.made_at AS "made_at?"
           FROM unnest($1::int8[], $2::text[]::date[]) AS s (site, day) LEFT JOIN LATERAL (
               SELECT id, made_at FROM plan WHERE site_id = s.site AND today < s.day ORDER BY today DESC, id DESC LIMIT 1) before ON true"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    let recent = rows.into_iter().map(|r| {
        let recent = Recent {
            newest: r.newest,
            before: r.id.zip(r.made_at.map(jiff_sqlx::Timestamp::to_jiff)),
        };
        (SiteId(r.site), recent)
    });
    Ok(recent.collect())
}

/// A plan to be added: JSON as text.
pub struct NewPlan {
    /// The site.
    pub site: SiteId,
    /// The site's instant at which it is made.
    pub made_at: Timestamp,
    /// The day that it begins with.
    pub today: Date,
    /// The result.
    pub result: String,
    /// What it changes against the morning before.
    pub changes: String,
    /// What it changes of the published week; `None`: none is published.
    pub since_published: Option<String>,
    /// The version of its form.
    pub version: i32,
    /// What it runs.
    pub programme: Programme,
    /// What was known, each part by its hash.
    pub inputs: Value,
}

/// Adds plans with their programmes, at most one a site, unless the newest is equal: then that one's number. What they supersede is noted to have
/// been in force where `at_event` says that this is an event of the site's day, and goes where it never was.
pub async fn insert(
    db: &mut PgConnection,
    plans: &[NewPlan],
    at_event: bool,
) -> sqlx::Result<BTreeMap<SiteId, i64>> {
    let column = |f: fn(&NewPlan) -> String| plans.iter().map(f).collect::<Vec<_>>();
    let sites: Vec<i64> = plans.iter().map(|plan| plan.site.0).collect();
    let versions: Vec<i32> = plans.iter().map(|plan| plan.version).collect();
    let results: Vec<&str> = plans.iter().map(|plan| plan.result.as_str()).collect();
    let changes: Vec<&str> = plans.iter().map(|plan| plan.changes.as_str()).collect();
    let since: Vec<Option<&str>> = plans
        .iter()
        .map(|plan| plan.since_published.as_deref())
        .collect();
    let rows = Rows::of(plans.iter().map(|plan| (plan.site, &plan.programme)))?;
    let rows = sqlx::query!(
        r#"WITH new AS (
               SELECT n.*, sha256(convert_to(n.result || n.changes || coalesce(n.since_published, ''), 'UTF8')) AS digest
               FROM unnest($1::int8[], $2::text[]::timestamptz[], $3::text[]::date[], $4::text[]::jsonb[], $5::int4[], $6::text[], $7::text[], $13::text[])
                    AS n (site_id, made_at, today, inputs, version, result, changes, since_published)),
           newest AS (
               SELECT new.site_id, p.id, p.digest = new.digest AND p.version = new.version AS equal
               FROM new, LATERAL (SELECT id, digest, version FROM plan WHERE site_id = new.site_id ORDER BY id DESC LIMIT 1) p),
           equal AS (SELECT site_id, id FROM newest WHERE equal),
           noted AS (UPDATE plan SET in_force = true FROM newest WHERE $8 AND plan.id = newest.id AND NOT in_force),
           superseded AS (
               DELETE FROM plan WHERE site_id = ANY($1) AND NOT in_force AND site_id NOT IN (SELECT site_id FROM equal)
               AND NOT ($8 AND id IN (SELECT id FROM newest))),
           added AS (
               INSERT INTO plan (site_id, made_at, today, inputs, version, digest, result, changes, since_published, opens_at, closes_at, et0_mm, rain_mm)
               SELECT new.site_id, made_at, today, inputs, version, digest, result, changes, since_published, opens_at, closes_at, et0_mm, rain_mm
               FROM new JOIN jsonb_to_recordset($9) AS d (site_id int8, opens_at timestamptz[], closes_at timestamptz[], et0_mm float8[],
                                                          rain_mm float8[]) USING (site_id)
               WHERE site_id NOT IN (SELECT site_id FROM equal) RETURNING id, site_id),
           runs AS (
               INSERT INTO planned_run SELECT added.id, zone_id, date, r.opens_at, r.closes_at, passes, pass_s, starts
               FROM added JOIN jsonb_to_recordset($10) AS r (site_id int8, zone_id int8, date date, opens_at timestamptz, closes_at timestamptz,
                                                             passes int4, pass_s int4, starts timestamptz[]) USING (site_id)),
           holds AS (
               INSERT INTO planned_hold SELECT added.id, zone_id, date, h.closes_at, probability_pct, expected_mm, saves_mm, stress_mm
               FROM added JOIN jsonb_to_recordset($11) AS h (site_id int8, zone_id int8, date date, closes_at timestamptz,
                                                             probability_pct float8, expected_mm float8, saves_mm float8, stress_mm float8) USING (site_id)),
           uses AS (
               INSERT INTO planned_use SELECT added.id, zone_id, eta_mm
               FROM added JOIN jsonb_to_recordset($12) AS u (site_id int8, zone_id int8, eta_mm float8[]) USING (site_id))
           SELECT site_id AS "site_id!", id AS "id!" FROM (SELECT site_id, id FROM added UNION ALL SELECT site_id, id FROM equal) plan"#,
        &sites,
        &column(|plan| plan.made_at.to_string()),
        &column(|plan| plan.today.to_string()),
        &column(|plan| plan.inputs.to_string()),
        &versions,
        &results as _,
        &changes as _,
        at_event,
        Json(rows.days) as _,
        Json(rows.runs) as _,
        Json(rows.holds) as _,
        Json(rows.uses) as _,
        &since as _,
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| (SiteId(r.site_id), r.id))
        .collect())
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
