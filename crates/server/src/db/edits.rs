//! What people change of the plan, day by day of a zone. Of a day the newest that is not undone holds.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::record::edit::{Becomes, Edit};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sqlx::PgExecutor;
use utoipa::ToSchema;

use super::{AccountId, SiteId, ZoneId, days_of, grouped, of_one, undecodable};

/// What a day becomes: as a person sets it, or as planned again.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[schema(as = DayBecomes)]
pub enum DayBecomes {
    /// Nothing runs.
    TakenOut,
    /// This runs.
    Set {
        /// Number of passes.
        passes: u32,
        /// Length of each, s.
        pass_s: i64,
    },
    /// The plan decides again.
    AsPlanned,
}

impl DayBecomes {
    /// What the plan reads of it.
    const fn becomes(self) -> Option<Becomes> {
        match self {
            Self::TakenOut => Some(Becomes::TakenOut),
            Self::Set { passes, pass_s } => Some(Becomes::Set { passes, pass_s }),
            Self::AsPlanned => None,
        }
    }
}

/// An edit as it is stored.
#[derive(Debug, Clone)]
pub struct EditRow {
    /// Its identifier.
    pub id: i64,
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// The day.
    pub date: Date,
    /// What it becomes.
    pub becomes: DayBecomes,
    /// What the person did: `skip`, `lock`, `minutes`, `move`, `release`.
    pub act: String,
    /// Why, in the person's words.
    pub reason: Option<String>,
    /// Who.
    pub who: Option<String>,
    /// When.
    pub made_at: Timestamp,
}

impl EditRow {
    /// What the plan reads of it.
    #[must_use]
    pub fn edit(&self) -> Option<Edit> {
        Some(Edit {
            zone: self.zone.0.to_string(),
            date: self.date,
            becomes: self.becomes.becomes()?,
        })
    }
}

/// An edit as a query finds it.
struct Stored {
    site_id: i64,
    id: i64,
    zone_id: i64,
    zone_name: String,
    date: jiff_sqlx::Date,
    becomes: Value,
    act: String,
    reason: Option<String>,
    who: Option<String>,
    made_at: jiff_sqlx::Timestamp,
}

impl Stored {
    fn edit(self) -> sqlx::Result<EditRow> {
        Ok(EditRow {
            id: self.id,
            zone: ZoneId(self.zone_id),
            zone_name: self.zone_name,
            date: self.date.to_jiff(),
            becomes: serde_json::from_value(self.becomes).map_err(undecodable)?,
            act: self.act,
            reason: self.reason,
            who: self.who,
            made_at: self.made_at.to_jiff(),
        })
    }
}

/// The edits in force on a site's days from a date on, by day.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
) -> sqlx::Result<Vec<EditRow>> {
    of_sites(db, &[(site, from)]).await.map(of_one)
}

/// The edits in force of sites, each from a date on, as [`of_site`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    from: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<EditRow>>> {
    let (sites, days) = days_of(from);
    let rows = sqlx::query_as!(
        Stored,
        r#"SELECT DISTINCT ON (e.date, z.position, e.zone_id) z.site_id, e.id, e.zone_id, z.settings ->> 'name' AS "zone_name!", e.date AS "date: _", e.becomes,
                  e.act, e.reason, a.name AS "who?", e.made_at AS "made_at: _"
           FROM unnest($1::int8[], $2::text[]::date[]) AS f (site, day)
           JOIN zone z ON z.site_id = f.site JOIN week_edit e ON e.zone_id = z.id AND e.date >= f.day AND e.undone_at IS NULL
           LEFT JOIN account a ON a.id = e.account_id ORDER BY e.date, z.position, e.zone_id, e.id DESC"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| Ok((SiteId(r.site_id), r.edit()?)));
    Ok(grouped(rows.collect::<sqlx::Result<Vec<_>>>()?))
}

/// The act of a person on a site that an undo would take back, their last; or that a redo would bring back: what they undid last, unless they changed
/// something since. Of days from a date on.
pub async fn next_of(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: AccountId,
    from: Date,
    redo: bool,
) -> sqlx::Result<Option<EditRow>> {
    let row = sqlx::query_as!(
        Stored,
        r#"SELECT z.site_id, e.id, e.zone_id, z.settings ->> 'name' AS "zone_name!", e.date AS "date: _", e.becomes, e.act, e.reason, a.name AS "who?",
                  e.made_at AS "made_at: _"
           FROM week_edit e JOIN zone z ON z.id = e.zone_id JOIN account a ON a.id = e.account_id
           WHERE z.site_id = $1 AND e.account_id = $2 AND e.date >= $3 AND (e.undone_at IS NOT NULL) = $4
           AND (NOT $4 OR NOT EXISTS (SELECT FROM week_edit m JOIN zone mz ON mz.id = m.zone_id
                                      WHERE mz.site_id = $1 AND m.account_id = $2 AND m.made_at > e.undone_at))
           ORDER BY e.undone_at DESC, e.id DESC LIMIT 1"#,
        site.0,
        account.0,
        from.to_sqlx() as _,
        redo,
    )
    .fetch_optional(db)
    .await?;
    row.map(Stored::edit).transpose()
}

/// What is to be added: a day of an act.
pub struct NewEdit<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// The day.
    pub date: Date,
    /// What it becomes.
    pub becomes: DayBecomes,
    /// What the person did.
    pub act: &'a str,
    /// Why, in the person's words.
    pub reason: Option<&'a str>,
    /// Who.
    pub account: AccountId,
    /// Sent twice, written once; shared by the days of one act.
    pub idempotency_key: &'a str,
}

/// Whether an act of a zone was written before, by its key.
pub async fn is_written(
    db: impl PgExecutor<'_>,
    zone: ZoneId,
    idempotency_key: &str,
) -> sqlx::Result<bool> {
    sqlx::query_scalar!(
        r#"SELECT EXISTS (SELECT FROM week_edit WHERE zone_id = $1 AND idempotency_key = $2) AS "is!""#,
        zone.0,
        idempotency_key,
    )
    .fetch_one(db)
    .await
}

/// Adds a day of an act.
pub async fn add(db: impl PgExecutor<'_>, new: &NewEdit<'_>) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO week_edit (zone_id, date, becomes, act, reason, account_id, idempotency_key) VALUES ($1, $2, $3, $4, $5, $6, $7)",
        new.zone.0,
        new.date.to_sqlx() as _,
        serde_json::to_value(new.becomes).map_err(undecodable)?,
        new.act,
        new.reason,
        new.account.0,
        new.idempotency_key,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// An edit that is to be undone, or done again.
pub struct Own {
    /// The name of its zone.
    pub zone_name: String,
    /// Its day.
    pub date: Date,
    /// Whose it is.
    pub account: Option<i64>,
    /// Whether it is undone.
    pub undone: bool,
    /// Who changed the same day, or another of the same act, after it.
    pub changed_after: Option<String>,
}

/// An edit of a site, with who has changed a day of its act since; `None` where there is none.
pub async fn own(db: impl PgExecutor<'_>, site: SiteId, id: i64) -> sqlx::Result<Option<Own>> {
    let row = sqlx::query!(
        r#"SELECT z.settings ->> 'name' AS "zone_name!", e.date, e.account_id, e.undone_at IS NOT NULL AS "undone!",
                  (SELECT coalesce(a.name, '') FROM week_edit own JOIN week_edit later ON later.zone_id = own.zone_id AND later.date = own.date
                       AND later.id > own.id AND later.undone_at IS NULL AND later.idempotency_key <> own.idempotency_key
                   LEFT JOIN account a ON a.id = later.account_id
                   WHERE own.zone_id = e.zone_id AND own.idempotency_key = e.idempotency_key ORDER BY later.id DESC LIMIT 1) AS changed_after
           FROM week_edit e JOIN zone z ON z.id = e.zone_id WHERE z.site_id = $1 AND e.id = $2"#,
        site.0,
        id,
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Own {
        zone_name: r.zone_name,
        date: r.date.to_jiff(),
        account: r.account_id,
        undone: r.undone,
        changed_after: r.changed_after,
    }))
}

/// Undoes all days of the act of an edit, or does them again.
pub async fn set_undone(db: impl PgExecutor<'_>, id: i64, undone: bool) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE week_edit e SET undone_at = CASE WHEN $2 THEN now() END FROM week_edit own
         WHERE own.id = $1 AND e.zone_id = own.zone_id AND e.idempotency_key = own.idempotency_key AND (e.undone_at IS NULL) = $2",
        id,
        undone,
    )
    .execute(db)
    .await?;
    Ok(())
}
