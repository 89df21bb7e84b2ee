use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use utoipa::ToSchema;

use crate::api::access::{Access, Own, Role};
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::api::session::new_token;
use crate::db::history::{self, Event};
use crate::db::people;

/// For whom, and which role.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewInvitation {
    /// A name to tell invitations apart.
    name: String,
    role: Role,
}

/// The link's token. It is shown once and not kept.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Invited {
    id: i64,
    token: String,
}

/// Makes a link that works once, for seven days.
#[utoipa::path(tag = "people", operation_id = "invite", params(("site" = i64, Path)), request_body = NewInvitation, responses(
    (status = 201, description = "The link's token", body = Invited),
    (status = 422, description = "No name", body = Problem)))]
#[post("/sites/{site}/invitations")]
pub(in crate::api) async fn invite(
    access: Access<Own>,
    pool: Data<PgPool>,
    Body(new): Body<NewInvitation>,
) -> Result<HttpResponse, ApiError> {
    let name = new.name.trim();
    if name.is_empty() || name.chars().count() > 120 {
        return Err(Invalid {
            field: "name".to_owned(),
            message: "give a name of up to 120 characters".to_owned(),
        }
        .into());
    }
    let (token, hash) = new_token()?;
    let mut tx = pool.begin().await?;
    let role = new.role.name();
    let id = people::invite(&mut *tx, access.site, access.account, name, role, &hash).await?;
    let event = Event::Invited {
        name: name.to_owned(),
        role: role.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(Invited { id, token }))
}
