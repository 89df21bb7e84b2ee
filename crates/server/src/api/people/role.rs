use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};

use super::{GivenRole, may_stop_owning};
use crate::api::access::{Access, Own, Role};
use crate::db::history::{self, Event};
use crate::db::{AccountId, Db, invitations, people};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Gives a member another role. The last owner stays one. The tokens of devices that somebody made who is no manager any more end, or the owner takes them over.
#[utoipa::path(tag = "people", operation_id = "set_role", params(("site" = i64, Path), ("account" = i64, Path)), request_body = GivenRole, responses(
    (status = 204, description = "Given"),
    (status = 404, description = "No such member", body = Problem),
    (status = 409, description = "The last owner", body = Problem)))]
#[put("/sites/{site}/people/{account}")]
pub(in crate::api) async fn set_role(
    access: Access<Own>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(given): Body<GivenRole>,
) -> Result<HttpResponse, ApiError> {
    let account = AccountId(path.1);
    let mut tx = db.write(access.site).await?;
    let members = people::members(&mut *tx, access.site).await?;
    let member = members
        .iter()
        .find(|m| m.account == account)
        .ok_or(ApiError::NotFound("member"))?;
    if given.role != Role::Owner {
        may_stop_owning(&members, account)?;
        invitations::revoke_all(&mut *tx, access.site, account).await?;
    }
    let role = given.role.name();
    people::set_role(&mut *tx, access.site, account, role).await?;
    if given.role < Role::Manager {
        let member = (account, member.name.as_str());
        let tokens = given.tokens;
        tokens
            .of_member(&mut tx, access.site, member, access.account)
            .await?;
    }
    let event = Event::RoleChanged {
        name: member.name.clone(),
        role: role.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
