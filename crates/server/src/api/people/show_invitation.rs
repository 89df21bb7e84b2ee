use actix_web::web::{Data, Json};
use actix_web::{HttpRequest, get};
use serde::Serialize;
use utoipa::ToSchema;

use super::carried_token;
use crate::api::access::Role;
use crate::db::{Db, invitations};
use crate::http::error::{ApiError, Problem};

/// What a link offers.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Offer {
    site: String,
    name: String,
    role: Role,
    invited_by: String,
    /// Whether an account was asked for with it: its holder signs in to join.
    claimed: bool,
}

/// What a link offers, to whoever holds it; nothing else of the site.
#[utoipa::path(tag = "people", operation_id = "show_invitation", params(("Invitation-Token" = String, Header, description = "The token of the link")), responses(
    (status = 200, description = "The offer", body = Offer),
    (status = 404, description = "The link was used, revoked, is too old, or never was", body = Problem)))]
#[get("/invitation")]
pub(in crate::api) async fn show_invitation(
    request: HttpRequest,
    db: Data<Db>,
) -> Result<Json<Offer>, ApiError> {
    let open = invitations::open(db.pool(), &carried_token(&request))
        .await?
        .ok_or(ApiError::NotFound("open invitation"))?;
    Ok(Json(Offer {
        role: Role::of(&open.role).ok_or_else(|| ApiError::Internal(open.role.clone()))?,
        site: open.site_name,
        name: open.name,
        claimed: open.claimed_by.is_some(),
        invited_by: open.invited_by,
    }))
}
