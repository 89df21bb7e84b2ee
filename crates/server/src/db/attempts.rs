//! Failed sign-ins, and the peers from which an account has signed in.

use sqlx::{PgConnection, PgExecutor};

use super::AccountId;

/// Failed sign-ins of the last quarter of an hour that weigh on an attempt.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Failures {
    /// Of this address from this peer, and seconds since the last of them.
    pub of_pair: (i64, f64),
    /// From this peer, for any address.
    pub of_peer: (i64, f64),
    /// Of this address, from any peer.
    pub of_email: (i64, f64),
    /// Whether an account of this address has signed in from this peer.
    pub known_peer: bool,
}

/// Lets attempts from one peer, and at one address, follow each other within the caller's transaction: the peer first, always.
pub async fn one_at_a_time(db: &mut PgConnection, email: &str, peer: &str) -> sqlx::Result<()> {
    for (kind, key) in [(1, peer), (2, email)] {
        sqlx::query!(
            r#"SELECT pg_advisory_xact_lock($1, hashtext($2)) AS "void: ()""#,
            kind,
            key
        )
        .execute(&mut *db)
        .await?;
    }
    Ok(())
}

/// Failed sign-ins of late.
pub async fn failures(db: impl PgExecutor<'_>, email: &str, peer: &str) -> sqlx::Result<Failures> {
    let r = sqlx::query!(
        r#"SELECT count(*) FILTER (WHERE email = $1 AND peer = $2) AS "pair!", count(*) FILTER (WHERE peer = $2) AS "peer!",
                  count(*) FILTER (WHERE email = $1) AS "email!",
                  coalesce(extract(epoch FROM now() - max(at) FILTER (WHERE email = $1 AND peer = $2)), 900)::float8 AS "pair_s!",
                  coalesce(extract(epoch FROM now() - max(at) FILTER (WHERE peer = $2)), 900)::float8 AS "peer_s!",
                  coalesce(extract(epoch FROM now() - max(at) FILTER (WHERE email = $1)), 900)::float8 AS "email_s!",
                  EXISTS (SELECT FROM known_peer k JOIN account a ON a.id = k.account_id WHERE a.email = $1 AND k.peer = $2) AS "known!"
           FROM sign_in_failure WHERE (email = $1 OR peer = $2) AND at > now() - interval '15 minutes'"#,
        email,
        peer
    )
    .fetch_one(db)
    .await?;
    Ok(Failures {
        of_pair: (r.pair, r.pair_s),
        of_peer: (r.peer, r.peer_s),
        of_email: (r.email, r.email_s),
        known_peer: r.known,
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

/// Forgets the failures of an address from a peer after a right password.
pub async fn forget(db: impl PgExecutor<'_>, email: &str, peer: &str) -> sqlx::Result<()> {
    sqlx::query!(
        "DELETE FROM sign_in_failure WHERE email = $1 AND peer = $2",
        email,
        peer
    )
    .execute(db)
    .await?;
    Ok(())
}

/// Remembers that an account signed in from a peer, for ninety days.
pub async fn know_peer(
    db: impl PgExecutor<'_>,
    account: AccountId,
    peer: &str,
) -> sqlx::Result<()> {
    sqlx::query!(
        "WITH swept AS (DELETE FROM known_peer WHERE last_at < now() - interval '90 days')
         INSERT INTO known_peer (account_id, peer) VALUES ($1, $2)
         ON CONFLICT (account_id, peer) DO UPDATE SET last_at = now()",
        account.0,
        peer
    )
    .execute(db)
    .await?;
    Ok(())
}
