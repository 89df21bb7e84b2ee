//! Whether two plans were made from the same: what was known, by its hash.

use std::fmt::Write;

use serde::Serialize;
use sha2::{Digest, Sha256};

use crate::computing::Failure;

/// The first half of the SHA-256 of a value's JSON, in hexadecimal.
///
/// # Errors
/// A value that is no JSON.
pub fn hash(value: &impl Serialize) -> Result<String, Failure> {
    let json = serde_json::to_vec(value).map_err(|e| Failure::Stored(e.to_string()))?;
    let digest = Sha256::digest(json);
    Ok(digest[..16].iter().fold(String::new(), |mut text, byte| {
        // Writing to a string does not fail.
        let _ = write!(text, "{byte:02x}");
        text
    }))
}
