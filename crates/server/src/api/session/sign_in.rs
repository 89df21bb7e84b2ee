use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::{Me, cookie, me, new_session};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::db::accounts;
use crate::password;
use crate::settings::Settings;

/// Address and password.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SignIn {
    email: String,
    password: String,
}

/// Starts a session. An unknown address and a wrong password get the same answer after the same work.
#[utoipa::path(tag = "session", operation_id = "sign_in", request_body = SignIn, responses(
    (status = 200, description = "Signed in", body = Me),
    (status = 401, description = "Address and password do not match", body = Problem)))]
#[post("/session")]
pub(in crate::api) async fn sign_in(
    Body(form): Body<SignIn>,
    pool: Data<PgPool>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    let found = accounts::credentials(pool.as_ref(), form.email.trim()).await?;
    let (id, hash) = found.map(|c| (c.id, c.password_hash)).unzip();
    if !password::verify(form.password, hash).await? {
        return Err(ApiError::WrongCredentials);
    }
    let id = id.ok_or(ApiError::WrongCredentials)?;
    let (session, session_hash) = new_session()?;
    accounts::start_session(pool.as_ref(), &session_hash, id).await?;
    Ok(HttpResponse::Ok()
        .cookie(cookie(session, settings.is_https(), Duration::days(30)))
        .json(me(&pool, id).await?))
}
