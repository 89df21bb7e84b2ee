//! New grass that is planned for zones: the days that a person kept.

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId};

/// A kept plan as it is stored.
#[derive(Debug, Clone)]
pub struct KeptRow {
    /// The zone.
    pub zone: ZoneId,
    /// Its name.
    pub zone_name: String,
    /// What is sown, by its key.
    pub grass: String,
    /// How, by its key.
    pub method: String,
    /// When weeds are sprayed; `None`: they are not.
    pub spray: Option<Date>,
    /// When the soil is worked.
    pub soil_work: Date,
    /// When it is sown.
    pub sow: Date,
    /// Days from the spray to sowing.
    pub wait_days: i64,
    /// Who kept it.
    pub who: Option<String>,
}

/// Days of a plan as they are kept.
#[derive(Debug, Clone, Copy)]
pub struct KeptDays<'a> {
    /// What is sown, by its key.
    pub grass: &'a str,
    /// How, by its key.
    pub method: &'a str,
    /// When weeds are sprayed.
    pub spray: Option<Date>,
    /// When the soil is worked.
    pub soil_work: Date,
    /// When it is sown.
    pub sow: Date,
    /// Days from the spray to sowing.
    pub wait_days: i64,
}

/// The kept plans of a site's zones, in the order of their days of sowing.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<KeptRow>> {
    let rows = sqlx::query!(
        r#"SELECT k.zone_id, z.settings->>'name' AS "zone_name!", k.grass, k.method, k.spray, k.soil_work, k.sow, k.wait_days, a.name AS "who?"
           FROM kept_sowing k JOIN zone z ON z.id = k.zone_id LEFT JOIN account a ON a.id = k.account_id
           WHERE z.site_id = $1 ORDER BY k.sow, z.position"#,
        site.0,
    )
    .fetch_all(db)
    .await?;
    let kept = rows.into_iter().map(|r| KeptRow {
        zone: ZoneId(r.zone_id),
        zone_name: r.zone_name,
        grass: r.grass,
        method: r.method,
        spray: r.spray.map(jiff_sqlx::Date::to_jiff),
        soil_work: r.soil_work.to_jiff(),
        sow: r.sow.to_jiff(),
        wait_days: i64::from(r.wait_days),
        who: r.who,
    });
    Ok(kept.collect())
}

/// Keeps a zone's plan in place of the one before.
pub async fn keep(
    db: impl PgExecutor<'_>,
    zone: ZoneId,
    days: &KeptDays<'_>,
    account: AccountId,
) -> sqlx::Result<()> {
    let wait_days = i32::try_from(days.wait_days).unwrap_or(i32::MAX);
    sqlx::query!(
        "INSERT INTO kept_sowing (zone_id, grass, method, spray, soil_work, sow, wait_days, account_id) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)
         ON CONFLICT (zone_id) DO UPDATE SET grass = excluded.grass, method = excluded.method, spray = excluded.spray, soil_work = excluded.soil_work,
             sow = excluded.sow, wait_days = excluded.wait_days, account_id = excluded.account_id, kept_at = now()",
        zone.0,
        days.grass,
        days.method,
        days.spray.map(ToSqlx::to_sqlx) as _,
        days.soil_work.to_sqlx() as _,
        days.sow.to_sqlx() as _,
        wait_days,
        account.0,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Forgets a zone's plan; `false`: there was none.
pub async fn forget(db: impl PgExecutor<'_>, zone: ZoneId) -> sqlx::Result<bool> {
    let done = sqlx::query!("DELETE FROM kept_sowing WHERE zone_id = $1", zone.0)
        .execute(db)
        .await?;
    Ok(done.rows_affected() == 1)
}
