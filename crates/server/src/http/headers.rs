//! Headers that every answer carries.

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{CACHE_CONTROL, HeaderName, HeaderValue};
use actix_web::middleware::Next;

/// Styles are set by script on elements, which counts as inline style; scripts come from files alone.
const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; \
                      object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// Adds them; what the API answers is private and kept by no cache.
///
/// # Errors
/// Those of the service.
pub async fn headers(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, actix_web::Error> {
    let private = request.path().starts_with("/api/");
    let mut response = next.call(request).await?;
    let headers = response.headers_mut();
    for (name, value) in [
        ("content-security-policy", POLICY),
        ("x-content-type-options", "nosniff"),
        ("referrer-policy", "same-origin"),
        ("x-frame-options", "DENY"),
    ] {
        headers.insert(
            HeaderName::from_static(name),
            HeaderValue::from_static(value),
        );
    }
    if private {
        headers.insert(CACHE_CONTROL, HeaderValue::from_static("no-store"));
    }
    Ok(response)
}
