use actix_web::get;
use actix_web::web::{Data, Json};

use super::{Me, me};
use crate::api::access::SignedIn;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};

/// Who is signed in, and on which sites.
#[utoipa::path(tag = "session", operation_id = "show_session", responses(
    (status = 200, description = "Signed in", body = Me),
    (status = 401, description = "Signed out", body = Problem)))]
#[get("/session")]
pub(in crate::api) async fn show(account: SignedIn, db: Data<Db>) -> Result<Json<Me>, ApiError> {
    Ok(Json(me(db.pool(), account.0).await?))
}
