//! Devices that send a site's weather, by the hash of their token.

use jiff::Timestamp;
use sqlx::PgExecutor;

use super::{AccountId, SiteId};

/// A device; its token is not kept.
#[derive(Debug, Clone)]
pub struct Device {
    /// Its identifier.
    pub id: i64,
    /// Name for people.
    pub name: String,
    /// Whose account made its token.
    pub made_by: Option<AccountId>,
    /// Their name.
    pub maker: Option<String>,
    /// When its token was made.
    pub made_at: Timestamp,
    /// When it last sent anything.
    pub last_used_at: Option<Timestamp>,
}

/// Adds a device.
pub async fn insert(
    db: impl PgExecutor<'_>,
    site: SiteId,
    by: AccountId,
    name: &str,
    token_hash: &[u8],
) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        "INSERT INTO device_token (site_id, made_by, name, token_hash) VALUES ($1, $2, $3, $4) RETURNING id",
        site.0,
        by.0,
        name,
        token_hash
    )
    .fetch_one(db)
    .await
}

/// The devices of a site that are not revoked, oldest first.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Device>> {
    let rows = sqlx::query!(
        r#"SELECT d.id, d.name, d.made_by, a.name AS "maker?", d.made_at, d.last_used_at
           FROM device_token d LEFT JOIN account a ON a.id = d.made_by WHERE d.site_id = $1 AND d.revoked_at IS NULL ORDER BY d.id"#,
        site.0
    )
    .fetch_all(db)
    .await?;
    let devices = rows.into_iter().map(|r| Device {
        id: r.id,
        name: r.name,
        made_by: r.made_by.map(AccountId),
        maker: r.maker,
        made_at: r.made_at.to_jiff(),
        last_used_at: r.last_used_at.map(jiff_sqlx::Timestamp::to_jiff),
    });
    Ok(devices.collect())
}

/// Revokes a device's token; its name, or `None` where there is no such one.
pub async fn revoke(
    db: impl PgExecutor<'_>,
    site: SiteId,
    id: i64,
) -> sqlx::Result<Option<String>> {
    sqlx::query_scalar!(
        "UPDATE device_token SET revoked_at = now() WHERE id = $1 AND site_id = $2 AND revoked_at IS NULL RETURNING name",
        id,
        site.0
    )
    .fetch_optional(db)
    .await
}

/// Revokes the tokens that an account made for a site; their devices' names.
pub async fn revoke_all_of(
    db: impl PgExecutor<'_>,
    site: SiteId,
    maker: AccountId,
) -> sqlx::Result<Vec<String>> {
    sqlx::query_scalar!(
        "UPDATE device_token SET revoked_at = now() WHERE site_id = $1 AND made_by = $2 AND revoked_at IS NULL RETURNING name",
        site.0,
        maker.0,
    )
    .fetch_all(db)
    .await
}

/// Has another account answer for the tokens that one made for a site; their devices' names.
pub async fn take_over(
    db: impl PgExecutor<'_>,
    site: SiteId,
    maker: AccountId,
    taken_by: AccountId,
) -> sqlx::Result<Vec<String>> {
    sqlx::query_scalar!(
        "UPDATE device_token SET made_by = $3 WHERE site_id = $1 AND made_by = $2 AND revoked_at IS NULL RETURNING name",
        site.0,
        maker.0,
        taken_by.0,
    )
    .fetch_all(db)
    .await
}

/// The device of a token and its site; none where the token was revoked, or never was.
pub async fn of_token(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> sqlx::Result<Option<(i64, SiteId)>> {
    let row = sqlx::query!(
        "SELECT id, site_id FROM device_token WHERE token_hash = $1 AND revoked_at IS NULL",
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (r.id, SiteId(r.site_id))))
}

/// Notes that a device sent something.
pub async fn used(db: impl PgExecutor<'_>, id: i64) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE device_token SET last_used_at = now() WHERE id = $1",
        id
    )
    .execute(db)
    .await?;
    Ok(())
}
