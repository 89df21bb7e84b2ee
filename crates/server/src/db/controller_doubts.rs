//! What of a controller's log cannot be so: lines that were left out, and runs that came into the record before lines were held against what was sent.

use jiff::Timestamp;
use lawn::record::told_of_pass::{LONGER_S, NotSo};
use serde_json::Value;
use sqlx::{PgConnection, PgExecutor};

use super::{SiteId, undecodable};
use crate::controller_service::Refusal;

/// Lines that were left out and are still said, of a site.
const MOST_REFUSALS: i64 = 100;

/// Keeps which lines were left out and why, each once, the newest of them.
pub async fn refuse(db: &mut PgConnection, site: SiteId, refused: &[Refusal]) -> sqlx::Result<()> {
    let numbers: Vec<Option<i64>> = refused.iter().map(|r| r.number).collect();
    let why = refused.iter().map(|r| serde_json::to_value(&r.why));
    let why: Vec<Value> = why.collect::<Result<_, _>>().map_err(undecodable)?;
    sqlx::query!(
        "INSERT INTO controller_refusal (site_id, log_no, number, why)
         SELECT $1, l.log_no, n, w FROM unnest($2::int8[], $3::jsonb[]) AS r (n, w) JOIN controller_link l ON l.site_id = $1 ON CONFLICT DO NOTHING",
        site.0,
        &numbers as _,
        &why,
    )
    .execute(&mut *db)
    .await?;
    sqlx::query!(
        "DELETE FROM controller_refusal WHERE site_id = $1
         AND id NOT IN (SELECT id FROM controller_refusal WHERE site_id = $1 ORDER BY id DESC LIMIT $2)",
        site.0,
        MOST_REFUSALS,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A line that was left out.
#[derive(Debug, Clone)]
pub struct LeftOut {
    /// Its number; `None`: that cannot be so either.
    pub number: Option<i64>,
    /// Why.
    pub why: NotSo,
}

/// What was left out of a site's controller's log and not looked at since: at the door, and what was kept before it was held against the passes.
pub async fn left_out(db: &mut PgConnection, site: SiteId) -> sqlx::Result<Vec<LeftOut>> {
    let refused = sqlx::query!(
        r#"SELECT number, why AS "why!: sqlx::types::Json<NotSo>" FROM controller_refusal WHERE site_id = $1 ORDER BY id"#,
        site.0
    )
    .fetch_all(&mut *db)
    .await?;
    let kept = unsound(db, site).await?;
    let kept = kept.into_iter().map(|line| LeftOut {
        number: Some(line.number),
        why: NotSo::TooLong {
            told_s: line.told_s,
            sent_s: line.sent_s,
        },
    });
    let refused = refused.into_iter().map(|r| LeftOut {
        number: r.number,
        why: r.why.0,
    });
    Ok(kept.chain(refused).collect())
}

/// A line that was kept and cannot be so.
struct Unsound {
    log_no: i32,
    number: i64,
    told_s: i64,
    sent_s: i64,
}

async fn unsound(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Unsound>> {
    let rows = sqlx::query!(
        r#"SELECT c.log_no, c.number, c.seconds AS "seconds!", max(r.pass_s) AS "pass_s!"
           FROM controller_report c JOIN publication p ON p.site_id = c.site_id
           JOIN planned_run r ON r.plan_id = p.plan_id AND r.zone_id = c.zone_id AND c.starts = ANY(r.starts)
           WHERE c.site_id = $1 AND c.kind = 'stopped'
           GROUP BY c.log_no, c.number, c.seconds HAVING c.seconds::int8 > max(r.pass_s)::int8 + $2 ORDER BY c.log_no, c.number"#,
        site.0,
        LONGER_S,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| Unsound {
        log_no: r.log_no,
        number: r.number,
        told_s: i64::from(r.seconds),
        sent_s: i64::from(r.pass_s),
    });
    Ok(rows.collect())
}

/// Forgets what was left out: people have looked at it.
pub async fn clear_left_out(db: &mut PgConnection, site: SiteId) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM controller_refusal WHERE site_id = $1", site.0)
        .execute(&mut *db)
        .await?;
    let kept = unsound(&mut *db, site).await?;
    let logs: Vec<i32> = kept.iter().map(|line| line.log_no).collect();
    let numbers: Vec<i64> = kept.iter().map(|line| line.number).collect();
    sqlx::query!(
        "DELETE FROM controller_report WHERE site_id = $1 AND (log_no, number) IN (SELECT * FROM unnest($2::int4[], $3::int8[]))",
        site.0,
        &logs,
        &numbers,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// A run that a controller put into the record, longer than it was sent.
#[derive(Debug, Clone)]
pub struct Doubtful {
    /// The run.
    pub run: i64,
    /// The zone's name.
    pub zone_name: String,
    /// When it began.
    pub started_at: Timestamp,
    /// How long it is said to have run, s.
    pub run_s: i32,
    /// How long it was to run, s.
    pub planned_s: i32,
}

/// The runs of a site's record that its controller cannot have run.
pub async fn doubtful(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Doubtful>> {
    let rows = sqlx::query!(
        r#"SELECT r.id, z.settings ->> 'name' AS "zone_name!", r.started_at, r.run_s, r.planned_s AS "planned_s!"
           FROM run r JOIN zone z ON z.id = r.zone_id
           WHERE z.site_id = $1 AND r.source = 'controller' AND r.voided_at IS NULL AND r.run_s::int8 > r.planned_s::int8 + $2 * r.planned_passes::int8
           ORDER BY r.started_at, z.position LIMIT $3"#,
        site.0,
        LONGER_S,
        MOST_REFUSALS,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| Doubtful {
        run: r.id,
        zone_name: r.zone_name,
        started_at: r.started_at.to_jiff(),
        run_s: r.run_s,
        planned_s: r.planned_s,
    });
    Ok(rows.collect())
}
