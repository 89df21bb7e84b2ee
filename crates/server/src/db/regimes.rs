//! Regimes of zones as people changed them, with the reason.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff_sqlx::ToSqlx;
use lawn::site::Regime;
use lawn::stress::dormancy::Proposes;
use serde_json::Value;
use sqlx::PgExecutor;

use super::{AccountId, SiteId, ZoneId, undecodable};

/// A change that a person makes.
pub struct NewChange<'a> {
    /// The zone.
    pub zone: ZoneId,
    /// The regime from then on.
    pub regime: Regime,
    /// Its first day.
    pub from: Date,
    /// The proposal that is taken.
    pub proposal: Option<Proposes>,
    /// Why, in the person's words.
    pub note: Option<&'a str>,
    /// Who.
    pub account: AccountId,
    /// The site's instant.
    pub said_at: Timestamp,
}

/// A change as it is stored.
pub struct ChangeRow {
    /// The zone.
    pub zone: ZoneId,
    /// The regime from then on.
    pub regime: Regime,
    /// Its first day.
    pub from: Date,
    /// The proposal that was taken; `None`: a person chose it.
    pub proposal: Option<Proposes>,
    /// Why, in the person's words.
    pub note: Option<String>,
    /// Who.
    pub who: Option<String>,
    /// When it was said, by the site's clock.
    pub said_at: Timestamp,
}

/// Keeps a change.
pub async fn add(db: impl PgExecutor<'_>, change: &NewChange<'_>) -> sqlx::Result<()> {
    let proposal = change.proposal.map(serde_json::to_value);
    sqlx::query!(
        "INSERT INTO regime_change (zone_id, regime, from_day, proposal, note, account_id, said_at) VALUES ($1, $2, $3, $4, $5, $6, $7)",
        change.zone.0,
        change.regime.name(),
        change.from.to_sqlx() as _,
        proposal.transpose().map_err(undecodable)?,
        change.note,
        change.account.0,
        change.said_at.to_sqlx() as _,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// The changes of a site's zones, newest first.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<ChangeRow>> {
    let rows = sqlx::query!(
        r#"SELECT c.zone_id, c.regime, c.from_day, c.proposal, c.note, c.said_at, a.name AS "who?"
           FROM regime_change c JOIN zone z ON z.id = c.zone_id LEFT JOIN account a ON a.id = c.account_id
           WHERE z.site_id = $1 ORDER BY c.id DESC"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    let row = rows.into_iter().map(|r| {
        let proposal = r.proposal.map(serde_json::from_value).transpose();
        Ok(ChangeRow {
            zone: ZoneId(r.zone_id),
            regime: serde_json::from_value(Value::String(r.regime)).map_err(undecodable)?,
            from: r.from_day.to_jiff(),
            proposal: proposal.map_err(undecodable)?,
            note: r.note,
            who: r.who,
            said_at: r.said_at.to_jiff(),
        })
    });
    row.collect()
}

/// The changes of a zone among those of its site, with their first days.
#[must_use]
pub fn of_zone(changes: &[ChangeRow], zone: ZoneId) -> Vec<(Regime, Date)> {
    let own = changes.iter().filter(|change| change.zone == zone);
    own.map(|change| (change.regime, change.from)).collect()
}
