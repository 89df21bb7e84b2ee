//! Signing in and out. A session is a row; the cookie holds a random id, the row its hash.

use actix_web::HttpRequest;
use actix_web::cookie::{Cookie, SameSite, time};
use actix_web::web::Data;
use serde::Serialize;
use sha2::{Digest, Sha256};
use sqlx::PgPool;
use utoipa::ToSchema;

use super::role::Role;
use crate::db::{AccountId, SiteId, accounts, sites};
use crate::http::error::ApiError;
use crate::settings::Settings;

mod everywhere;
mod password;
mod show;
mod sign_in;
mod sign_out;

pub(super) use everywhere::*;
pub(super) use password::*;
pub(super) use show::*;
pub(super) use sign_in::*;
pub(super) use sign_out::*;

/// A site that an account belongs to.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct MySite {
    id: SiteId,
    name: String,
    role: Role,
}

/// Who is signed in.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Me {
    name: String,
    email: String,
    sites: Vec<MySite>,
}

pub(super) async fn me(pool: &PgPool, account: AccountId) -> Result<Me, ApiError> {
    let (name, email) = accounts::identity(pool, account).await?;
    let sites = sites::of_account(pool, account).await?;
    Ok(Me {
        name,
        email,
        sites: sites
            .into_iter()
            .filter_map(|(id, name, role)| {
                let role = Role::of(&role)?;
                Some(MySite { id, name, role })
            })
            .collect(),
    })
}

/// The hash of the request's session id.
pub(super) fn session_hash(request: &HttpRequest) -> Option<Vec<u8>> {
    let settings = request.app_data::<Data<Settings>>()?;
    request
        .cookie(&settings.session_cookie())
        .map(|cookie| Sha256::digest(cookie.value()).to_vec())
}

/// A new session id and its hash.
pub(super) fn new_session() -> Result<(String, Vec<u8>), ApiError> {
    new_token()
}

/// A random token of 256 bits and its hash; the hash alone is kept.
pub(super) fn new_token() -> Result<(String, Vec<u8>), ApiError> {
    let mut bytes = [0u8; 32];
    getrandom::fill(&mut bytes).map_err(|e| ApiError::Internal(e.to_string()))?;
    let token: String = bytes.iter().map(|b| format!("{b:02x}")).collect();
    let hash = token_hash(&token);
    Ok((token, hash))
}

/// The hash of a token.
pub(crate) fn token_hash(token: &str) -> Vec<u8> {
    Sha256::digest(token).to_vec()
}

pub(super) fn cookie(settings: &Settings, id: String, max_age: time::Duration) -> Cookie<'static> {
    Cookie::build(settings.session_cookie(), id)
        .path("/")
        .http_only(true)
        .same_site(SameSite::Lax)
        .secure(settings.is_https())
        .max_age(max_age)
        .finish()
}
