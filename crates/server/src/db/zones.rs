//! Zones. A zone is ended at a date, never dropped with its records.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::site::document::{FORMAT, VERSION};
use lawn::site::{SiteDocument, Zone};
use serde_json::Value;
use sqlx::PgExecutor;

use super::sites::SiteRow;
use super::{SiteId, ZoneId, grouped, of_one, undecodable, without};

/// A zone as it is stored.
#[derive(Debug, Clone)]
pub struct ZoneRow {
    /// Its identifier.
    pub id: ZoneId,
    /// Its description; `id` is the identifier as text.
    pub zone: Zone,
    /// Counts its edits.
    pub version: i64,
}

/// The description as it is stored: without identifier, first and last day, which have columns of their own, and tests, which have a table.
fn settings(zone: &Zone) -> sqlx::Result<Value> {
    without(
        zone,
        &[
            "id",
            "active_from",
            "active_to",
            "tests",
            "soil_tests",
            "seen",
        ],
    )
}

fn row(
    id: i64,
    settings: Value,
    active_from: Option<jiff_sqlx::Date>,
    active_to: Option<jiff_sqlx::Date>,
    version: i64,
) -> sqlx::Result<ZoneRow> {
    let mut zone: Zone = serde_json::from_value(settings).map_err(undecodable)?;
    zone.id = id.to_string();
    zone.active_from = active_from.map(jiff_sqlx::Date::to_jiff);
    zone.active_to = active_to.map(jiff_sqlx::Date::to_jiff);
    Ok(ZoneRow {
        id: ZoneId(id),
        zone,
        version,
    })
}

/// Adds a zone at the end of the site's list.
pub async fn insert(db: impl PgExecutor<'_>, site: SiteId, zone: &Zone) -> sqlx::Result<ZoneId> {
    sqlx::query_scalar!(
        "INSERT INTO zone (site_id, position, settings, active_from, active_to)
         VALUES ($1, (SELECT coalesce(max(position), 0) + 1 FROM zone WHERE site_id = $1), $2, $3, $4) RETURNING id",
        site.0,
        settings(zone)?,
        zone.active_from.map(ToSqlx::to_sqlx) as _,
        zone.active_to.map(ToSqlx::to_sqlx) as _,
    )
    .fetch_one(db)
    .await
    .map(ZoneId)
}

/// The zones of a site in its order, ended ones too.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<ZoneRow>> {
    of_sites(db, &[site]).await.map(of_one)
}

/// The zones of sites, as [`of_site`].
pub async fn of_sites(
    db: impl PgExecutor<'_>,
    sites: &[SiteId],
) -> sqlx::Result<BTreeMap<SiteId, Vec<ZoneRow>>> {
    let sites: Vec<i64> = sites.iter().map(|site| site.0).collect();
    let rows = sqlx::query!(
        "SELECT site_id, id, settings, active_from, active_to, version FROM zone WHERE site_id = ANY($1) ORDER BY site_id, position, id",
        &sites
    )
    .fetch_all(db)
    .await?;
    let rows = rows.into_iter().map(|r| {
        let zone = row(r.id, r.settings, r.active_from, r.active_to, r.version)?;
        Ok((SiteId(r.site_id), zone))
    });
    Ok(grouped(rows.collect::<sqlx::Result<Vec<_>>>()?))
}

/// A zone of a site; `None` where the site has none such.
pub async fn get(
    db: impl PgExecutor<'_>,
    site: SiteId,
    id: ZoneId,
) -> sqlx::Result<Option<ZoneRow>> {
    sqlx::query!(
        "SELECT id, settings, active_from, active_to, version FROM zone WHERE site_id = $1 AND id = $2",
        site.0,
        id.0
    )
    .fetch_optional(db)
    .await?
    .map(|r| row(r.id, r.settings, r.active_from, r.active_to, r.version))
    .transpose()
}

/// Replaces a zone's description and counts the edit; the last day stays. Its ledger is made anew from the day that the change touches.
pub async fn update(
    db: impl PgExecutor<'_>,
    id: ZoneId,
    zone: &Zone,
    touched: Date,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE zone SET settings = $2, active_from = $3, ledger_from = least(ledger_from, $4), version = version + 1 WHERE id = $1",
        id.0,
        settings(zone)?,
        zone.active_from.map(ToSqlx::to_sqlx) as _,
        touched.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Sets a zone's last day.
pub async fn end(db: impl PgExecutor<'_>, id: ZoneId, last_day: Date) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE zone SET active_to = $2, version = version + 1 WHERE id = $1",
        id.0,
        last_day.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The site document of stored rows.
#[must_use]
pub fn document(site: &SiteRow, zones: &[ZoneRow]) -> SiteDocument {
    SiteDocument {
        format: FORMAT.to_owned(),
        version: VERSION,
        site: site.site.clone(),
        windows: site.windows.clone(),
        rules: site.rules.clone(),
        supply: site.supply.clone(),
        controller: site.controller.clone(),
        tariffs: site.tariffs.clone(),
        // Nothing of a plan goes by a meter or by what may be used.
        meters: Vec::new(),
        caps: Vec::new(),
        zones: zones.iter().map(|z| z.zone.clone()).collect(),
    }
}
