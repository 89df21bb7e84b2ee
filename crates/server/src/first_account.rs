//! The first account of an empty database: whoever has the code that the server printed when it started makes it.

use sha2::{Digest, Sha256};
use sqlx::PgPool;

use crate::db::accounts;

/// Letters and digits that nobody takes for one another.
const LETTERS: &[u8; 32] = b"ABCDEFGHJKLMNPQRSTUVWXYZ23456789";
/// Letters of a code: 40 bits, guessed at a few tries a minute.
const LENGTH: usize = 8;

/// A new code, while there is no account; an earlier one is void.
///
/// # Errors
/// The database, or a system without random numbers.
pub async fn offer(pool: &PgPool) -> Result<Option<String>, sqlx::Error> {
    if accounts::any(pool).await? {
        return Ok(None);
    }
    let mut bytes = [0u8; LENGTH];
    getrandom::fill(&mut bytes).map_err(|e| sqlx::Error::Io(std::io::Error::other(e)))?;
    let code: String = bytes
        .iter()
        .map(|byte| char::from(LETTERS[usize::from(byte % 32)]))
        .collect();
    accounts::set_first_code(pool, &hash(&code)).await?;
    let (first, second) = code.split_at(LENGTH / 2);
    Ok(Some(format!("{first}-{second}")))
}

/// The hash of a code as somebody types it: in any case, with or without its dash.
#[must_use]
pub fn hash(typed: &str) -> Vec<u8> {
    let plain = typed.chars().filter(char::is_ascii_alphanumeric);
    let plain: String = plain.map(|c| c.to_ascii_uppercase()).collect();
    Sha256::digest(plain).to_vec()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_code_is_the_same_however_it_is_typed() {
        for typed in ["k7qm 3xpd", "K7QM3XPD", " k7Qm-3xPd\n"] {
            assert_eq!(hash(typed), hash("K7QM-3XPD"), "{typed}");
        }
        assert_ne!(hash("K7QM-3XPE"), hash("K7QM-3XPD"));
    }
}
