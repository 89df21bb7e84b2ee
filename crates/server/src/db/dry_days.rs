//! Days on which a zone must stay dry because a person says so.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::view::plan::DryDay;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId, days_of, grouped, of_one};

/// A dry day as it is stored.
#[derive(Debug, Clone)]
pub struct DryDayRow {
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// The day.
    pub date: Date,
    /// Why, in the person's words.
    pub note: Option<String>,
    /// Who said so.
    pub who: Option<String>,
}

impl From<&DryDayRow> for DryDay {
    fn from(row: &DryDayRow) -> Self {
        Self {
            zone: row.zone.0.to_string(),
            date: row.date,
        }
    }
}

/// Dry days of a site's zones from a date on, by day.
pub async fn of_site(
    db: impl PgExecutor<'_>,
    site: SiteId,
    from: Date,
) -> sqlx::Result<Vec<DryDayRow>> {
    of_sites(db, &[(site, from)]).await.map(of_one)
}

/// Dry days of sites, each from a date on, as [`of_site`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    from: &[(SiteId, Date)],
) -> sqlx::Result<BTreeMap<SiteId, Vec<DryDayRow>>> {
    let (sites, days) = days_of(from);
    let rows = sqlx::query!(
        r#"SELECT z.site_id, d.zone_id, z.settings->>'name' AS "zone_name!", d.date, d.note, a.name AS "who?"
           FROM unnest($1::int8[], $2::text[]::date[]) AS f (site, day)
           JOIN zone z ON z.site_id = f.site JOIN dry_day d ON d.zone_id = z.id AND d.date >= f.day
           LEFT JOIN account a ON a.id = d.account_id ORDER BY d.date, z.position"#,
        &sites,
        &days,
    )
    .fetch_all(db)
    .await?;
    Ok(grouped(rows.into_iter().map(|r| {
        let row = DryDayRow {
            zone: ZoneId(r.zone_id),
            zone_name: r.zone_name,
            date: r.date.to_jiff(),
            note: r.note,
            who: r.who,
        };
        (SiteId(r.site_id), row)
    })))
}

/// Keeps a zone dry on a day; said again it changes the note.
pub async fn keep(
    db: impl PgExecutor<'_>,
    zone: ZoneId,
    date: Date,
    note: Option<&str>,
    account: AccountId,
) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO dry_day (zone_id, date, note, account_id) VALUES ($1, $2, $3, $4)
         ON CONFLICT (zone_id, date) DO UPDATE SET note = excluded.note, account_id = excluded.account_id",
        zone.0,
        date.to_sqlx() as _,
        note,
        account.0,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Lets a zone be watered on a day again; `false` where it could be.
pub async fn lift(db: impl PgExecutor<'_>, zone: ZoneId, date: Date) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "DELETE FROM dry_day WHERE zone_id = $1 AND date = $2",
        zone.0,
        date.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}
