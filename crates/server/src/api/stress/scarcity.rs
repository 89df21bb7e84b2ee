use actix_web::get;
use actix_web::web::{Data, Json, Query};
use lawn::quantity::Volume;
use lawn::ranges;
use lawn::site::Invalid;
use lawn::view::scarcity::Scarcity;
use serde::Deserialize;
use utoipa::IntoParams;

use crate::api::access::{Access, Read};
use crate::computing::Turns;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// A volume to share out.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct OfVolume {
    /// Water for the seven days from today on, L; absent: what the tightest cap leaves, or else all that is needed.
    litres: Option<f64>,
}

/// Too little water: what a volume for the coming week comes to, who gets what of it, and the harm of every other volume. Nothing is changed.
#[utoipa::path(tag = "stress", operation_id = "share_scarce", params(("site" = i64, Path), OfVolume), responses(
    (status = 200, description = "The shares and the curve", body = Scarcity),
    (status = 404, description = "No such site here, or no weather to plan from", body = Problem),
    (status = 422, description = "The volume does not hold", body = Problem)))]
#[get("/sites/{site}/scarcity")]
pub(in crate::api) async fn share_scarce(
    access: Access<Read>,
    of: Query<OfVolume>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<Scarcity>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    if let Some(litres) = of.litres {
        Invalid::unless_within("litres", ranges::SHARED_VOLUME, litres)?;
    }
    // What is brought up on the way is rolled back: looking writes nothing.
    let mut tx = db.write(access.site).await?;
    let found = planning::scarcity(&mut tx, access.site, of.litres.map(Volume::from_l)).await?;
    found.map(Json).ok_or(ApiError::NotFound("weather"))
}
