use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, get, post};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::account::{check, lower_case};
use crate::db::{Db, accounts};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::peer::Peer;
use crate::settings::Settings;
use crate::{first_account, guessing, password};

/// Under what name guesses at the code are counted: no address.
const GUESSED: &str = "code for the first account";

/// What a stranger may do here.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Welcome {
    /// Nobody has an account yet: the code that the server printed makes the first.
    first_account: bool,
    /// Anybody may make an account; else accounts come by invitation.
    open_sign_up: bool,
}

/// A new account.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewAccount {
    /// The code that the server printed; for the first account.
    #[serde(default)]
    code: Option<String>,
    name: String,
    email: String,
    password: String,
}

/// What a stranger may do here: make the first account, make one, or neither.
#[utoipa::path(tag = "session", operation_id = "welcome", responses(
    (status = 200, description = "What is open", body = Welcome)))]
#[get("/welcome")]
pub(in crate::api) async fn welcome(
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<Json<Welcome>, ApiError> {
    Ok(Json(Welcome {
        first_account: !accounts::any(db.pool()).await?,
        open_sign_up: settings.open_sign_up,
    }))
}

/// Makes the first account, with the code that the server printed when it started; or one more, where the server's settings let anybody. The answer is
/// the same where the address has an account already: sign in with it then.
#[utoipa::path(tag = "session", operation_id = "create_account", request_body = NewAccount, responses(
    (status = 202, description = "Sign in with the address and its password"),
    (status = 403, description = "Another code than the server printed, or accounts come by invitation", body = Problem),
    (status = 422, description = "Name, address or password do not hold", body = Problem),
    (status = 429, description = "Too many attempts; Retry-After says when", body = Problem)))]
#[post("/accounts")]
pub(in crate::api) async fn account(
    peer: Peer,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(new): Body<NewAccount>,
) -> Result<HttpResponse, ApiError> {
    let first = !accounts::any(db.pool()).await?;
    if !first && !settings.open_sign_up {
        return Err(ApiError::ByInvitation);
    }
    check(&new.name, &new.email, &new.password)?;
    // A guess costs a turn before it is looked at, and before a hash.
    guessing::attempt(db.pool(), GUESSED, &peer.0).await?;
    let email = lower_case(&new.email);
    let mut tx = db.pool().begin().await?;
    let code = first_account::hash(new.code.as_deref().unwrap_or_default());
    if first && !accounts::take_first_code(&mut *tx, &code).await? {
        return Err(ApiError::WrongCode);
    }
    let hash = password::hash(new.password).await?;
    accounts::insert(&mut *tx, &email, new.name.trim(), &hash, false).await?;
    tx.commit().await?;
    Ok(HttpResponse::Accepted().finish())
}
