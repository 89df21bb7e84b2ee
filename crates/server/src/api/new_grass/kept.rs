use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, get, put};
use jiff::civil::Date;
use lawn::new_grass::backwards::Set;
use lawn::new_grass::method::Method;
use lawn::ranges;
use lawn::site::Invalid;
use science::turf::Grass;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::plan::holds;
use crate::api::access::{Access, Manage, Read};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::kept_sowings::{self, KeptDays, KeptRow};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// New grass that is planned for a zone.
#[derive(Debug, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct KeptSowing {
    /// What is sown or planted.
    grass: Grass,
    /// How.
    method: Method,
    /// When weeds are sprayed; absent: they are not.
    #[serde(default)]
    spray: Option<Date>,
    /// When the soil is worked.
    soil_work: Date,
    /// When it is sown.
    sow: Date,
    /// Days from the spray to sowing, by its label.
    wait_days: i64,
}

/// A kept plan with its zone.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct KeptSowingView {
    zone: ZoneId,
    zone_name: String,
    /// Who kept it.
    who: Option<String>,
    kept: KeptSowing,
}

/// A key as it is stored, back in words of the core.
fn of_key<T: DeserializeOwned>(key: String) -> Option<T> {
    serde_json::from_value(serde_json::Value::String(key)).ok()
}

/// A word of the core as it is stored.
fn key_of(of: impl Serialize) -> Result<String, ApiError> {
    match serde_json::to_value(of) {
        Ok(serde_json::Value::String(key)) => Ok(key),
        _ => Err(ApiError::Internal("a key that is no text".to_owned())),
    }
}

/// `None`: what it sows is not known any more.
fn view(row: KeptRow) -> Option<KeptSowingView> {
    Some(KeptSowingView {
        zone: row.zone,
        zone_name: row.zone_name,
        who: row.who,
        kept: KeptSowing {
            grass: of_key(row.grass)?,
            method: of_key(row.method)?,
            spray: row.spray,
            soil_work: row.soil_work,
            sow: row.sow,
            wait_days: row.wait_days,
        },
    })
}

/// New grass that is planned for the site's zones, the next to be sown first.
#[utoipa::path(tag = "new grass", operation_id = "list_kept_sowings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The plans", body = Vec<KeptSowingView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/kept-sowings")]
pub(in crate::api) async fn list_kept_sowings(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<KeptSowingView>>, ApiError> {
    let rows = kept_sowings::of_site(db.pool(), access.site).await?;
    Ok(Json(rows.into_iter().filter_map(view).collect()))
}

/// Keeps the days on which new grass is made in a zone, in place of those kept before. They come up on Morning.
#[utoipa::path(tag = "new grass", operation_id = "keep_sowing", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = KeptSowing, responses(
    (status = 204, description = "Kept"),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "A day or a figure does not hold", body = Problem)))]
#[put("/sites/{site}/zones/{zone}/kept-sowing")]
pub(in crate::api) async fn keep_sowing(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(kept): Body<KeptSowing>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let zone = zones::get(&mut *tx, access.site, ZoneId(path.1)).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    if !kept.method.suits(kept.grass) {
        return Err(Invalid::new("method", "this grass is not made in this way").into());
    }
    #[allow(clippy::cast_precision_loss)] // checked to be a few hundred at most
    Invalid::unless_within("wait_days", ranges::SPRAY_WAIT, kept.wait_days as f64)?;
    let set = Set {
        spray: kept.spray,
        soil_work: kept.soil_work,
        sow: kept.sow,
        wait_days: kept.wait_days,
    };
    holds(&set, today)?;
    let (grass, method) = (key_of(kept.grass)?, key_of(kept.method)?);
    let days = KeptDays {
        grass: &grass,
        method: &method,
        spray: set.spray,
        soil_work: set.soil_work,
        sow: set.sow,
        wait_days: set.wait_days,
    };
    kept_sowings::keep(&mut *tx, zone.id, &days, access.account).await?;
    let event = Event::SowingKept {
        zone: zone.zone.name,
        sow: set.sow,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Forgets the days that were kept for a zone. Said again it changes nothing.
#[utoipa::path(tag = "new grass", operation_id = "forget_sowing", params(("site" = i64, Path), ("zone" = i64, Path)), responses(
    (status = 204, description = "Forgotten"),
    (status = 404, description = "No such zone here", body = Problem)))]
#[delete("/sites/{site}/zones/{zone}/kept-sowing")]
pub(in crate::api) async fn forget_sowing(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let zone = zones::get(&mut *tx, access.site, ZoneId(path.1)).await?;
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    if kept_sowings::forget(&mut *tx, zone.id).await? {
        let event = Event::SowingForgotten {
            zone: zone.zone.name,
        };
        history::note(&mut *tx, access.site, access.account, &event).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
