use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, delete};

use super::{cookie, session_hash};
use crate::db::{Db, accounts};
use crate::http::error::ApiError;
use crate::settings::Settings;

/// Ends the session; signing out twice is no error.
#[utoipa::path(tag = "session", operation_id = "sign_out", responses((status = 204, description = "Signed out")))]
#[delete("/session")]
pub(in crate::api) async fn sign_out(
    request: HttpRequest,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    if let Some(hash) = session_hash(&request) {
        accounts::end_session(db.pool(), &hash).await?;
    }
    Ok(HttpResponse::NoContent()
        .cookie(cookie(&settings, String::new(), Duration::ZERO))
        .finish())
}
