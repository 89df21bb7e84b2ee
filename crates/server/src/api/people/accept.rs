use actix_web::cookie::time::Duration;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, post};
use lawn::site::Invalid;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use super::carried_token;
use crate::api::body::Body;
use crate::api::error::{ApiError, Problem};
use crate::api::session::{Me, cookie, me, new_session, session_hash};
use crate::db::history::{self, Event};
use crate::db::{accounts, people, sites};
use crate::settings::Settings;
use crate::{account, password};

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

/// Accepts an invitation with the account that is signed in, or with a new one, which is then signed in. The link works once.
#[utoipa::path(tag = "people", operation_id = "accept_invitation", params(("Invitation-Token" = String, Header, description = "The token of the link")), request_body = Acceptance, responses(
    (status = 200, description = "Joined", body = Me),
    (status = 401, description = "Neither signed in nor a new account given", body = Problem),
    (status = 404, description = "The link was used, revoked, is too old, or never was", body = Problem),
    (status = 409, description = "Already a member, or the address has an account", body = Problem),
    (status = 422, description = "Name, address or password do not hold", body = Problem)))]
#[post("/invitation/acceptance")]
pub(in crate::api) async fn accept(
    request: HttpRequest,
    pool: Data<PgPool>,
    settings: Data<Settings>,
    Body(acceptance): Body<Acceptance>,
) -> Result<HttpResponse, ApiError> {
    // The hash takes its time before any row is locked.
    let new = match acceptance.account {
        Some(new) => {
            account::check(&new.name, &new.email, &new.password).map_err(|error| Invalid {
                field: format!("account.{}", error.field),
                message: error.message,
            })?;
            let hash = password::hash(new.password).await?;
            Some((new.name, new.email, hash))
        }
        None => None,
    };
    let mut tx = pool.begin().await?;
    let open = people::open_invitation(&mut *tx, &carried_token(&request))
        .await?
        .ok_or(ApiError::NotFound("open invitation"))?;
    let mut answer = HttpResponse::Ok();
    let account = match new {
        Some((name, email, hash)) => {
            if accounts::credentials(&mut *tx, email.trim())
                .await?
                .is_some()
            {
                return Err(ApiError::Conflict(
                    "this address has an account already: sign in, then open the link again"
                        .to_owned(),
                ));
            }
            let id = accounts::insert(&mut *tx, email.trim(), name.trim(), &hash, false).await?;
            let (session, hash) = new_session()?;
            accounts::start_session(&mut *tx, &hash, id).await?;
            answer.cookie(cookie(session, settings.is_https(), Duration::days(30)));
            id
        }
        None => {
            let hash = session_hash(&request).ok_or(ApiError::SignedOut)?;
            accounts::session_account(&mut *tx, &hash)
                .await?
                .ok_or(ApiError::SignedOut)?
        }
    };
    let members = people::members(&mut *tx, open.site).await?;
    if members.iter().any(|m| m.account == account) {
        return Err(ApiError::Conflict(format!(
            "you belong to {} already",
            open.site_name
        )));
    }
    sites::add_member(&mut *tx, open.site, account, &open.role).await?;
    people::accept(&mut *tx, open.id, account).await?;
    let event = Event::Joined { role: open.role };
    history::note(&mut *tx, open.site, account, &event).await?;
    tx.commit().await?;
    Ok(answer.json(me(&pool, account).await?))
}
