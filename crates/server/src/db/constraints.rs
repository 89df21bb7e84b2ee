//! What is asked of zones for some hours: keep dry, water in.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff_sqlx::ToSqlx;
use lawn::record::constraint::{Asks, Constraint};
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId, grouped, of_one, undecodable};

/// An entry as it is stored.
#[derive(Debug, Clone)]
pub struct ConstraintRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// From when on.
    pub from: Timestamp,
    /// Until when.
    pub until: Timestamp,
    /// What is asked.
    pub asks: Asks,
    /// Why, in the person's words.
    pub note: Option<String>,
    /// Who said so.
    pub who: Option<String>,
}

impl From<&ConstraintRow> for Constraint {
    fn from(row: &ConstraintRow) -> Self {
        Self {
            zone: row.zone.0.to_string(),
            from: row.from,
            until: row.until,
            asks: row.asks,
        }
    }
}

/// What is to be added.
pub struct NewConstraint<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// Who says so.
    pub account: AccountId,
    /// From when on.
    pub from: Timestamp,
    /// Until when.
    pub until: Timestamp,
    /// What is asked.
    pub asks: Asks,
    /// Why, in the person's words.
    pub note: Option<&'a str>,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// What is asked of a site's zones and not over at an instant, in order of time.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    now: Timestamp,
) -> sqlx::Result<Vec<ConstraintRow>> {
    of_sites(db, &[(site, now)]).await.map(of_one)
}

/// What is asked of sites' zones, each not over at an instant, as [`of_site`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    now: &[(SiteId, Timestamp)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<ConstraintRow>>> {
    let sites: Vec<i64> = now.iter().map(|(site, _)| site.0).collect();
    let instants: Vec<String> = now.iter().map(|(_, at)| at.to_string()).collect();
    let rows = sqlx::query!(
        r#"SELECT z.site_id, c.id, c.zone_id, z.settings ->> 'name' AS "zone_name!", c.begins, c.ends, c.asks, c.note, a.name AS "who?"
           FROM unnest($1::int8[], $2::text[]::timestamptz[]) AS f (site, now)
           JOIN zone z ON z.site_id = f.site JOIN zone_constraint c ON c.zone_id = z.id AND c.ends > f.now AND c.lifted_at IS NULL
           LEFT JOIN account a ON a.id = c.account_id ORDER BY c.begins, c.id"#,
        &sites,
        &instants,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let row = ConstraintRow {
            id: r.id,
            zone: ZoneId(r.zone_id),
            zone_name: r.zone_name,
            from: r.begins.to_jiff(),
            until: r.ends.to_jiff(),
            asks: serde_json::from_value(r.asks).map_err(undecodable)?,
            note: r.note,
            who: r.who,
        };
        Ok((SiteId(r.site_id), row))
    });
    Ok(grouped(rows.collect::<sqlx::Result<Vec<_>>>()?))
}

/// Adds an entry; its identifier, and whether it is new: of a key that was written before it is that of then.
pub async fn add(db: impl PgExecutor<'_>, new: &NewConstraint<'_>) -> sqlx::Result<(i64, bool)> {
    let row = sqlx::query!(
        r#"WITH added AS (
               INSERT INTO zone_constraint (zone_id, account_id, begins, ends, asks, note, idempotency_key) VALUES ($1, $2, $3, $4, $5, $6, $7)
               ON CONFLICT (zone_id, idempotency_key) DO NOTHING RETURNING id)
           SELECT id AS "id!", true AS "new!" FROM added
           UNION ALL SELECT id, false FROM zone_constraint WHERE zone_id = $1 AND idempotency_key = $7 LIMIT 1"#,
        new.zone.0,
        new.account.0,
        new.from.to_sqlx() as _,
        new.until.to_sqlx() as _,
        serde_json::to_value(new.asks).map_err(undecodable)?,
        new.note,
        new.idempotency_key,
    )
    .fetch_one(db)
    .await?;
    Ok((row.id, row.new))
}

/// How many entries of a zone are not over.
pub async fn count(db: impl PgExecutor<'_>, zone: ZoneId, now: Timestamp) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "count!" FROM zone_constraint WHERE zone_id = $1 AND ends > $2 AND lifted_at IS NULL"#,
        zone.0,
        now.to_sqlx() as _,
    )
    .fetch_one(db)
    .await
}

/// Lifts an entry; the name of its zone and what it asked, `None` where the site has nothing such.
pub async fn lift(
    db: impl PgExecutor<'_>,
    site: SiteId,
    id: i64,
) -> sqlx::Result<Option<(String, Asks)>> {
    let row = sqlx::query!(
        r#"UPDATE zone_constraint c SET lifted_at = now() FROM zone z
           WHERE z.id = c.zone_id AND z.site_id = $1 AND c.id = $2 AND c.lifted_at IS NULL RETURNING z.settings ->> 'name' AS "name!", c.asks"#,
        site.0,
        id
    )
    .fetch_optional(db)
    .await?;
    let row = row.map(|r| {
        let asks = serde_json::from_value(r.asks).map_err(undecodable)?;
        Ok((r.name, asks))
    });
    row.transpose()
}
