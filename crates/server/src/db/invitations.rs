//! Invitations: single-use links to join a site. An invitation lives only as long as who made it is an owner of the site.

use jiff::Timestamp;
use sqlx::PgExecutor;

use super::{AccountId, SiteId};

/// An invitation as the owner sees it; its token is not kept.
#[derive(Debug, Clone)]
pub struct Invitation {
    /// Its identifier.
    pub id: i64,
    /// For whom.
    pub name: String,
    /// Role that it gives.
    pub role: String,
    /// Until when it can be accepted.
    pub expires_at: Timestamp,
    /// When it was accepted.
    pub accepted_at: Option<Timestamp>,
    /// When it was revoked.
    pub revoked_at: Option<Timestamp>,
}

/// Adds an invitation that lasts seven days.
pub async fn insert(
    db: impl PgExecutor<'_>,
    site: SiteId,
    by: AccountId,
    name: &str,
    role: &str,
    token_hash: &[u8],
) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        "INSERT INTO invitation (site_id, invited_by, name, role, token_hash, expires_at)
         VALUES ($1, $2, $3, $4, $5, now() + interval '7 days') RETURNING id",
        site.0,
        by.0,
        name,
        role,
        token_hash
    )
    .fetch_one(db)
    .await
}

/// Invitations of a site, newest first.
pub async fn of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Invitation>> {
    let rows = sqlx::query!(
        "SELECT id, name, role, expires_at, accepted_at, revoked_at FROM invitation
         WHERE site_id = $1 ORDER BY id DESC LIMIT 100",
        site.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Invitation {
            id: r.id,
            name: r.name,
            role: r.role,
            expires_at: r.expires_at.to_jiff(),
            accepted_at: r.accepted_at.map(jiff_sqlx::Timestamp::to_jiff),
            revoked_at: r.revoked_at.map(jiff_sqlx::Timestamp::to_jiff),
        })
        .collect())
}

/// Revokes an open invitation; its name, or `None` where there is no open one.
pub async fn revoke(
    db: impl PgExecutor<'_>,
    site: SiteId,
    id: i64,
) -> sqlx::Result<Option<String>> {
    sqlx::query_scalar!(
        "UPDATE invitation SET revoked_at = now()
         WHERE id = $1 AND site_id = $2 AND accepted_at IS NULL AND revoked_at IS NULL RETURNING name",
        id,
        site.0
    )
    .fetch_optional(db)
    .await
}

/// An invitation that can still be accepted.
#[derive(Debug, Clone)]
pub struct OpenInvitation {
    /// Its identifier.
    pub id: i64,
    /// The site.
    pub site: SiteId,
    /// Its name.
    pub site_name: String,
    /// For whom.
    pub name: String,
    /// Role that it gives.
    pub role: String,
    /// Who invites.
    pub invited_by: String,
    /// The address for which a new account was asked for with it.
    pub claimed_by: Option<String>,
}

/// Revokes what an account has invited to a site: it is no owner there any more.
pub async fn revoke_all(db: impl PgExecutor<'_>, site: SiteId, by: AccountId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE invitation SET revoked_at = now()
         WHERE site_id = $1 AND invited_by = $2 AND accepted_at IS NULL AND revoked_at IS NULL",
        site.0,
        by.0,
    )
    .execute(db)
    .await?;
    Ok(())
}

/// How many invitations of a site are open.
pub async fn open_of_site(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<i64> {
    sqlx::query_scalar!(
        r#"SELECT count(*) AS "open!" FROM invitation
           WHERE site_id = $1 AND accepted_at IS NULL AND revoked_at IS NULL AND expires_at > now()"#,
        site.0
    )
    .fetch_one(db)
    .await
}

/// The open invitation of a token.
pub async fn open(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> sqlx::Result<Option<OpenInvitation>> {
    let row = sqlx::query!(
        "SELECT i.id, i.site_id, s.name AS site_name, i.name, i.role, a.name AS invited_by, i.claimed_by
         FROM invitation i JOIN site s ON s.id = i.site_id JOIN account a ON a.id = i.invited_by
         JOIN membership m ON m.site_id = i.site_id AND m.account_id = i.invited_by AND m.role = 'owner'
         WHERE i.token_hash = $1 AND i.accepted_at IS NULL AND i.revoked_at IS NULL AND i.expires_at > now()",
        token_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| OpenInvitation {
        id: r.id,
        site: SiteId(r.site_id),
        site_name: r.site_name,
        name: r.name,
        role: r.role,
        invited_by: r.invited_by,
        claimed_by: r.claimed_by,
    }))
}

/// Marks an invitation as accepted.
pub async fn accept(db: impl PgExecutor<'_>, id: i64, account: AccountId) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE invitation SET accepted_at = now(), accepted_by = $2 WHERE id = $1",
        id,
        account.0
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Notes the address for which a new account was asked for with an invitation.
pub async fn claim(db: impl PgExecutor<'_>, id: i64, email: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE invitation SET claimed_by = $2 WHERE id = $1",
        id,
        email
    )
    .execute(db)
    .await?;
    Ok(())
}
