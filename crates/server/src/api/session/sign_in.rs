use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use serde::Deserialize;
use utoipa::ToSchema;

use super::{Me, cookie, me, new_session};
use crate::account::{LONGEST_EMAIL, lower_case};
use crate::db::{Db, accounts};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::peer::Peer;
use crate::settings::Settings;
use crate::{guessing, password};

/// Address and password.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SignIn {
    email: String,
    password: String,
}

/// Starts a session. An unknown address and a wrong password get the same answer after the same work; after five failures of an
/// address from a peer within a quarter of an hour the next attempt must wait, known address or not.
#[utoipa::path(tag = "session", operation_id = "sign_in", request_body = SignIn, responses(
    (status = 200, description = "Signed in", body = Me),
    (status = 401, description = "Address and password do not match", body = Problem),
    (status = 429, description = "Too many attempts; Retry-After says when", body = Problem)))]
#[post("/session")]
pub(in crate::api) async fn sign_in(
    peer: Peer,
    Body(form): Body<SignIn>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    let email = lower_case(&form.email);
    // No account has an address of that length: nothing to guess, nothing to keep.
    if email.len() > LONGEST_EMAIL {
        return Err(ApiError::WrongCredentials);
    }
    guessing::attempt(db.pool(), &email, &peer.0).await?;
    let found = accounts::credentials(db.pool(), &email).await?;
    let (id, hash) = found.map(|c| (c.id, c.password_hash)).unzip();
    if !password::verify(form.password, hash.clone()).await? {
        return Err(ApiError::WrongCredentials);
    }
    let (id, verified) = id.zip(hash).ok_or(ApiError::WrongCredentials)?;
    let (session, session_hash) = new_session()?;
    // The password may have been changed while it was looked at.
    if !accounts::start_session(db.pool(), &session_hash, id, &verified).await? {
        return Err(ApiError::WrongCredentials);
    }
    guessing::right(db.pool(), id, &email, &peer.0).await?;
    Ok(HttpResponse::Ok()
        .cookie(cookie(&settings, session, Duration::days(30)))
        .json(me(db.pool(), id).await?))
}
