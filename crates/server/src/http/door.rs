//! What is refused before anything of a request is read or looked up.

use std::net::IpAddr;
use std::time::{Duration, Instant};

use actix_web::body::{EitherBody, MessageBody};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{
    AUTHORIZATION, CONTENT_ENCODING, COOKIE, HOST, HeaderName, HeaderValue, ORIGIN,
};
use actix_web::middleware::Next;
use actix_web::web::Data;
use actix_web::{HttpMessage, ResponseError};
use tokio::task::JoinError;
use tracing::Instrument;

use super::asker::Asker;
use super::error::ApiError;
use super::limits::Limits;
use super::peer::Peer;
use super::request_id;
use crate::settings::Settings;

/// Longest time that a question may take: a database that is frozen in the middle of one never answers.
const READS_WITHIN: Duration = Duration::from_secs(10);
/// Longest time that a change may take: a file of ten megabytes over a slow line, a month of a simulated clock. What was not committed by
/// then is rolled back.
const CHANGES_WITHIN: Duration = Duration::from_secs(180);

/// Lets a request in, or answers why not.
///
/// # Errors
/// Those of the service.
pub async fn door<B: MessageBody + 'static>(
    mut request: ServiceRequest,
    next: Next<B>,
) -> Result<ServiceResponse<EitherBody<B>>, actix_web::Error> {
    if let Err(refused) = look_at(&request) {
        return Ok(request
            .into_response(refused.error_response())
            .map_into_right_body());
    }
    // What can be read can be asked after (RFC 9110, 9.3.2); the connection leaves the content out.
    if *request.method() == Method::HEAD {
        request.head_mut().method = Method::GET;
    }
    let asker = Asker::new(if *request.method() == Method::GET {
        READS_WITHIN
    } else {
        CHANGES_WITHIN
    });
    request.extensions_mut().insert(asker.clone());
    let listening = asker.listening();
    let answered = answer_within(asker, next.call(request));
    // Where the asker hangs up the answer is still brought to its end: what is asked of the database in the middle would cost its connection.
    let answered = request_id::carried(answered).in_current_span();
    let answered = actix_web::rt::spawn(answered).await;
    listening.disarm();
    let broken = |error: JoinError| Err(ApiError::Internal(error.to_string()).into());
    answered.unwrap_or_else(broken)
}

/// An answer, as long as its asker may be kept waiting.
async fn answer_within<B: MessageBody + 'static>(
    asker: Asker,
    answer: impl Future<Output = Result<ServiceResponse<B>, actix_web::Error>>,
) -> Result<ServiceResponse<EitherBody<B>>, actix_web::Error> {
    let begun = Instant::now();
    let mut answer = std::pin::pin!(answer);
    loop {
        let left = asker.patience().saturating_sub(begun.elapsed());
        match tokio::time::timeout(left, answer.as_mut()).await {
            Ok(answer) => return Ok(answer?.map_into_left_body()),
            // Meanwhile it may have said that it takes longer.
            Err(_) if asker.patience() > begun.elapsed() => {}
            Err(_) => return Err(ApiError::Database(sqlx::Error::PoolTimedOut).into()),
        }
    }
}

fn header(request: &ServiceRequest, name: HeaderName) -> Option<&str> {
    request
        .headers()
        .get(name)
        .and_then(|v: &HeaderValue| v.to_str().ok())
}

fn look_at(request: &ServiceRequest) -> Result<(), ApiError> {
    let settings = request.app_data::<Data<Settings>>();
    let public = settings.and_then(|s| s.public_origin.as_deref());
    let host = header(request, HOST);
    // Another name that leads here (DNS rebinding) would make a stranger's page one of our own.
    if public.is_none() && !host.is_some_and(is_loopback) {
        return Err(ApiError::Misdirected);
    }
    // A kilobyte may inflate to gigabytes: nobody needs it.
    let codings = request.headers().get_all(CONTENT_ENCODING);
    if codings
        .filter_map(|v| v.to_str().ok())
        .flat_map(|line| line.split(','))
        .any(|coding| !coding.trim().eq_ignore_ascii_case("identity"))
    {
        return Err(ApiError::Encoded);
    }
    let safe = matches!(
        *request.method(),
        Method::GET | Method::HEAD | Method::OPTIONS
    );
    let own = header(request, ORIGIN).is_some_and(|origin| match public {
        Some(public) => origin == public,
        None => host.is_some_and(|host| origin == format!("http://{host}")),
    });
    if !safe && !own && !is_device(request) {
        return Err(ApiError::ForeignOrigin);
    }
    match request.app_data::<Data<Limits>>() {
        Some(limits) => limits.peer(&Peer::of(request)),
        None => Ok(()),
    }
}

/// Whether a device sends it: with a token of its own and no cookie, which no page of a stranger can make a browser send.
fn is_device(request: &ServiceRequest) -> bool {
    header(request, AUTHORIZATION).is_some() && !request.headers().contains_key(COOKIE)
}

/// Whether a Host header names this machine: localhost or a loopback address, with or without a port.
pub(crate) fn is_loopback(host: &str) -> bool {
    let name = match host.strip_prefix('[') {
        Some(rest) => rest.split(']').next().unwrap_or_default(),
        None => host.split(':').next().unwrap_or_default(),
    };
    name.eq_ignore_ascii_case("localhost")
        || name.parse::<IpAddr>().is_ok_and(|ip| ip.is_loopback())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_names_of_this_machine_are_loopback() {
        for host in [
            "localhost",
            "LocalHost:8080",
            "127.0.0.1:9",
            "127.9.9.9",
            "[::1]:80",
            "[::1]",
        ] {
            assert!(is_loopback(host), "{host}");
        }
        for host in [
            "",
            "meadow.example",
            "localhost.meadow.example:80",
            "127.0.0.1.meadow.example",
            "192.0.2.1",
            "[2001:db8::1]:80",
        ] {
            assert!(!is_loopback(host), "{host}");
        }
    }
}
