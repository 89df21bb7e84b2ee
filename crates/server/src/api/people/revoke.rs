use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};

use crate::api::access::{Access, Own};
use crate::db::history::{self, Event};
use crate::db::{Db, invitations};
use crate::http::error::{ApiError, Problem};

/// Revokes an invitation that is open.
#[utoipa::path(tag = "people", operation_id = "revoke_invitation", params(("site" = i64, Path), ("invitation" = i64, Path)), responses(
    (status = 204, description = "Revoked"),
    (status = 404, description = "No open invitation of that number", body = Problem)))]
#[delete("/sites/{site}/invitations/{invitation}")]
pub(in crate::api) async fn revoke(
    access: Access<Own>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let name = invitations::revoke(&mut *tx, access.site, path.1)
        .await?
        .ok_or(ApiError::NotFound("open invitation"))?;
    let event = Event::InvitationRevoked { name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
