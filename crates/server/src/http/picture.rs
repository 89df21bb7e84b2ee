//! Photos that come and go: bounded in size, drawn anew, kept out of shared caches.

use actix_web::HttpResponse;
use actix_web::http::header::{CACHE_CONTROL, CONTENT_TYPE};
use actix_web::web::Bytes;

use super::error::ApiError;
use crate::db::seen::Photo;
use crate::photo;

/// A picture of a body, as it is kept. One of many pixels takes its time: on the blocking pool.
///
/// # Errors
/// A body that is too large, or no picture that can be read.
pub async fn drawn(body: Bytes) -> Result<Photo, ApiError> {
    if body.len() > photo::LARGEST {
        return Err(ApiError::TooLarge(photo::LARGEST / 1024 / 1024));
    }
    let drawn = tokio::task::spawn_blocking(move || photo::drawn_anew(&body)).await;
    Ok(drawn.map_err(|e| ApiError::Internal(e.to_string()))??)
}

/// A picture that is kept.
#[must_use]
pub fn shown(jpeg: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .insert_header((CONTENT_TYPE, "image/jpeg"))
        .insert_header((CACHE_CONTROL, "private, no-store"))
        .body(jpeg)
}
