//! Runs: what the record says came out of the sprinklers.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::plan::Run;
use sqlx::PgExecutor;

use super::{SiteId, ZoneId};

/// A run to be recorded.
pub struct NewRun {
    /// The zone.
    pub zone: ZoneId,
    /// Local day of its first start.
    pub date: Date,
    /// First start.
    pub started_at: Timestamp,
    /// Passes begun.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// The plan it was taken from.
    pub plan: Option<i64>,
}

/// Runs of a site's zones, by date.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Run>> {
    let rows = sqlx::query!(
        "SELECT r.zone_id, r.date, r.passes, r.pass_s, r.source FROM run r JOIN zone z ON z.id = r.zone_id
         WHERE z.site_id = $1 ORDER BY r.date, r.started_at, r.id",
        site.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Run {
            zone: r.zone_id.to_string(),
            date: r.date.to_jiff(),
            passes: u32::try_from(r.passes).unwrap_or(0),
            pass_s: i64::from(r.pass_s),
            assumed: r.source == "assumed",
        })
        .collect())
}

/// Records runs assumed from a plan; one begun before grows by the passes begun since.
pub async fn assume(db: impl PgExecutor<'_>, runs: &[NewRun]) -> sqlx::Result<()> {
    let zones: Vec<i64> = runs.iter().map(|r| r.zone.0).collect();
    let dates: Vec<String> = runs.iter().map(|r| r.date.to_string()).collect();
    let starts: Vec<String> = runs.iter().map(|r| r.started_at.to_string()).collect();
    let passes: Vec<i32> = runs
        .iter()
        .map(|r| i32::try_from(r.passes).unwrap_or(i32::MAX))
        .collect();
    let lengths: Vec<i32> = runs
        .iter()
        .map(|r| i32::try_from(r.pass_s).unwrap_or(i32::MAX))
        .collect();
    let plans: Vec<Option<i64>> = runs.iter().map(|r| r.plan).collect();
    sqlx::query!(
        "INSERT INTO run (zone_id, date, started_at, passes, pass_s, source, plan_id)
         SELECT z, d, s, p, l, 'assumed', i
         FROM unnest($1::int8[], $2::text[]::date[], $3::text[]::timestamptz[], $4::int4[], $5::int4[], $6::int8[])
              AS r (z, d, s, p, l, i)
         ON CONFLICT (zone_id, started_at) DO UPDATE SET passes = greatest(run.passes, excluded.passes)",
        &zones,
        &dates,
        &starts,
        &passes,
        &lengths,
        &plans as _,
    )
    .execute(db)
    .await?;
    Ok(())
}
