use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::text::check_name;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::api::access::{Access, Own, Role};
use crate::api::session::new_token;
use crate::db::history::{self, Event};
use crate::db::{Db, invitations};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Most invitations of a site that are open at a time.
const MOST_OPEN: i64 = 100;

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
    (status = 409, description = "A hundred are open already", body = Problem),
    (status = 422, description = "No name", body = Problem)))]
#[post("/sites/{site}/invitations")]
pub(in crate::api) async fn invite(
    access: Access<Own>,
    db: Data<Db>,
    Body(new): Body<NewInvitation>,
) -> Result<HttpResponse, ApiError> {
    let name = new.name.trim();
    check_name("name", name)?;
    let (token, hash) = new_token()?;
    let mut tx = db.write(access.site).await?;
    if invitations::open_of_site(&mut *tx, access.site).await? >= MOST_OPEN {
        return Err(ApiError::Conflict(format!(
            "{MOST_OPEN} invitations are open already; revoke some first"
        )));
    }
    let role = new.role.name();
    let id = invitations::insert(&mut *tx, access.site, access.account, name, role, &hash).await?;
    let event = Event::Invited {
        name: name.to_owned(),
        role: role.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(Invited { id, token }))
}
