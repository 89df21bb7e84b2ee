//! Computing apart from the threads that answer, and what may go wrong with what is stored.

use std::num::NonZeroUsize;
use std::sync::Arc;
use std::time::Duration;

use lawn::engine::replay;
use thiserror::Error as ThisError;

use crate::db::{AccountId, SiteId};
use crate::places::{Full, Place, Places, Rules};

/// A defect while replanning; bad input was refused before it was stored.
#[derive(Debug, ThisError)]
pub enum Failure {
    /// The database.
    #[error(transparent)]
    Database(#[from] sqlx::Error),
    /// Stored input that no longer holds.
    #[error("stored input does not plan: {0}")]
    Stored(String),
}

impl From<replay::Error> for Failure {
    fn from(error: replay::Error) -> Self {
        Self::Stored(error.to_string())
    }
}

/// Cores of this machine.
pub(crate) fn cores() -> usize {
    std::thread::available_parallelism().map_or(1, NonZeroUsize::get)
}

/// Turns at what computes some tenths of a second for a page: as many as there are cores, of which one account leaves one to the others.
pub struct Turns(Arc<Places>);

impl Default for Turns {
    fn default() -> Self {
        Self(Places::new(Rules {
            at_once: cores(),
            of_account: (cores() - 1).max(1),
            of_site: usize::MAX,
            waiting: 200,
            waiting_of_account: 40,
            patience: Duration::from_secs(8),
        }))
    }
}

impl Turns {
    /// Waits for a turn, before anything is read: dropped, it is the next one's.
    ///
    /// # Errors
    /// [`Full`].
    pub async fn take(&self, account: AccountId, site: SiteId) -> Result<Place, Full> {
        self.0.take(account, site).await
    }
}

/// Runs a computation on the blocking pool.
pub(crate) async fn computed<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Failure> {
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|e| Failure::Stored(format!("the computation broke off: {e}")))
}
