use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpResponse, put};
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::{cookie, new_session};
use crate::api::access::SignedIn;
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::db::accounts;
use crate::settings::Settings;
use crate::{account, password};

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
    (status = 422, description = "Too short or too long", body = Problem)))]
#[put("/session/password")]
pub(in crate::api) async fn change_password(
    signed_in: SignedIn,
    pool: Data<PgPool>,
    settings: Data<Settings>,
    Body(change): Body<PasswordChange>,
) -> Result<HttpResponse, ApiError> {
    account::check_password(&change.password)?;
    let current = accounts::password_hash(pool.as_ref(), signed_in.0).await?;
    if !password::verify(change.current, Some(current)).await? {
        return Err(ApiError::WrongPassword);
    }
    let hash = password::hash(change.password).await?;
    let (session, session_hash) = new_session()?;
    let mut tx = pool.begin().await?;
    accounts::set_password(&mut *tx, signed_in.0, &hash).await?;
    accounts::end_sessions(&mut *tx, signed_in.0).await?;
    accounts::start_session(&mut *tx, &session_hash, signed_in.0).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent()
        .cookie(cookie(session, settings.is_https(), Duration::days(30)))
        .finish())
}
