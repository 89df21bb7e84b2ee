//! Devices that send a site's weather: their tokens, made and revoked by managers.

use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, get, post};
use jiff::Timestamp;
use lawn::text::check_name;
use serde::{Deserialize, Serialize};
use sqlx::PgConnection;
use utoipa::ToSchema;

use super::access::{Access, Manage};
use super::session::new_token;
use crate::db::history::{self, Event};
use crate::db::{AccountId, Db, SiteId, devices};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Most devices of a site.
const MOST_DEVICES: usize = 50;

/// A device that may send weather.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct DeviceView {
    id: i64,
    name: String,
    /// Who made its token, and answers for it; `null`: nobody who is still known.
    made_by: Option<String>,
    /// Whose account that is.
    maker: Option<AccountId>,
    made_at: Timestamp,
    /// When it last sent anything.
    last_used_at: Option<Timestamp>,
}

/// What it is.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(super) struct NewDevice {
    /// A name to tell devices apart.
    name: String,
}

/// The device's token. It is shown once and not kept.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct AddedDevice {
    id: i64,
    token: String,
}

/// The devices that may send the site's weather.
#[utoipa::path(tag = "weather", operation_id = "list_devices", params(("site" = i64, Path)), responses(
    (status = 200, description = "The devices", body = Vec<DeviceView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/device-tokens")]
pub(super) async fn list_devices(
    access: Access<Manage>,
    db: Data<Db>,
) -> Result<Json<Vec<DeviceView>>, ApiError> {
    let found = devices::of_site(db.pool(), access.site).await?;
    let views = found.into_iter().map(|d| DeviceView {
        id: d.id,
        name: d.name,
        made_by: d.maker,
        maker: d.made_by,
        made_at: d.made_at,
        last_used_at: d.last_used_at,
    });
    Ok(Json(views.collect()))
}

/// What becomes of the tokens of somebody who manages the site no more.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(super) enum Tokens {
    /// They end.
    #[default]
    End,
    /// The owner who takes the role away answers for them from now on.
    TakeOver,
}

impl Tokens {
    /// Ends the tokens that a member made, or has who asks answer for them; the history says so.
    pub(super) async fn of_member(
        self,
        db: &mut PgConnection,
        site: SiteId,
        (member, name): (AccountId, &str),
        by: AccountId,
    ) -> sqlx::Result<()> {
        let maker = name.to_owned();
        let (devices, event): (_, fn(_, _) -> _) = match self {
            Self::End => (
                devices::revoke_all_of(&mut *db, site, member).await?,
                |maker, devices| Event::DevicesEnded { maker, devices },
            ),
            Self::TakeOver => (
                devices::take_over(&mut *db, site, member, by).await?,
                |maker, devices| Event::DevicesTakenOver { maker, devices },
            ),
        };
        if devices.is_empty() {
            return Ok(());
        }
        history::note(db, site, by, &event(maker, devices)).await
    }
}

/// Makes a token with which a device may send the site's weather, and nothing else.
#[utoipa::path(tag = "weather", operation_id = "add_device", params(("site" = i64, Path)), request_body = NewDevice, responses(
    (status = 201, description = "The device's token", body = AddedDevice),
    (status = 409, description = "The site has 50 devices", body = Problem),
    (status = 422, description = "No name", body = Problem)))]
#[post("/sites/{site}/device-tokens")]
pub(super) async fn add_device(
    access: Access<Manage>,
    db: Data<Db>,
    Body(new): Body<NewDevice>,
) -> Result<HttpResponse, ApiError> {
    let name = new.name.trim();
    check_name("name", name)?;
    let (token, hash) = new_token()?;
    let mut tx = db.write(access.site).await?;
    if devices::of_site(&mut *tx, access.site).await?.len() >= MOST_DEVICES {
        return Err(ApiError::Conflict(format!(
            "a site has at most {MOST_DEVICES} devices; revoke some first"
        )));
    }
    let id = devices::insert(&mut *tx, access.site, access.account, name, &hash).await?;
    let event = Event::DeviceAdded {
        name: name.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(AddedDevice { id, token }))
}

/// Revokes a device's token; what it sent stays.
#[utoipa::path(tag = "weather", operation_id = "revoke_device", params(("site" = i64, Path), ("device" = i64, Path)), responses(
    (status = 204, description = "Revoked"),
    (status = 404, description = "No device of that number", body = Problem)))]
#[delete("/sites/{site}/device-tokens/{device}")]
pub(super) async fn revoke_device(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let name = devices::revoke(&mut *tx, access.site, path.1)
        .await?
        .ok_or(ApiError::NotFound("device"))?;
    let event = Event::DeviceRevoked { name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
