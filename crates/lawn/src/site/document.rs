//! Reading and writing the site document: JSON, unknown keys refused, older versions migrated.

use serde_json::Value;
use thiserror::Error;

use super::version_1;
use crate::site::{Invalid, SiteDocument};
use crate::text::check_json;

/// The name of the format.
pub const FORMAT: &str = "fresh-meadow-site";
/// The version that this program writes.
pub const VERSION: u32 = 2;
/// Largest document that is read, bytes.
pub const LARGEST: usize = 10 * 1024 * 1024;

/// Why a document was not read.
#[derive(Debug, Error, PartialEq, Eq)]
pub enum Error {
    /// Not JSON, an unknown key, a wrong type, a missing key.
    #[error("line {line}, column {column}: {message}")]
    Malformed {
        /// Line, from 1.
        line: usize,
        /// Column, from 1.
        column: usize,
        /// What is wrong.
        message: String,
    },
    /// Another format, or a version that this program does not know.
    #[error("{0}")]
    Foreign(String),
    /// A figure out of range, a name used twice, and the like.
    #[error(transparent)]
    Invalid(#[from] Invalid),
}

/// Reads and checks a site document.
///
/// # Errors
/// [`Error`], naming the line and column or the key.
pub fn read(text: &str) -> Result<SiteDocument, Error> {
    let text = text.trim_start_matches('\u{feff}');
    // The header first: a document of another version may hold keys that this one does not know.
    let header: Value = serde_json::from_str(text).map_err(|e| malformed(&e))?;
    check_json("", &header)?;
    match header.get("format").and_then(Value::as_str) {
        Some(FORMAT) => {}
        Some(other) => {
            return Err(Error::Foreign(format!(
                "format: \"{other}\" is not \"{FORMAT}\""
            )));
        }
        None => {
            return Err(Error::Foreign(format!(
                "format: missing; must be \"{FORMAT}\""
            )));
        }
    }
    let document = match header.get("version").and_then(Value::as_u64) {
        Some(2) => serde_json::from_str(text).map_err(|e| malformed(&e))?,
        Some(1) => {
            let document: version_1::Document =
                serde_json::from_str(text).map_err(|e| malformed(&e))?;
            if let Some(key) = document.later_key() {
                return Err(Error::Foreign(format!(
                    "{key}: version 1 has no such key; version 2 has"
                )));
            }
            document.migrated(FORMAT, VERSION)
        }
        Some(v) => {
            return Err(Error::Foreign(format!(
                "version: {v} is not known; this program reads versions 1 and {VERSION}"
            )));
        }
        None => {
            return Err(Error::Foreign(format!(
                "version: missing or not a whole number; this program reads versions 1 and {VERSION}"
            )));
        }
    };
    document.validate()?;
    Ok(document)
}

/// Writes a site document, indented, with a final line break.
#[must_use]
pub fn write(document: &SiteDocument) -> String {
    // The types hold no map with keys that are not text and no failing serializer: this cannot fail.
    let mut text = serde_json::to_string_pretty(document).unwrap_or_default();
    text.push('\n');
    text
}

fn malformed(error: &serde_json::Error) -> Error {
    let full = error.to_string();
    let message = full.split(" at line ").next().unwrap_or(&full).to_owned();
    Error::Malformed {
        line: error.line(),
        column: error.column(),
        message,
    }
}
