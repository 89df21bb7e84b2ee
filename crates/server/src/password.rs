//! Passwords: argon2id in a bounded blocking pool, so that many sign-ins at once cannot starve the rest.

use std::sync::{Arc, LazyLock};

use argon2::Argon2;
use argon2::password_hash::phc::PasswordHash;
use argon2::password_hash::{PasswordHasher, PasswordVerifier};
use thiserror::Error;
use tokio::sync::Semaphore;

/// At most this many hashes at once: each takes 19 MiB and a core.
static SLOTS: LazyLock<Arc<Semaphore>> = LazyLock::new(|| Arc::new(Semaphore::new(2)));

/// A password could not be hashed or checked; never says why to a client.
#[derive(Debug, Error)]
#[error("password hashing failed: {0}")]
pub struct Error(String);

/// Hashes a password.
///
/// # Errors
/// The hash library's own, or a pool that is shutting down.
pub async fn hash(password: String) -> Result<String, Error> {
    blocking(move || {
        Argon2::default()
            .hash_password(password.as_bytes())
            .map(|hash| hash.to_string())
            .map_err(|e| Error(e.to_string()))
    })
    .await?
}

/// Checks a password against a hash; `None` (no such account) takes as long and is always false.
///
/// # Errors
/// As [`hash`].
pub async fn verify(password: String, hash: Option<String>) -> Result<bool, Error> {
    let known = hash.is_some();
    let hash = match hash {
        Some(hash) => hash,
        None => decoy().await?,
    };
    let matches = blocking(move || {
        let parsed = PasswordHash::new(&hash).map_err(|e| Error(e.to_string()))?;
        Ok(Argon2::default()
            .verify_password(password.as_bytes(), &parsed)
            .is_ok())
    })
    .await??;
    Ok(matches && known)
}

/// A hash that nothing matches on purpose, made once.
async fn decoy() -> Result<String, Error> {
    static DECOY: tokio::sync::OnceCell<String> = tokio::sync::OnceCell::const_new();
    DECOY
        .get_or_try_init(|| hash("no account has this password".to_owned()))
        .await
        .cloned()
}

async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Error> {
    let _slot = SLOTS
        .clone()
        .acquire_owned()
        .await
        .map_err(|e| Error(e.to_string()))?;
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|e| Error(e.to_string()))
}
