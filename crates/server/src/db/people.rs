//! Members of a site, invitations, and the limits on signing in.

use jiff::Timestamp;
use sqlx::PgExecutor;

use super::{AccountId, SiteId};

/// A member of a site.
#[derive(Debug, Clone)]
pub struct Member {
    /// Whose account.
    pub account: AccountId,
    /// Name.
    pub name: String,
    /// Address.
    pub email: String,
    /// Role.
    pub role: String,
}

/// Members by name.
pub async fn members(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Member>> {
    let rows = sqlx::query!(
        "SELECT a.id, a.name, a.email, m.role FROM membership m JOIN account a ON a.id = m.account_id
         WHERE m.site_id = $1 ORDER BY a.name, a.id",
        site.0
    )
    .fetch_all(db)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Member {
            account: AccountId(r.id),
            name: r.name,
            email: r.email,
            role: r.role,
        })
        .collect())
}

/// Gives a member another role.
pub async fn set_role(
    db: impl PgExecutor<'_>,
    site: SiteId,
    account: AccountId,
    role: &str,
) -> sqlx::Result<()> {
    sqlx::query!(
        "UPDATE membership SET role = $3 WHERE site_id = $1 AND account_id = $2",
        site.0,
        account.0,
        role
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Ends a membership.
pub async fn remove(db: impl PgExecutor<'_>, site: SiteId, account: AccountId) -> sqlx::Result<()> {
    sqlx::query!(
        "DELETE FROM membership WHERE site_id = $1 AND account_id = $2",
        site.0,
        account.0
    )
    .execute(db)
    .await?;
    Ok(())
}

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
pub async fn invite(
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
pub async fn invitations(db: impl PgExecutor<'_>, site: SiteId) -> sqlx::Result<Vec<Invitation>> {
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
    pub invited_by: Option<String>,
}

/// The open invitation of a token, locked for the caller's transaction.
pub async fn open_invitation(
    db: impl PgExecutor<'_>,
    token_hash: &[u8],
) -> sqlx::Result<Option<OpenInvitation>> {
    let row = sqlx::query!(
        r#"SELECT i.id, i.site_id, s.name AS site_name, i.name, i.role, a.name AS "invited_by?"
           FROM invitation i JOIN site s ON s.id = i.site_id LEFT JOIN account a ON a.id = i.invited_by
           WHERE i.token_hash = $1 AND i.accepted_at IS NULL AND i.revoked_at IS NULL AND i.expires_at > now()
           FOR UPDATE OF i"#,
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

/// Failed sign-ins of the last quarter of an hour, by address and by peer, and seconds since the address's last.
pub struct Failures {
    /// For the address.
    pub of_email: i64,
    /// From the peer.
    pub of_peer: i64,
    /// Seconds since the last of either.
    pub last_s: f64,
}

/// Lets attempts of one address follow each other within the caller's transaction.
pub async fn one_at_a_time(db: impl PgExecutor<'_>, email: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "SELECT pg_advisory_xact_lock(hashtextextended($1, 0)) AS \"void: ()\"",
        email
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Failed sign-ins of late.
pub async fn failures(db: impl PgExecutor<'_>, email: &str, peer: &str) -> sqlx::Result<Failures> {
    let r = sqlx::query!(
        r#"SELECT count(*) FILTER (WHERE email = $1) AS "of_email!", count(*) FILTER (WHERE peer = $2) AS "of_peer!",
                  coalesce(extract(epoch FROM now() - max(at)), 900)::float8 AS "last_s!"
           FROM sign_in_failure WHERE (email = $1 OR peer = $2) AND at > now() - interval '15 minutes'"#,
        email,
        peer
    )
    .fetch_one(db)
    .await?;
    Ok(Failures {
        of_email: r.of_email,
        of_peer: r.of_peer,
        last_s: r.last_s,
    })
}

/// Notes a failed sign-in; those that no longer count are swept on the way.
pub async fn note_failure(db: impl PgExecutor<'_>, email: &str, peer: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "WITH swept AS (DELETE FROM sign_in_failure WHERE at < now() - interval '1 day')
         INSERT INTO sign_in_failure (email, peer) VALUES ($1, $2)",
        email,
        peer
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Forgets the failures of an address after a right password.
pub async fn forget_failures(db: impl PgExecutor<'_>, email: &str) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM sign_in_failure WHERE email = $1", email)
        .execute(db)
        .await?;
    Ok(())
}
