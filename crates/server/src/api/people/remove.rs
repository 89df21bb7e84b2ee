use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};
use sqlx::PgPool;

use super::{locked_members, may_stop_owning};
use crate::api::access::{Access, Own};
use crate::api::error::{ApiError, Problem};
use crate::db::history::{self, Event};
use crate::db::{AccountId, accounts, people};

/// Removes a member and ends all their sessions. The last owner cannot be removed.
#[utoipa::path(tag = "people", operation_id = "remove_member", params(("site" = i64, Path), ("account" = i64, Path)), responses(
    (status = 204, description = "Removed"),
    (status = 404, description = "No such member", body = Problem),
    (status = 409, description = "The last owner", body = Problem)))]
#[delete("/sites/{site}/people/{account}")]
pub(in crate::api) async fn remove(
    access: Access<Own>,
    path: Path<(String, i64)>,
    pool: Data<PgPool>,
) -> Result<HttpResponse, ApiError> {
    let account = AccountId(path.1);
    let mut tx = pool.begin().await?;
    let members = locked_members(&mut tx, access.site).await?;
    let name = may_stop_owning(&members, account)?.name.clone();
    people::remove(&mut *tx, access.site, account).await?;
    accounts::end_sessions(&mut *tx, account).await?;
    history::note(
        &mut *tx,
        access.site,
        access.account,
        &Event::Removed { name },
    )
    .await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
