use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpResponse, delete};

use super::cookie;
use crate::api::access::SignedIn;
use crate::db::{Db, accounts};
use crate::http::error::{ApiError, Problem};
use crate::settings::Settings;

/// Ends every session of the account, this one too.
#[utoipa::path(tag = "session", operation_id = "sign_out_everywhere", responses(
    (status = 204, description = "Signed out everywhere"),
    (status = 401, description = "Signed out already", body = Problem)))]
#[delete("/sessions")]
pub(in crate::api) async fn sign_out_everywhere(
    signed_in: SignedIn,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    accounts::end_sessions(db.pool(), signed_in.0).await?;
    Ok(HttpResponse::NoContent()
        .cookie(cookie(&settings, String::new(), Duration::ZERO))
        .finish())
}
