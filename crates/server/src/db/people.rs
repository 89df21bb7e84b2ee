//! Members of a site.

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
