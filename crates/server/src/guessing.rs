//! What slows somebody who guesses passwords, and nobody else.
//!
//! Failures of a quarter of an hour count: of an address from a peer, from a peer for any address, of an address from any peer. Where the
//! account has signed in from the peer before, only the first counts, so that strangers who guess elsewhere, or at other addresses, lock
//! nobody out who is at home. Each attempt is counted before its password is looked at, one after another: many at once gain nothing.
//! NIST SP 800-63B asks for a limit of at most 100 failures in a row of one account; this is far below.

use sqlx::PgPool;

use crate::db::AccountId;
use crate::db::attempts::{self, Failures};

/// Failures after which the next attempt must wait: of an address from a peer, from a peer, of an address.
const FREE: [i64; 3] = [5, 25, 50];
/// First wait, s; it doubles with each failure more.
const FIRST_WAIT_S: f64 = 4.0;
/// Longest wait, s.
const LONGEST_WAIT_S: f64 = 300.0;

/// Seconds that an attempt must still wait; 0: it may go on.
fn wait_s(failures: &Failures) -> f64 {
    let counts = [failures.of_pair, failures.of_peer, failures.of_email];
    let weighing = if failures.known_peer { 1 } else { counts.len() };
    counts
        .into_iter()
        .zip(FREE)
        .take(weighing)
        .map(|((failed, last_s), free)| {
            let beyond = failed - free;
            if beyond < 0 {
                return 0.0;
            }
            let doublings = i32::try_from(beyond.min(16)).unwrap_or(16);
            (FIRST_WAIT_S * 2f64.powi(doublings)).min(LONGEST_WAIT_S) - last_s
        })
        .fold(0.0, f64::max)
}

/// Why an attempt is not looked at.
#[derive(Debug)]
pub enum Refused {
    /// Seconds to wait.
    Slowed(f64),
    /// The database.
    Database(sqlx::Error),
}

impl From<sqlx::Error> for Refused {
    fn from(error: sqlx::Error) -> Self {
        Self::Database(error)
    }
}

/// Counts an attempt at an address before its password is looked at; refuses it while it must wait.
///
/// # Errors
/// [`Refused`].
pub async fn attempt(pool: &PgPool, email: &str, peer: &str) -> Result<(), Refused> {
    let mut tx = pool.begin().await?;
    attempts::one_at_a_time(&mut tx, email, peer).await?;
    let wait = wait_s(&attempts::failures(&mut *tx, email, peer).await?);
    if wait > 0.0 {
        return Err(Refused::Slowed(wait.ceil()));
    }
    attempts::note_failure(&mut *tx, email, peer).await?;
    tx.commit().await?;
    Ok(())
}

/// The password was right: what was counted against the address from this peer is forgotten, and the peer is known.
///
/// # Errors
/// The database.
pub async fn right(
    pool: &PgPool,
    account: AccountId,
    email: &str,
    peer: &str,
) -> Result<(), sqlx::Error> {
    let mut tx = pool.begin().await?;
    attempts::forget(&mut *tx, email, peer).await?;
    attempts::know_peer(&mut *tx, account, peer).await?;
    tx.commit().await
}

#[cfg(test)]
mod tests {
    use super::*;

    fn failures(pair: i64, peer: i64, email: i64, known_peer: bool) -> Failures {
        Failures {
            of_pair: (pair, 1.0),
            of_peer: (peer, 1.0),
            of_email: (email, 1.0),
            known_peer,
        }
    }

    #[test]
    fn waits_double_from_four_seconds_to_five_minutes() {
        let wait = |pair| wait_s(&failures(pair, pair, pair, false));
        assert_eq!(
            [4, 5, 6, 7, 20].map(wait),
            [0.0, 3.0, 7.0, 15.0, 299.0],
            "less the second since the last"
        );
    }

    #[test]
    fn strangers_elsewhere_lock_out_nobody_who_is_at_home() {
        assert_eq!(wait_s(&failures(0, 25, 0, true)), 0.0);
        assert_eq!(wait_s(&failures(0, 0, 60, true)), 0.0);
        assert!(wait_s(&failures(5, 5, 5, true)) > 0.0);
        assert!(wait_s(&failures(0, 25, 0, false)) > 0.0);
        assert!(wait_s(&failures(0, 0, 50, false)) > 0.0);
        assert_eq!(wait_s(&failures(4, 24, 49, false)), 0.0);
    }
}
