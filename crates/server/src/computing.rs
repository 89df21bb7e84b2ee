//! Computing apart from the threads that answer, and what may go wrong with what is stored.

use thiserror::Error as ThisError;

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

/// Runs a computation on the blocking pool.
pub(crate) async fn computed<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Failure> {
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|e| Failure::Stored(format!("the computation broke off: {e}")))
}
