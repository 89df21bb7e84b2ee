use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpResponse, put};
use serde::Deserialize;
use utoipa::ToSchema;

use super::{cookie, new_session};
use crate::api::access::SignedIn;
use crate::db::{Db, accounts};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::peer::Peer;
use crate::settings::Settings;
use crate::{account, guessing, password};

/// The old and the new password.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct PasswordChange {
    current: String,
    password: String,
}

/// Changes the password. Every session of the account ends; the reader gets a new one.
#[utoipa::path(tag = "session", operation_id = "change_password", request_body = PasswordChange, responses(
    (status = 204, description = "Changed"),
    (status = 403, description = "The current password is not this", body = Problem),
    (status = 422, description = "Too short or too long", body = Problem),
    (status = 429, description = "Too many attempts; Retry-After says when", body = Problem)))]
#[put("/session/password")]
pub(in crate::api) async fn change_password(
    signed_in: SignedIn,
    peer: Peer,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(change): Body<PasswordChange>,
) -> Result<HttpResponse, ApiError> {
    let (name, email) = accounts::identity(db.pool(), signed_in.0).await?;
    account::check_password(&change.password, &[&name, &email])?;
    // Whoever holds a session guesses like anybody else.
    guessing::attempt(db.pool(), &email, &peer.0).await?;
    let current = accounts::password_hash(db.pool(), signed_in.0).await?;
    if !password::verify(change.current, Some(current.clone())).await? {
        return Err(ApiError::WrongPassword);
    }
    guessing::right(db.pool(), signed_in.0, &email, &peer.0).await?;
    let hash = password::hash(change.password).await?;
    let (session, session_hash) = new_session()?;
    let mut tx = db.pool().begin().await?;
    // Of two changes at once the first counts: the second verified a password that is no more.
    if !accounts::set_password(&mut *tx, signed_in.0, &current, &hash).await? {
        return Err(ApiError::WrongPassword);
    }
    accounts::end_sessions(&mut *tx, signed_in.0).await?;
    accounts::start_session(&mut *tx, &session_hash, signed_in.0, &hash).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent()
        .cookie(cookie(&settings, session, Duration::days(30)))
        .finish())
}
