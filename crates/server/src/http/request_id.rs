//! The request's identifier: in the log's span, in the answer's header, in the body of an error.

use actix_web::HttpMessage;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{HeaderName, HeaderValue};
use actix_web::middleware::Next;
use tracing_actix_web::RequestId;

tokio::task_local! {
    static CURRENT: String;
}

/// The identifier of the request that is being answered.
pub(crate) fn current() -> Option<String> {
    CURRENT.try_with(Clone::clone).ok()
}

/// Keeps the identifier at hand in a task of its own.
pub(super) fn carried<T>(answers: impl Future<Output = T>) -> impl Future<Output = T> {
    CURRENT.scope(current().unwrap_or_default(), answers)
}

/// Keeps the identifier at hand while a request is answered, and tells it in `x-request-id`.
///
/// # Errors
/// Those of the service.
pub async fn keep(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, actix_web::Error> {
    let id = request
        .extensions()
        .get::<RequestId>()
        .map_or_else(String::new, ToString::to_string);
    let mut response = CURRENT.scope(id.clone(), next.call(request)).await?;
    if let Ok(value) = HeaderValue::from_str(&id) {
        response
            .headers_mut()
            .insert(HeaderName::from_static("x-request-id"), value);
    }
    Ok(response)
}
