//! Wet checks: walks with each zone on for two minutes. Append-only.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId};

/// A wet check as it is stored.
#[derive(Debug, Clone)]
pub struct WetCheckRow {
    /// Its identifier.
    pub id: i64,
    /// The site's day.
    pub date: Date,
    /// The zones that were walked.
    pub zones: Vec<ZoneId>,
    /// Whether it was seen to run in rain lately.
    pub ran_in_rain: bool,
    /// Whether it was seen to run in frost.
    pub ran_in_frost: bool,
    /// In the person's words.
    pub note: Option<String>,
    /// Who walked.
    pub who: Option<String>,
}

/// A wet check to be added.
pub struct NewWetCheck<'a> {
    /// The site's day.
    pub date: Date,
    /// The zones that were walked.
    pub zones: &'a [ZoneId],
    /// Whether it was seen to run in rain lately.
    pub ran_in_rain: bool,
    /// Whether it was seen to run in frost.
    pub ran_in_frost: bool,
    /// In the person's words, 1 to 200 characters.
    pub note: Option<&'a str>,
    /// Who walked.
    pub account: AccountId,
    /// Sent twice, written once.
    pub idempotency_key: &'a str,
}

/// Adds a wet check; `None` where that key was written before.
pub async fn add(
    db: impl PgExecutor<'_>,
    site: SiteId,
    new: &NewWetCheck<'_>,
) -> sqlx::Result<Option<i64>> {
    let zones: Vec<i64> = new.zones.iter().map(|zone| zone.0).collect();
    sqlx::query_scalar!(
        "INSERT INTO wet_check (site_id, date, zones, ran_in_rain, ran_in_frost, note, account_id, idempotency_key)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8) ON CONFLICT (site_id, idempotency_key) DO NOTHING RETURNING id",
        site.0,
        new.date.to_sqlx() as _,
        &zones,
        new.ran_in_rain,
        new.ran_in_frost,
        new.note,
        new.account.0,
        new.idempotency_key,
    )
    .fetch_optional(db)
    .await
}

/// The wet checks of a site, newest first.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    most: i64,
) -> sqlx::Result<Vec<WetCheckRow>> {
    let rows = sqlx::query!(
        r#"SELECT w.id, w.date, w.zones, w.ran_in_rain, w.ran_in_frost, w.note, a.name AS "who?"
           FROM wet_check w LEFT JOIN account a ON a.id = w.account_id
           WHERE w.site_id = $1 ORDER BY w.date DESC, w.id DESC LIMIT $2"#,
        site.0,
        most
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| WetCheckRow {
        id: r.id,
        date: r.date.to_jiff(),
        zones: r.zones.into_iter().map(ZoneId).collect(),
        ran_in_rain: r.ran_in_rain,
        ran_in_frost: r.ran_in_frost,
        note: r.note,
        who: r.who,
    });
    Ok(rows.collect())
}

/// The last day on which any zone of a site was watered.
pub async fn last_watered(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Option<Date>> {
    let last = sqlx::query_scalar!(
        "SELECT max(r.date) FROM run r JOIN zone z ON z.id = r.zone_id WHERE z.site_id = $1 AND r.voided_at IS NULL AND r.passes > 0",
        site.0
    )
    .fetch_one(db)
    .await?;
    Ok(last.map(jiff_sqlx::Date::to_jiff))
}
