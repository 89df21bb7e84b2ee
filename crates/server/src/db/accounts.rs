//! Accounts and their sessions.

use sqlx::PgExecutor;

use super::{AccountId, SiteId};

/// An account as sign-in needs it.
pub struct Credentials {
    /// Whose.
    pub id: AccountId,
    /// argon2id, PHC format.
    pub password_hash: String,
}

/// Adds an account; `None` where the address, in lower case, has one.
pub async fn insert(
    db: impl PgExecutor<'_>,
    email: &str,
    name: &str,
    password_hash: &str,
    is_demo: bool,
) -> sqlx::Result<Option<AccountId>> {
    let id = sqlx::query_scalar!(
        "INSERT INTO account (email, name, password_hash, is_demo) VALUES ($1, $2, $3, $4)
         ON CONFLICT (email) DO NOTHING RETURNING id",
        email,
        name,
        password_hash,
        is_demo,
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(AccountId))
}

/// The credentials of an address in lower case.
pub async fn credentials(
    db: impl PgExecutor<'_>,
    email: &str,
) -> sqlx::Result<Option<Credentials>> {
    let row = sqlx::query!(
        "SELECT id, password_hash FROM account WHERE email = $1",
        email
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| Credentials {
        id: AccountId(r.id),
        password_hash: r.password_hash,
    }))
}

/// Name and address of an account.
pub async fn identity(
    db: impl PgExecutor<'_>,
    account: AccountId,
) -> sqlx::Result<(String, String)> {
    let row = sqlx::query!("SELECT name, email FROM account WHERE id = $1", account.0)
        .fetch_one(db)
        .await?;
    Ok((row.name, row.email))
}

/// Whether any demo account exists.
pub async fn any_demo(db: impl PgExecutor<'_>) -> sqlx::Result<bool> {
    sqlx::query_scalar!(r#"SELECT EXISTS (SELECT FROM account WHERE is_demo) AS "any!""#)
        .fetch_one(db)
        .await
}

/// Starts a session of 30 days if the account's password is still the one that was verified; `false` where it is not. Old sessions of
/// everybody are swept on the way.
pub async fn start_session(
    db: impl PgExecutor<'_>,
    id_hash: &[u8],
    account: AccountId,
    verified: &str,
) -> sqlx::Result<bool> {
    // FOR SHARE waits for a change of the password that is going on, and one that comes after waits for this.
    let done = sqlx::query!(
        "WITH swept AS (DELETE FROM session WHERE expires_at < now())
         INSERT INTO session (id_hash, account_id, expires_at)
         SELECT $1, id, now() + interval '30 days' FROM (SELECT id FROM account WHERE id = $2 AND password_hash = $3 FOR SHARE) a",
        id_hash,
        account.0,
        verified,
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The account of a session that has not expired.
pub async fn session_account(
    db: impl PgExecutor<'_>,
    id_hash: &[u8],
) -> sqlx::Result<Option<AccountId>> {
    let id = sqlx::query_scalar!(
        "SELECT account_id FROM session WHERE id_hash = $1 AND expires_at > now()",
        id_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(AccountId))
}

/// Ends a session.
pub async fn end_session(db: impl PgExecutor<'_>, id_hash: &[u8]) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM session WHERE id_hash = $1", id_hash)
        .execute(db)
        .await?;
    Ok(())
}

/// Ends every session of an account.
pub async fn end_sessions(db: impl PgExecutor<'_>, account: AccountId) -> sqlx::Result<()> {
    sqlx::query!("DELETE FROM session WHERE account_id = $1", account.0)
        .execute(db)
        .await?;
    Ok(())
}

/// The password hash of an account.
pub async fn password_hash(db: impl PgExecutor<'_>, account: AccountId) -> sqlx::Result<String> {
    sqlx::query_scalar!("SELECT password_hash FROM account WHERE id = $1", account.0)
        .fetch_one(db)
        .await
}

/// Replaces the password of an account if it is still the one that was verified; `false` where it is not.
pub async fn set_password(
    db: impl PgExecutor<'_>,
    account: AccountId,
    verified: &str,
    password_hash: &str,
) -> sqlx::Result<bool> {
    let done = sqlx::query!(
        "UPDATE account SET password_hash = $3 WHERE id = $1 AND password_hash = $2",
        account.0,
        verified,
        password_hash
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() == 1)
}

/// The account of a session and its role on a site, in one question.
pub async fn session_role(
    db: impl PgExecutor<'_>,
    id_hash: &[u8],
    site: SiteId,
) -> sqlx::Result<Option<(AccountId, Option<String>)>> {
    let row = sqlx::query!(
        r#"SELECT s.account_id, m.role AS "role?"
           FROM session s LEFT JOIN membership m ON m.account_id = s.account_id AND m.site_id = $2
           WHERE s.id_hash = $1 AND s.expires_at > now()"#,
        id_hash,
        site.0,
    )
    .fetch_optional(db)
    .await?;
    Ok(row.map(|r| (AccountId(r.account_id), r.role)))
}

/// Lets what an account may have only so many of follow each other within the caller's transaction.
pub async fn lock(db: impl PgExecutor<'_>, account: AccountId) -> sqlx::Result<()> {
    sqlx::query_scalar!(
        "SELECT id FROM account WHERE id = $1 FOR NO KEY UPDATE",
        account.0
    )
    .fetch_one(db)
    .await?;
    Ok(())
}

/// Whether there is any account.
pub async fn any(db: impl PgExecutor<'_>) -> sqlx::Result<bool> {
    sqlx::query_scalar!(r#"SELECT EXISTS (SELECT FROM account) AS "any!""#)
        .fetch_one(db)
        .await
}

/// Sets the code for the first account; an earlier one is void.
pub async fn set_first_code(db: impl PgExecutor<'_>, code_hash: &[u8]) -> sqlx::Result<()> {
    sqlx::query!(
        "INSERT INTO first_account_code (code_hash) VALUES ($1)
         ON CONFLICT (only_one) DO UPDATE SET code_hash = $1, made_at = now()",
        code_hash
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Takes the code for the first account away if it is this one, so that it works once.
pub async fn take_first_code(db: impl PgExecutor<'_>, code_hash: &[u8]) -> sqlx::Result<bool> {
    let taken = sqlx::query!(
        "DELETE FROM first_account_code WHERE code_hash = $1",
        code_hash
    )
    .execute(db)
    .await?;
    Ok(taken.rows_affected() == 1)
}

/// Sets a password that was lost anew; `None` where no account has the address.
pub async fn reset_password(
    db: impl PgExecutor<'_>,
    email: &str,
    password_hash: &str,
) -> sqlx::Result<Option<AccountId>> {
    let id = sqlx::query_scalar!(
        "UPDATE account SET password_hash = $2 WHERE email = $1 RETURNING id",
        email,
        password_hash
    )
    .fetch_optional(db)
    .await?;
    Ok(id.map(AccountId))
}
