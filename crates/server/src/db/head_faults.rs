//! What is wrong with heads. Append-only but for the day on which a fault was repaired.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::measure::head_fault::Fault;
use lawn::measure::sprinkler::HeadFault;
use serde_json::Value;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId, undecodable};

/// A fault as it is stored.
#[derive(Debug, Clone)]
pub struct FaultRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// Number of the head on the zone's plan.
    pub head: u16,
    /// What is wrong.
    pub fault: Fault,
    /// In the person's words.
    pub note: Option<String>,
    /// The site's day on which it was noted.
    pub noted_on: Date,
    /// Who noted it.
    pub who: Option<String>,
    /// By when it is to be repaired.
    pub due_on: Option<Date>,
    /// When it was.
    pub mended_on: Option<Date>,
    /// Who repaired it.
    pub mended_by: Option<String>,
}

impl From<&FaultRow> for HeadFault {
    fn from(row: &FaultRow) -> Self {
        Self {
            head: row.head,
            noted_on: row.noted_on,
            mended_on: row.mended_on,
        }
    }
}

/// A fault to be noted.
pub struct NewFault<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Number of the head, 1 to 400.
    pub head: u16,
    /// What is wrong.
    pub fault: Fault,
    /// In the person's words, 1 to 200 characters.
    pub note: Option<&'a str>,
    /// The site's day.
    pub noted_on: Date,
    /// By when it is to be repaired.
    pub due_on: Option<Date>,
    /// Who noted it.
    pub account: AccountId,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Adds a fault; `None` where that key was written before.
pub async fn add(db: impl PgExecutor<'_>, new: &NewFault<'_>) -> sqlx::Result<Option<i64>> {
    let fault = serde_json::to_value(new.fault).map_err(undecodable)?;
    sqlx::query_scalar!(
        "INSERT INTO head_fault (zone_id, head, fault, note, noted_on, due_on, noted_by, idempotency_key)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id",
        new.zone.0,
        i16::try_from(new.head).unwrap_or(i16::MAX),
        fault.as_str(),
        new.note,
        new.noted_on.to_sqlx() as _,
        new.due_on.map(|d| d.to_sqlx()) as _,
        new.account.0,
        new.idempotency_key,
    )
    .fetch_optional(db)
    .await
}

/// Days on which heads of zones were repaired.
pub async fn mended(
    db: impl PgExecutor<'_>,
    zones: &[ZoneId],
) -> sqlx::Result<Vec<(ZoneId, Date)>> {
    let zones: Vec<i64> = zones.iter().map(|zone| zone.0).collect();
    sqlx::query!(
        r#"SELECT DISTINCT zone_id, mended_on AS "mended_on!" FROM head_fault WHERE zone_id = ANY($1) AND mended_on IS NOT NULL"#,
        &zones
    )
    .map(|r| (ZoneId(r.zone_id), r.mended_on.to_jiff()))
    .fetch_all(db)
    .await
}

/// Faults of a site's zones: those to be repaired first, by the day they are due; then the repaired ones, newest first.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    only: Option<i64>,
) -> sqlx::Result<Vec<FaultRow>> {
    let rows = sqlx::query!(
        r#"SELECT f.id, f.zone_id, z.settings->>'name' AS "zone_name!", f.head, f.fault, f.note, f.noted_on, f.due_on, f.mended_on,
                  n.name AS "who?", m.name AS "mended_by?"
           FROM head_fault f JOIN zone z ON z.id = f.zone_id
           LEFT JOIN account n ON n.id = f.noted_by LEFT JOIN account m ON m.id = f.mended_by
           WHERE z.site_id = $1 AND ($2::int8 IS NULL OR f.id = $2)
           ORDER BY f.mended_on DESC NULLS FIRST, f.due_on NULLS LAST, f.id DESC"#,
        site.0,
        only,
    )
    .fetch_all(db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(FaultRow {
                id: r.id,
                zone: ZoneId(r.zone_id),
                zone_name: r.zone_name,
                head: u16::try_from(r.head).unwrap_or(0),
                fault: serde_json::from_value(Value::String(r.fault)).map_err(undecodable)?,
                note: r.note,
                noted_on: r.noted_on.to_jiff(),
                who: r.who,
                due_on: r.due_on.map(|d| d.to_jiff()),
                mended_on: r.mended_on.map(|d| d.to_jiff()),
                mended_by: r.mended_by,
            })
        })
        .collect()
}

/// Notes that a fault was repaired; one that was repaired before keeps its day. `false` where it was.
pub async fn mend(
    db: impl PgExecutor<'_>,
    fault: i64,
    on: Date,
    account: AccountId,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "UPDATE head_fault SET mended_on = $2, mended_by = $3 WHERE id = $1 AND mended_on IS NULL",
        fault,
        on.to_sqlx() as _,
        account.0,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// Notes that a fault is there again, said to be repaired by mistake; `false` where nobody said so.
pub async fn not_mended(db: impl PgExecutor<'_>, fault: i64) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "UPDATE head_fault SET mended_on = NULL, mended_by = NULL WHERE id = $1 AND mended_on IS NOT NULL",
        fault
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}
