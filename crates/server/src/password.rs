//! Passwords: argon2id in a bounded blocking pool, so that many sign-ins at once cannot starve the rest.
//!
//! Each hash works in 19 MiB. The blocks are kept and used again: given back and asked for at each hash they stay resident in the
//! allocator's arenas, one set a thread that ever hashed.

use std::sync::{Arc, LazyLock, Mutex, PoisonError};

use argon2::password_hash::phc::{Output, ParamsString, PasswordHash, Salt};
use argon2::{Algorithm, Argon2, Block, Params, Version};
use thiserror::Error;
use tokio::sync::Semaphore;

/// At most this many hashes at once: each takes 19 MiB and a core.
const AT_ONCE: usize = 2;

static SLOTS: LazyLock<Arc<Semaphore>> = LazyLock::new(|| Arc::new(Semaphore::new(AT_ONCE)));
/// Memory of the hashes that are not going on.
static MEMORY: Mutex<Vec<Vec<Block>>> = Mutex::new(Vec::new());

/// A password could not be hashed or checked; never says why to a client.
#[derive(Debug, Error)]
#[error("password hashing failed: {0}")]
pub struct Error(String);

fn failed(error: impl std::fmt::Display) -> Error {
    Error(error.to_string())
}

/// Hashes a password, PHC format.
///
/// # Errors
/// The hash library's own, or a pool that is shutting down.
pub async fn hash(password: String) -> Result<String, Error> {
    blocking(move || {
        let argon2 = Argon2::default();
        let mut random = [0u8; Salt::RECOMMENDED_LENGTH];
        getrandom::fill(&mut random).map_err(failed)?;
        let salt = Salt::new(&random).map_err(failed)?;
        let hash = output(&argon2, &password, &salt, Params::DEFAULT_OUTPUT_LEN)?;
        Ok(PasswordHash {
            algorithm: Algorithm::default().ident(),
            version: Some(Version::default().into()),
            params: ParamsString::try_from(argon2.params()).map_err(failed)?,
            salt: Some(salt),
            hash: Some(hash),
        }
        .to_string())
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
        let kept = PasswordHash::new(&hash).map_err(failed)?;
        let (Some(salt), Some(expected)) = (kept.salt, kept.hash) else {
            return Err(failed("a hash without salt or output"));
        };
        let algorithm = Algorithm::try_from(kept.algorithm.as_str()).map_err(failed)?;
        let version = kept
            .version
            .map(Version::try_from)
            .transpose()
            .map_err(failed)?;
        let params = Params::try_from(&kept).map_err(failed)?;
        let argon2 = Argon2::new(algorithm, version.unwrap_or_default(), params);
        // `Output` compares in constant time.
        Ok(output(&argon2, &password, &salt, expected.len())? == expected)
    })
    .await??;
    Ok(matches && known)
}

fn output(
    argon2: &Argon2<'_>,
    password: &str,
    salt: &[u8],
    length: usize,
) -> Result<Output, Error> {
    let mut bytes = [0u8; Output::MAX_LENGTH];
    let out = bytes
        .get_mut(..length)
        .ok_or_else(|| failed("an output of that length"))?;
    let mut memory = take_memory();
    memory.resize(argon2.params().block_count(), Block::default());
    let hashed = argon2.hash_password_into_with_memory(password.as_bytes(), salt, out, &mut memory);
    give_back(memory);
    hashed.map_err(failed)?;
    Output::new(out).map_err(failed)
}

fn take_memory() -> Vec<Block> {
    let mut kept = MEMORY.lock().unwrap_or_else(PoisonError::into_inner);
    kept.pop().unwrap_or_default()
}

fn give_back(memory: Vec<Block>) {
    let mut kept = MEMORY.lock().unwrap_or_else(PoisonError::into_inner);
    if kept.len() < AT_ONCE {
        kept.push(memory);
    }
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
    let slot = SLOTS.clone().acquire_owned().await.map_err(failed)?;
    tokio::task::spawn_blocking(move || {
        // Held until the hash is made, also where nobody waits for it any more.
        let _slot = slot;
        work()
    })
    .await
    .map_err(failed)
}
