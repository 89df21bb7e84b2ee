//! Headers that every answer carries.

use std::net::IpAddr;

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header::{CACHE_CONTROL, HeaderName, HeaderValue};
use actix_web::middleware::Next;
use actix_web::web::Data;

use crate::settings::Settings;

/// Styles are set by script on elements, which counts as inline style; scripts come from files alone.
const POLICY: &str = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; \
                      object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'";

/// For how long browsers ask a name over TLS alone (RFC 6797): a year.
const ENCRYPTED_FOR: &str = "max-age=31536000";

/// Whether this process itself serves a name over TLS; of addresses browsers keep no such word, and localhost is nobody's name.
fn serves_a_name_over_tls(settings: &Settings) -> bool {
    let origin = settings.public_origin.as_deref().unwrap_or_default();
    let host = origin.strip_prefix("https://").unwrap_or_default();
    let name = match host.rsplit_once(':') {
        Some((name, port)) if port.bytes().all(|b| b.is_ascii_digit()) => name,
        _ => host,
    };
    let is_name = !name.is_empty() && !name.starts_with('[') && name.parse::<IpAddr>().is_err();
    settings.tls.is_some() && is_name && name != "localhost"
}

/// Adds them; what the API answers is private and kept by no cache.
///
/// # Errors
/// Those of the service.
pub async fn headers(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, actix_web::Error> {
    let private = request.path().starts_with("/api/");
    let settings = request.app_data::<Data<Settings>>();
    let encrypted = settings.is_some_and(|settings| serves_a_name_over_tls(settings));
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
    if encrypted {
        headers.insert(
            HeaderName::from_static("strict-transport-security"),
            HeaderValue::from_static(ENCRYPTED_FOR),
        );
    }
    if private {
        headers.insert(CACHE_CONTROL, HeaderValue::from_static("no-store"));
    }
    Ok(response)
}
