//! Photos that come and go: few at a time, bounded in size, drawn anew one after another, kept out of shared caches.

use std::sync::Arc;
use std::time::Duration;

use actix_web::HttpResponse;
use actix_web::http::header::{CACHE_CONTROL, CONTENT_TYPE};
use tokio::sync::Semaphore;

use super::body::{Bounds, Incoming};
use super::error::ApiError;
use crate::db::seen::Photo;
use crate::db::{AccountId, SiteId};
use crate::photo;
use crate::places::{Places, Rules};

/// How much of a file may come, and how long it may take.
const FILE: Bounds = Bounds {
    largest: photo::LARGEST,
    longest: Duration::from_secs(120),
};

/// Room for photos of this process: whose files are held in memory, and the one that is drawn.
pub struct Pictures {
    held: Arc<Places>,
    drawn: Arc<Semaphore>,
}

impl Default for Pictures {
    fn default() -> Self {
        Self {
            held: Places::new(Rules {
                at_once: 6,
                of_account: 1,
                of_site: 3,
                waiting: 60,
                waiting_of_account: 6,
                patience: Duration::from_secs(30),
            }),
            drawn: Arc::new(Semaphore::new(1)),
        }
    }
}

impl Pictures {
    /// A picture of a body, as it is kept. The body is read once there is room for it.
    ///
    /// # Errors
    /// No room for it; a body that is too large or too slow, or no picture that can be read.
    pub async fn drawn(
        &self,
        account: AccountId,
        site: SiteId,
        body: Incoming,
    ) -> Result<Photo, ApiError> {
        let place = self.held.take(account, site).await?;
        let body = body.within(FILE)?.whole().await?;
        let turn = self.drawn.clone().acquire_owned().await;
        let turn = turn.map_err(|e| ApiError::Internal(e.to_string()))?;
        // Both are held to the end of the drawing, also where nobody waits for it any more.
        let drawn = tokio::task::spawn_blocking(move || {
            let drawn = photo::drawn_anew(&body);
            drop((body, turn, place));
            drawn
        });
        let drawn = drawn.await;
        Ok(drawn.map_err(|e| ApiError::Internal(e.to_string()))??)
    }
}

/// A picture that is kept.
#[must_use]
pub fn shown(jpeg: Vec<u8>) -> HttpResponse {
    HttpResponse::Ok()
        .insert_header((CONTENT_TYPE, "image/jpeg"))
        .insert_header((CACHE_CONTROL, "private, no-store"))
        .body(jpeg)
}
