use actix_web::get;
use actix_web::web::{Data, Json};
use sqlx::PgPool;

use super::{InvitationView, MemberView, People};
use crate::api::access::{Access, Read, Role};
use crate::api::error::{ApiError, Problem};
use crate::db::people;

/// Who belongs to the site. Invitations are shown to owners.
#[utoipa::path(tag = "people", operation_id = "list_people", params(("site" = i64, Path)), responses(
    (status = 200, description = "Members and invitations", body = People),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/people")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    pool: Data<PgPool>,
) -> Result<Json<People>, ApiError> {
    let members = people::members(pool.as_ref(), access.site).await?;
    let invitations = if access.role == Role::Owner {
        people::invitations(pool.as_ref(), access.site).await?
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
