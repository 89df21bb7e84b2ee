//! Who asks, while they listen: what computes for long ends soon after they have hung up, and what takes long has its time.

use std::cell::Cell;
use std::future::{Ready, ready};
use std::rc::Rc;
use std::time::Duration;

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpMessage, HttpRequest};
use tokio_util::sync::{CancellationToken, DropGuard};

use super::error::ApiError;

/// Whoever sent a request.
#[derive(Clone)]
pub struct Asker {
    gone: CancellationToken,
    patience: Rc<Cell<Duration>>,
}

impl Asker {
    /// One whose request may take so long.
    #[must_use]
    pub fn new(patience: Duration) -> Self {
        Self {
            gone: CancellationToken::new(),
            patience: Rc::new(Cell::new(patience)),
        }
    }

    /// Ends once they have hung up.
    pub(crate) const fn gone(&self) -> &CancellationToken {
        &self.gone
    }

    /// Gives the request at least so long.
    pub fn takes(&self, time: Duration) {
        self.patience.set(self.patience.get().max(time));
    }

    /// How long the request may take.
    pub(super) fn patience(&self) -> Duration {
        self.patience.get()
    }

    /// Dropped before [`DropGuard::disarm`], they have hung up.
    pub(super) fn listening(&self) -> DropGuard {
        self.gone.clone().drop_guard()
    }
}

impl FromRequest for Asker {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let asker = request.extensions().get::<Self>().cloned();
        ready(asker.ok_or_else(|| ApiError::Internal("nobody asks".to_owned())))
    }
}
