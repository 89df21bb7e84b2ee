//! Versions as ETag and If-Match.

use actix_web::HttpRequest;
use actix_web::http::header::{ETAG, HeaderName, IF_MATCH};
use serde::Serialize;

use crate::http::error::ApiError;

/// The header of a version.
pub(crate) fn etag(version: i64) -> (HeaderName, String) {
    (ETAG, format!("\"{version}\""))
}

/// The version that a request edited.
pub(crate) fn if_match(request: &HttpRequest) -> Result<i64, ApiError> {
    request
        .headers()
        .get(IF_MATCH)
        .and_then(|v| v.to_str().ok())
        .and_then(|v| v.trim().trim_matches('"').parse().ok())
        .ok_or(ApiError::NoVersion)
}

/// Refuses an edit of a version that is not current, showing the current state.
pub(crate) fn check(edited: i64, current: i64, state: &impl Serialize) -> Result<(), ApiError> {
    if edited == current {
        return Ok(());
    }
    let state = serde_json::to_value(state).map_err(|e| ApiError::Internal(e.to_string()))?;
    Err(ApiError::Stale(Box::new(state)))
}
