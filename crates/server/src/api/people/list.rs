use actix_web::get;
use actix_web::web::{Data, Json};

use super::{InvitationView, MemberView, People};
use crate::api::access::{Access, Read, Role};
use crate::db::{Db, invitations, people};
use crate::http::error::{ApiError, Problem};

/// Who belongs to the site. Invitations are shown to owners.
#[utoipa::path(tag = "people", operation_id = "list_people", params(("site" = i64, Path)), responses(
    (status = 200, description = "Members and invitations", body = People),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/people")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<People>, ApiError> {
    let members = people::members(db.pool(), access.site).await?;
    let invitations = if access.role == Role::Owner {
        invitations::of_site(db.pool(), access.site).await?
    } else {
        Vec::new()
    };
    let role = |name: &str| Role::of(name).ok_or_else(|| ApiError::Internal(name.to_owned()));
    Ok(Json(People {
        members: members
            .into_iter()
            .map(|m| {
                Ok(MemberView {
                    you: m.account == access.account,
                    role: role(&m.role)?,
                    account: m.account,
                    name: m.name,
                    email: m.email,
                })
            })
            .collect::<Result<_, ApiError>>()?,
        invitations: invitations
            .into_iter()
            .map(|i| {
                Ok(InvitationView {
                    id: i.id,
                    role: role(&i.role)?,
                    name: i.name,
                    expires_at: i.expires_at,
                    accepted_at: i.accepted_at,
                    revoked_at: i.revoked_at,
                })
            })
            .collect::<Result<_, ApiError>>()?,
    }))
}
