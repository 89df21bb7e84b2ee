use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, post};
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use super::carried_token;
use crate::account::{self, lower_case};
use crate::api::session::{Me, me, session_hash};
use crate::db::history::{self, Event};
use crate::db::invitations::OpenInvitation;
use crate::db::{Db, accounts, invitations, people, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::password;

/// A new account; absent where the reader is signed in and joins with theirs.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Acceptance {
    #[serde(default)]
    account: Option<NewAccount>,
}

/// Name, address and password.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewAccount {
    name: String,
    email: String,
    password: String,
}

/// Accepts an invitation with the account that is signed in; the link works once. With a new account given, makes that account, and the
/// link waits for its holder to sign in with it: the answer is the same where the address has an account already, so that a link tells
/// nobody who has one. One address a link.
#[utoipa::path(tag = "people", operation_id = "accept_invitation", params(("Invitation-Token" = String, Header, description = "The token of the link")), request_body = Acceptance, responses(
    (status = 200, description = "Joined", body = Me),
    (status = 202, description = "Sign in with the address and its password, then accept again"),
    (status = 401, description = "Neither signed in nor a new account given", body = Problem),
    (status = 404, description = "The link was used, revoked, is too old, or never was; or another address was given with it", body = Problem),
    (status = 409, description = "Already a member", body = Problem),
    (status = 422, description = "Name, address or password do not hold", body = Problem)))]
#[post("/invitation/acceptance")]
pub(in crate::api) async fn accept(
    request: HttpRequest,
    db: Data<Db>,
    Body(acceptance): Body<Acceptance>,
) -> Result<HttpResponse, ApiError> {
    let token = carried_token(&request);
    // A stranger without a link costs a look, not a hash.
    let open = invitations::open(db.pool(), &token)
        .await?
        .ok_or(ApiError::NotFound("open invitation"))?;
    match acceptance.account {
        Some(new) => claim(&db, &token, &open, new).await,
        None => {
            let session = session_hash(&request).ok_or(ApiError::SignedOut)?;
            join(&db, &token, &open, &session).await
        }
    }
}

/// Makes the new account, unless its address has one, and says nothing of that.
async fn claim(
    db: &Db,
    token: &[u8],
    open: &OpenInvitation,
    new: NewAccount,
) -> Result<HttpResponse, ApiError> {
    account::check(&new.name, &new.email, &new.password).map_err(|error| Invalid {
        field: format!("account.{}", error.field),
        message: error.message,
    })?;
    let email = lower_case(&new.email);
    let other = |open: &OpenInvitation| open.claimed_by.as_ref().is_some_and(|by| *by != email);
    if other(open) {
        return Err(ApiError::NotFound("open invitation"));
    }
    // The hash takes its time before any row is locked.
    let hash = password::hash(new.password).await?;
    let mut tx = db.write(open.site).await?;
    let open = invitations::open(&mut *tx, token)
        .await?
        .filter(|open| !other(open))
        .ok_or(ApiError::NotFound("open invitation"))?;
    accounts::insert(&mut *tx, &email, new.name.trim(), &hash, false).await?;
    invitations::claim(&mut *tx, open.id, &email).await?;
    tx.commit().await?;
    Ok(HttpResponse::Accepted().finish())
}

/// The account of a session becomes a member.
async fn join(
    db: &Db,
    token: &[u8],
    open: &OpenInvitation,
    session: &[u8],
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(open.site).await?;
    let account = accounts::session_account(&mut *tx, session)
        .await?
        .ok_or(ApiError::SignedOut)?;
    // Looked at again: of two who hold the link, one comes first.
    let open = invitations::open(&mut *tx, token)
        .await?
        .ok_or(ApiError::NotFound("open invitation"))?;
    let members = people::members(&mut *tx, open.site).await?;
    if members.iter().any(|m| m.account == account) {
        return Err(ApiError::Conflict(format!(
            "you belong to {} already",
            open.site_name
        )));
    }
    sites::add_member(&mut *tx, open.site, account, &open.role).await?;
    invitations::accept(&mut *tx, open.id, account).await?;
    let event = Event::Joined { role: open.role };
    history::note(&mut *tx, open.site, account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok().json(me(db.pool(), account).await?))
}
