use actix_web::web::Data;
use actix_web::{HttpResponse, delete};
use sqlx::PgPool;

use super::{locked_members, may_stop_owning};
use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::db::history::{self, Event};
use crate::db::people;

/// Leaves the site. The last owner cannot.
#[utoipa::path(tag = "people", operation_id = "leave_site", params(("site" = i64, Path)), responses(
    (status = 204, description = "Left"),
    (status = 409, description = "The last owner", body = Problem)))]
#[delete("/sites/{site}/membership")]
pub(in crate::api) async fn leave(
    access: Access<Read>,
    pool: Data<PgPool>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = pool.begin().await?;
    let members = locked_members(&mut tx, access.site).await?;
    let name = may_stop_owning(&members, access.account)?.name.clone();
    people::remove(&mut *tx, access.site, access.account).await?;
    history::note(&mut *tx, access.site, access.account, &Event::Left { name }).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
