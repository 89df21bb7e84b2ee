//! The order in which a request is looked at: what can be read off its head at once, then who sends it, then its body. A request that cannot be understood asks the
//! database nothing, and nobody's body is read before its sender is let in.

use actix_web::{HttpMessage, HttpRequest};
use tokio::sync::watch;

use super::error::ApiError;

#[derive(Clone)]
struct Closed(watch::Receiver<bool>);

/// Lets the request's body in; dropped without, the body waits until the request is refused.
pub struct Opens(watch::Sender<bool>);

impl Opens {
    /// The body may be read.
    pub fn open(self) {
        self.0.send_replace(true);
    }
}

/// Closes the request's entrance until who sends it is known.
#[must_use]
pub fn close(request: &HttpRequest) -> Opens {
    let (opens, closed) = watch::channel(false);
    request.extensions_mut().insert(Closed(closed));
    Opens(opens)
}

/// Waits until who sends the request is let in, where that is asked.
///
/// # Errors
/// [`ApiError::SignedOut`]: they were not. What answers is the refusal itself, which came before.
pub async fn pass(request: &HttpRequest) -> Result<(), ApiError> {
    let closed = request.extensions().get::<Closed>().cloned();
    let Some(Closed(mut closed)) = closed else {
        return Ok(());
    };
    let open = closed.wait_for(|open| *open).await;
    open.map(|_| ()).map_err(|_| ApiError::SignedOut)
}

/// Lets everything else of a request be looked at first: what is refused without asking anybody is refused then, and what would be asked is not.
pub async fn after_the_rest() {
    tokio::task::yield_now().await;
}
