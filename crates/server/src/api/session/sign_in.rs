use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, post};
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::{Me, cookie, me, new_session};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::db::{accounts, people};
use crate::password;
use crate::settings::Settings;

/// Address and password.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SignIn {
    email: String,
    password: String,
}

/// Failures of an address, and of a peer, after which the next attempt must wait.
const FREE_ATTEMPTS: (i64, i64) = (5, 25);
/// First wait, s; it doubles with each failure more.
const FIRST_WAIT_S: f64 = 4.0;
/// Longest wait, s.
const LONGEST_WAIT_S: f64 = 300.0;

/// Starts a session. An unknown address and a wrong password get the same answer after the same work; after five failures of an
/// address within a quarter of an hour the next attempt must wait, known address or not.
#[utoipa::path(tag = "session", operation_id = "sign_in", request_body = SignIn, responses(
    (status = 200, description = "Signed in", body = Me),
    (status = 401, description = "Address and password do not match", body = Problem),
    (status = 429, description = "Too many attempts; Retry-After says when", body = Problem)))]
#[post("/session")]
pub(in crate::api) async fn sign_in(
    request: HttpRequest,
    Body(form): Body<SignIn>,
    pool: Data<PgPool>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    let email = form.email.trim().to_lowercase();
    let peer = request
        .peer_addr()
        .map_or_else(String::new, |address| address.ip().to_string());
    attempt(&pool, &email, &peer).await?;
    let found = accounts::credentials(pool.as_ref(), &email).await?;
    let (id, hash) = found.map(|c| (c.id, c.password_hash)).unzip();
    if !password::verify(form.password, hash).await? {
        return Err(ApiError::WrongCredentials);
    }
    let id = id.ok_or(ApiError::WrongCredentials)?;
    let (session, session_hash) = new_session()?;
    people::forget_failures(pool.as_ref(), &email).await?;
    accounts::start_session(pool.as_ref(), &session_hash, id).await?;
    Ok(HttpResponse::Ok()
        .cookie(cookie(session, settings.is_https(), Duration::days(30)))
        .json(me(&pool, id).await?))
}

/// Counts an attempt before its password is looked at, so that many at once gain nothing; refuses it while the address must wait.
async fn attempt(pool: &PgPool, email: &str, peer: &str) -> Result<(), ApiError> {
    let mut tx = pool.begin().await?;
    people::one_at_a_time(&mut *tx, email).await?;
    let failures = people::failures(&mut *tx, email, peer).await?;
    let (of_email, of_peer) = FREE_ATTEMPTS;
    let beyond = (failures.of_email - of_email).max(failures.of_peer - of_peer);
    if beyond >= 0 {
        let doublings = i32::try_from(beyond.min(16)).unwrap_or(16);
        let wait = (FIRST_WAIT_S * 2f64.powi(doublings)).min(LONGEST_WAIT_S) - failures.last_s;
        if wait > 0.0 {
            return Err(ApiError::Slowed(wait.ceil()));
        }
    }
    people::note_failure(&mut *tx, email, peer).await?;
    tx.commit().await?;
    Ok(())
}
