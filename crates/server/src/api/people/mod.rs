//! People of a site: members, invitations by single-use link.

use actix_web::HttpRequest;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::access::Role;
use super::devices::Tokens;
use super::session::token_hash;
use crate::db::AccountId;
use crate::db::people::Member;
use crate::http::error::ApiError;

mod accept;
mod invite;
mod leave;
mod list;
mod remove;
mod revoke;
mod role;
mod show_invitation;

pub(super) use accept::*;
pub(super) use invite::*;
pub(super) use leave::*;
pub(super) use list::*;
pub(super) use remove::*;
pub(super) use revoke::*;
pub(super) use role::*;
pub(super) use show_invitation::*;

/// A member of the site.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct MemberView {
    account: AccountId,
    name: String,
    email: String,
    role: Role,
    /// Whether it is the reader.
    you: bool,
}

/// An invitation as the owner sees it.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct InvitationView {
    id: i64,
    name: String,
    role: Role,
    expires_at: Timestamp,
    accepted_at: Option<Timestamp>,
    revoked_at: Option<Timestamp>,
}

/// Members, and the invitations where the reader is an owner.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct People {
    members: Vec<MemberView>,
    invitations: Vec<InvitationView>,
}

/// The header that carries a link's token: not the address, which is logged.
const TOKEN_HEADER: &str = "invitation-token";

/// The hash of the token that a request carries; of nothing where it carries none, which no invitation has.
fn carried_token(request: &HttpRequest) -> Vec<u8> {
    let token = request.headers().get(TOKEN_HEADER);
    token_hash(token.and_then(|v| v.to_str().ok()).unwrap_or_default())
}

/// A role to be given.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct GivenRole {
    role: Role,
    /// What becomes of the tokens that they made for devices, where they manage no more; absent: they end.
    #[serde(default)]
    tokens: Tokens,
}

/// The member, who may stop being an owner.
fn may_stop_owning(members: &[Member], account: AccountId) -> Result<&Member, ApiError> {
    let member = members
        .iter()
        .find(|m| m.account == account)
        .ok_or(ApiError::NotFound("member"))?;
    let owner = |m: &&Member| m.role == "owner";
    if owner(&member) && members.iter().filter(owner).count() == 1 {
        return Err(ApiError::Conflict(format!(
            "{} is the only owner; make somebody else an owner first",
            member.name
        )));
    }
    Ok(member)
}
