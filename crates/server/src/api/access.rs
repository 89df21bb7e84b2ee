//! Who may do what: the one door to everything of a site.

use std::future::Future;
use std::marker::PhantomData;
use std::pin::Pin;

use actix_web::dev::Payload;
use actix_web::http::header::AUTHORIZATION;
use actix_web::web::Data;
use actix_web::{FromRequest, HttpRequest};
use tokio::task::JoinError;

pub use super::role::Role;
use super::session::{session_hash, token_hash};
use crate::db::{AccountId, Db, SiteId, accounts, devices};
use crate::http::asker::Asker;
use crate::http::entrance;
use crate::http::error::ApiError;
use crate::http::limits::Limits;
use crate::long_work::{Asked, Kind};

/// What a route asks of a role.
pub trait Right {
    /// Whether a role has it.
    fn allows(role: Role) -> bool;
}

/// To read.
pub struct Read;
/// To add readings and observations.
pub struct Record;
/// To change zones, rules and imports.
pub struct Manage;
/// People and deletion.
pub struct Own;

impl Right for Read {
    fn allows(role: Role) -> bool {
        role >= Role::Viewer
    }
}

impl Right for Record {
    fn allows(role: Role) -> bool {
        role >= Role::Crew
    }
}

impl Right for Own {
    fn allows(role: Role) -> bool {
        role >= Role::Owner
    }
}

impl Right for Manage {
    fn allows(role: Role) -> bool {
        role >= Role::Manager
    }
}

/// Proof that the request's account may do this on the site of its path.
pub struct Access<R> {
    /// The site.
    pub site: SiteId,
    /// The account.
    pub account: AccountId,
    /// Its role there.
    pub role: Role,
    right: PhantomData<R>,
}

impl<R> Access<R> {
    /// A question of the site that takes long, for as long as its asker listens.
    pub fn asks<'a>(&self, kind: Kind, asker: &'a Asker) -> Asked<'a> {
        Asked {
            kind,
            site: self.site,
            account: self.account,
            asker,
            of: String::new(),
        }
    }
}

impl<R: Right + 'static> FromRequest for Access<R> {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let db = request.app_data::<Data<Db>>().cloned();
        let limits = request.app_data::<Data<Limits>>().cloned();
        let session = session_hash(request);
        let site = request.match_info().get("site").map(str::to_owned);
        to_its_end(request, async move {
            let db = db.ok_or_else(|| ApiError::Internal("no database".to_owned()))?;
            let session = session.ok_or(ApiError::SignedOut)?;
            // A path that is no number is a site that does not exist; the session is judged first.
            let site = SiteId(site.and_then(|s| s.parse().ok()).unwrap_or(-1));
            let (account, role) = accounts::session_role(db.pool(), &session, site)
                .await?
                .ok_or(ApiError::SignedOut)?;
            count(limits.as_ref(), account)?;
            let role = role
                .as_deref()
                .and_then(Role::of)
                .ok_or(ApiError::NotFound("site"))?;
            if !R::allows(role) {
                return Err(ApiError::Forbidden);
            }
            Ok(Self {
                site,
                account,
                role,
                right: PhantomData,
            })
        })
    }
}

/// Who tells a site's weather.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Teller {
    /// A person who may record.
    Person(AccountId),
    /// A device, by its identifier.
    Device(i64),
}

/// Proof that whoever sends the request may tell the weather of the site of its path: a person by their session, or a device by its token.
pub struct Tells {
    /// The site.
    pub site: SiteId,
    /// Who.
    pub teller: Teller,
}

/// The token of a device, from `Authorization: Bearer …`.
fn device_token(request: &HttpRequest) -> Option<&str> {
    let said = request.headers().get(AUTHORIZATION)?.to_str().ok()?;
    let (scheme, token) = said.split_once(' ')?;
    scheme
        .eq_ignore_ascii_case("bearer")
        .then_some(token.trim())
}

impl FromRequest for Tells {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        let Some(token) = device_token(request).map(token_hash) else {
            let person = Access::<Record>::from_request(request, payload);
            return Box::pin(async move {
                let access = person.await?;
                Ok(Self {
                    site: access.site,
                    teller: Teller::Person(access.account),
                })
            });
        };
        let db = request.app_data::<Data<Db>>().cloned();
        let limits = request.app_data::<Data<Limits>>().cloned();
        let path = request.match_info().get("site").map(str::to_owned);
        to_its_end(request, async move {
            let db = db.ok_or_else(|| ApiError::Internal("no database".to_owned()))?;
            let found = devices::of_token(db.pool(), &token).await?;
            let (device, site) = found.ok_or(ApiError::NoDevice)?;
            limits.map_or(Ok(()), |limits| limits.device(device))?;
            // Another site's token is told no more than a stranger.
            if path.and_then(|id| id.parse().ok()) != Some(site.0) {
                return Err(ApiError::NotFound("site"));
            }
            Ok(Self {
                site,
                teller: Teller::Device(device),
            })
        })
    }
}

/// Asks who sends a request, after all else of its head was looked at and before its body is read; to the end, also where nobody waits any more: a query dropped in the
/// middle would cost its connection.
fn to_its_end<T: 'static>(
    request: &HttpRequest,
    asks: impl Future<Output = Result<T, ApiError>> + 'static,
) -> Pin<Box<dyn Future<Output = Result<T, ApiError>>>> {
    let entrance = entrance::close(request);
    Box::pin(async move {
        entrance::after_the_rest().await;
        let broken = |e: JoinError| Err(ApiError::Internal(e.to_string()));
        let asked = actix_web::rt::spawn(asks).await.unwrap_or_else(broken);
        if asked.is_ok() {
            entrance.open();
        }
        asked
    })
}

/// Counts a request of an account against its limit.
fn count(limits: Option<&Data<Limits>>, account: AccountId) -> Result<(), ApiError> {
    limits.map_or(Ok(()), |limits| limits.account(account))
}

/// Proof that the request is signed in.
pub struct SignedIn(pub AccountId);

impl FromRequest for SignedIn {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let db = request.app_data::<Data<Db>>().cloned();
        let limits = request.app_data::<Data<Limits>>().cloned();
        let session = session_hash(request);
        to_its_end(request, async move {
            let db = db.ok_or_else(|| ApiError::Internal("no database".to_owned()))?;
            let session = session.ok_or(ApiError::SignedOut)?;
            let account = accounts::session_account(db.pool(), &session)
                .await?
                .ok_or(ApiError::SignedOut)?;
            count(limits.as_ref(), account)?;
            Ok(Self(account))
        })
    }
}
