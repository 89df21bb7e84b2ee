use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};
use serde::Deserialize;
use utoipa::IntoParams;

use super::may_stop_owning;
use crate::api::access::{Access, Own};
use crate::api::devices::Tokens;
use crate::db::history::{self, Event};
use crate::db::{AccountId, Db, accounts, invitations, people};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;

/// How a member is removed.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Removal {
    /// What becomes of the tokens that they made for devices; absent: they end.
    #[serde(default)]
    tokens: Tokens,
}

/// Removes a member and ends all their sessions, and the tokens that they made for devices. The last owner cannot be removed.
#[utoipa::path(tag = "people", operation_id = "remove_member", params(("site" = i64, Path), ("account" = i64, Path), Removal), responses(
    (status = 204, description = "Removed"),
    (status = 404, description = "No such member", body = Problem),
    (status = 409, description = "The last owner", body = Problem)))]
#[delete("/sites/{site}/people/{account}")]
pub(in crate::api) async fn remove(
    access: Access<Own>,
    path: Path<(String, i64)>,
    Asked(removal): Asked<Removal>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let account = AccountId(path.1);
    let mut tx = db.write(access.site).await?;
    let members = people::members(&mut *tx, access.site).await?;
    let name = may_stop_owning(&members, account)?.name.clone();
    people::remove(&mut *tx, access.site, account).await?;
    invitations::revoke_all(&mut *tx, access.site, account).await?;
    accounts::end_sessions(&mut *tx, account).await?;
    let member = (account, name.as_str());
    let tokens = removal.tokens;
    tokens
        .of_member(&mut tx, access.site, member, access.account)
        .await?;
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
