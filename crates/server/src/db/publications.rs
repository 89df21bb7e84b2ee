//! Published weeks: which plan is in force, since when and until when. Of a site the newest counts, unless it was withdrawn.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use sqlx::PgExecutor;

use super::{AccountId, SiteId};

/// A published week as it is stored.
#[derive(Debug, Clone)]
pub struct PublicationRow {
    /// Its identifier.
    pub id: i64,
    /// The plan.
    pub plan: i64,
    /// Whether the site's rule published it.
    pub by_rule: bool,
    /// Who did; `None`: the rule, or an account that is gone.
    pub who: Option<String>,
    /// When, by the site's clock.
    pub published_at: Timestamp,
    /// It is in force in windows that end after this.
    pub from: Timestamp,
    /// Its last day.
    pub last_day: Date,
    /// The last entry of the history that it knew of.
    pub history: i64,
}

/// What sites have published and not withdrawn.
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<SiteId, PublicationRow>> {
    let sites: Vec<i64> = sites.iter().map(|id| id.0).collect();
    let rows = sqlx::query!(
        r#"SELECT p.site_id AS "site_id!", p.id AS "id!", p.plan_id AS "plan_id!", p.by_rule AS "by_rule!", a.name AS "who?",
                  p.published_at AS "published_at!", p.in_force_from AS "in_force_from!", p.last_day AS "last_day!", p.history_id AS "history_id!"
           FROM unnest($1::int8[]) AS s (site),
                LATERAL (SELECT * FROM publication WHERE site_id = s.site ORDER BY id DESC LIMIT 1) p
           LEFT JOIN account a ON a.id = p.account_id WHERE p.withdrawn_at IS NULL"#,
        &sites,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let row = PublicationRow {
            id: r.id,
            plan: r.plan_id,
            by_rule: r.by_rule,
            who: r.who,
            published_at: r.published_at.to_jiff(),
            from: r.in_force_from.to_jiff(),
            last_day: r.last_day.to_jiff(),
            history: r.history_id,
        };
        (SiteId(r.site_id), row)
    });
    Ok(rows.collect())
}

/// What a site has published and not withdrawn.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
) -> sqlx::Result<Option<PublicationRow>> {
    let mut found = of_sites(db, &[site]).await?;
    Ok(found.remove(&site))
}

/// A week to be published.
#[derive(Debug, Clone, Copy)]
pub struct NewPublication<'a> {
    /// The site.
    pub site: SiteId,
    /// The plan.
    pub plan: i64,
    /// Who; `None`: the site's rule.
    pub account: Option<AccountId>,
    /// When, by the site's clock.
    pub at: Timestamp,
    /// It is in force in windows that end after this.
    pub from: Timestamp,
    /// Its last day.
    pub last_day: Date,
    /// Sent twice, published once.
    pub idempotency_key: Option<&'a str>,
}

/// Publishes a plan, which is kept from now on.
pub async fn add(db: impl PgExecutor<'_>, new: &NewPublication<'_>) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        "WITH kept AS (UPDATE plan SET in_force = true WHERE id = $2 AND NOT in_force)
         INSERT INTO publication (site_id, plan_id, by_rule, account_id, published_at, in_force_from, last_day, history_id, idempotency_key)
         SELECT $1, $2, $3::int8 IS NULL, $3, $4, $5, $6, coalesce((SELECT max(id) FROM history WHERE site_id = $1), 0), $7 RETURNING id",
        new.site.0,
        new.plan,
        new.account.map(|a| a.0),
        new.at.to_sqlx() as _,
        new.from.to_sqlx() as _,
        new.last_day.to_sqlx() as _,
        new.idempotency_key,
    )
    .fetch_one(db)
    .await
}

/// Whether a site published with a key before.
pub async fn is_written(
    db: impl PgExecutor<'_>,
    site: SiteId,
    idempotency_key: &str,
) -> sqlx::Result<bool> {
    sqlx::query_scalar!(
        r#"SELECT EXISTS (SELECT FROM publication WHERE site_id = $1 AND idempotency_key = $2) AS "is!""#,
        site.0,
        idempotency_key,
    )
    .fetch_one(db)
    .await
}

/// Withdraws a publication at an instant of the site's clock.
pub async fn withdraw(db: impl PgExecutor<'_>, id: i64, at: Timestamp) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE publication SET withdrawn_at = $2 WHERE id = $1 AND withdrawn_at IS NULL",
        id,
        at.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Whether a site publishes its plan each morning by itself.
pub async fn set_each_morning(
    db: impl PgExecutor<'_>,
    site: SiteId,
    each_morning: bool,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE site SET publishes_each_morning = $2 WHERE id = $1",
        site.0,
        each_morning,
    )
    .execute(db)
    .await?;
    Ok(())
}
