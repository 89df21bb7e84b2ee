use actix_web::web::Data;
use actix_web::{HttpResponse, delete};

use super::may_stop_owning;
use crate::api::access::{Access, Read};
use crate::api::devices::Tokens;
use crate::db::history::{self, Event};
use crate::db::{Db, invitations, people};
use crate::http::error::{ApiError, Problem};

/// Leaves the site; the tokens that who leaves made for devices end. The last owner cannot.
#[utoipa::path(tag = "people", operation_id = "leave_site", params(("site" = i64, Path)), responses(
    (status = 204, description = "Left"),
    (status = 409, description = "The last owner", body = Problem)))]
#[delete("/sites/{site}/membership")]
pub(in crate::api) async fn leave(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let members = people::members(&mut *tx, access.site).await?;
    let name = may_stop_owning(&members, access.account)?.name.clone();
    people::remove(&mut *tx, access.site, access.account).await?;
    invitations::revoke_all(&mut *tx, access.site, access.account).await?;
    // Who leaves cannot say that another answers for them.
    let member = (access.account, name.as_str());
    Tokens::End
        .of_member(&mut tx, access.site, member, access.account)
        .await?;
    history::note(&mut *tx, access.site, access.account, &Event::Left { name }).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
