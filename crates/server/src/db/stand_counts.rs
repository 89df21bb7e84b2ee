//! Seedlings that were counted in a frame.

use std::collections::BTreeMap;

use jiff_sqlx::ToSqlx;
use lawn::new_grass::stand::Count;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId};

/// A count as it is stored.
#[derive(Debug, Clone)]
pub struct CountRow {
    /// Its identifier.
    pub id: i64,
    /// Who counted.
    pub who: Option<String>,
    /// What.
    pub count: Count,
}

/// Keeps a count; `false`: it was kept before.
pub async fn add(
    db: impl PgExecutor<'_>,
    zone: ZoneId,
    count: &Count,
    account: AccountId,
    idempotency_key: &str,
) -> sqlx::Result<bool> {
    let counts: Vec<i32> = count.counts.iter().map(|n| n.cast_signed()).collect();
    let done = sqlx::query!(
        "INSERT INTO stand_count (zone_id, date, frame_mm, counts, account_id, idempotency_key) VALUES ($1, $2, $3, $4, $5, $6)
         ON CONFLICT (zone_id, idempotency_key) DO NOTHING",
        zone.0,
        count.date.to_sqlx() as _,
        count.frame_mm.cast_signed(),
        &counts,
        account.0,
        idempotency_key,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The newest count of each zone of a site.
pub async fn newest(
    db: impl PgExecutor<'_>,
    site: SiteId,
) -> sqlx::Result<BTreeMap<ZoneId, CountRow>> {
    let rows = sqlx::query!(
        r#"SELECT DISTINCT ON (c.zone_id) c.id, c.zone_id, c.date, c.frame_mm, c.counts, a.name AS "who?"
           FROM stand_count c JOIN zone z ON z.id = c.zone_id LEFT JOIN account a ON a.id = c.account_id
           WHERE z.site_id = $1 AND c.undone_at IS NULL ORDER BY c.zone_id, c.date DESC, c.id DESC"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    let row = rows.into_iter().map(|r| {
        let row = CountRow {
            id: r.id,
            who: r.who,
            count: Count {
                date: r.date.to_jiff(),
                frame_mm: r.frame_mm.cast_unsigned(),
                counts: r.counts.into_iter().map(i32::cast_unsigned).collect(),
            },
        };
        (ZoneId(r.zone_id), row)
    });
    Ok(row.collect())
}

/// Takes a count back; its zone's name, `None`: there is none such.
pub async fn undo(
    db: impl PgExecutor<'_>,
    site: SiteId,
    count: i64,
) -> sqlx::Result<Option<String>> {
    sqlx::query_scalar!(
        r#"UPDATE stand_count c SET undone_at = coalesce(c.undone_at, now()) FROM zone z
           WHERE c.id = $2 AND z.id = c.zone_id AND z.site_id = $1 RETURNING z.settings ->> 'name' AS "name!""#,
        site.0,
        count
    )
    .fetch_optional(db)
    .await
}
