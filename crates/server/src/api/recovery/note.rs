use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use lawn::quantity::Area;
use lawn::ranges;
use lawn::site::Invalid;
use lawn::stress::repair::State;
use lawn::text::check_name;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::there;
use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::patches::{self, NewLook, NewPatch};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};

/// Most patches of a site.
const MOST_PATCHES: usize = 2000;
/// Most looks at a patch.
const MOST_LOOKS: usize = 200;

/// A patch that was found, and the first look at it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NotedPatch {
    /// What people call it: where it lies.
    name: String,
    /// Its area, m².
    area_m2: f64,
    /// Whether a handful held that was pulled at; absent: nobody pulled.
    #[serde(default)]
    holds: Option<bool>,
    /// Whether its crowns live: green, or white and firm; absent: nobody looked.
    #[serde(default)]
    alive: Option<bool>,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// One more look at a patch.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NotedLook {
    /// Whether a handful held that was pulled at; absent: nobody pulled.
    #[serde(default)]
    holds: Option<bool>,
    /// Whether its crowns live: green, or white and firm; absent: nobody looked.
    #[serde(default)]
    alive: Option<bool>,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is written once.
    idempotency_key: String,
}

/// What was kept of a look.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct LookKept {
    patch: i64,
    /// To put a photo to.
    look: i64,
    state: State,
}

/// Notes a patch of a zone with the first look at it, on the site's day. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "stress", operation_id = "note_patch", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = NotedPatch, responses(
    (status = 201, description = "Noted", body = LookKept),
    (status = 200, description = "Noted before", body = LookKept),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 409, description = "The site has 2000 patches on record", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/patches")]
pub(in crate::api) async fn note_patch(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(noted): Body<NotedPatch>,
) -> Result<HttpResponse, ApiError> {
    check_name("name", &noted.name)?;
    Invalid::unless_within("area_m2", ranges::PATCH, noted.area_m2)?;
    idempotency_key(&noted.idempotency_key)?;
    let id = ZoneId(path.1);
    let mut tx = db.write(access.site).await?;
    let zone = zones::get(&mut *tx, access.site, id).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let new = NewPatch {
        zone: id,
        name: noted.name.trim(),
        area: Area::from_m2(noted.area_m2),
        noted_on: today,
        account: access.account,
        idempotency_key: &noted.idempotency_key,
    };
    let (patch, is_new) = patches::add(&mut *tx, &new).await?;
    let look = NewLook {
        patch,
        date: today,
        holds: noted.holds,
        alive: noted.alive,
        account: access.account,
        idempotency_key: &noted.idempotency_key,
    };
    let kept = LookKept {
        patch,
        look: patches::add_look(&mut *tx, &look).await?.0,
        state: State::of(noted.holds, noted.alive),
    };
    if !is_new {
        return Ok(HttpResponse::Ok().json(kept));
    }
    let all = patches::of_site(&mut *tx, access.site, None).await?;
    if all.len() > MOST_PATCHES {
        return Err(ApiError::Conflict(format!(
            "this site has {MOST_PATCHES} patches on record; more are not kept"
        )));
    }
    let open = all
        .iter()
        .filter(|other| other.zone == id && other.repaired_on.is_none());
    let area: f64 = open.map(|other| other.area.m2()).sum();
    if area > zone.zone.area_m2.m2() {
        let message = "the zone's open patches are larger together than the zone";
        return Err(Invalid::new("area_m2", message).into());
    }
    let event = Event::PatchNoted {
        zone: zone.zone.name,
        patch: new.name.to_owned(),
        state: kept.state,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(kept))
}

/// Notes one more look at a patch, on the site's day. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "stress", operation_id = "look_at_patch", params(("site" = i64, Path), ("patch" = i64, Path)), request_body = NotedLook, responses(
    (status = 201, description = "Noted", body = LookKept),
    (status = 200, description = "Noted before", body = LookKept),
    (status = 404, description = "No such patch here", body = Problem),
    (status = 409, description = "The patch was looked at 200 times", body = Problem),
    (status = 422, description = "The key does not hold", body = Problem)))]
#[post("/sites/{site}/patches/{patch}/looks")]
pub(in crate::api) async fn look_at_patch(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(noted): Body<NotedLook>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&noted.idempotency_key)?;
    let mut tx = db.write(access.site).await?;
    let patch = there(&mut tx, access.site, path.1).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let look = NewLook {
        patch: patch.id,
        date: clock::local_date(clock::now(site.simulated_now), &site.site.time_zone),
        holds: noted.holds,
        alive: noted.alive,
        account: access.account,
        idempotency_key: &noted.idempotency_key,
    };
    let state = State::of(noted.holds, noted.alive);
    let (look, is_new) = patches::add_look(&mut *tx, &look).await?;
    let kept = LookKept {
        patch: patch.id,
        look,
        state,
    };
    if !is_new {
        return Ok(HttpResponse::Ok().json(kept));
    }
    let looks = patches::looks(&mut *tx, access.site).await?;
    if looks.iter().filter(|l| l.patch == patch.id).count() > MOST_LOOKS {
        return Err(ApiError::Conflict(format!(
            "this patch was looked at {MOST_LOOKS} times; more is not kept"
        )));
    }
    let event = Event::PatchLookedAt {
        zone: patch.zone_name,
        patch: patch.name,
        state,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(kept))
}
