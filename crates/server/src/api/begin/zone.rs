use actix_web::post;
use actix_web::web::{Data, Json};
use lawn::site::Zone;
use lawn::site::draft::ZoneDraft;
use lawn::view::first_look::FirstLook;
use lawn::view::week_plan::ZonePlan;
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::db::Db;
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// A zone of answers, and what the plan would do with it.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Drafted {
    /// The zone as it would be added.
    zone: Zone,
    /// What it asks for on a summer's day; `null`: less than the least pass.
    first_look: Option<FirstLook>,
    /// Its week, beside the other zones'; `null` while there is no weather and no normals to plan from.
    plan: Option<ZonePlan>,
}

/// What the plan would do with a zone of answers, each of which may be left open. Nothing is written.
#[utoipa::path(tag = "zones", operation_id = "draft_zone", params(("site" = i64, Path)), request_body = ZoneDraft, responses(
    (status = 200, description = "The zone and its week", body = Drafted),
    (status = 422, description = "An answer that does not hold", body = Problem)))]
#[post("/sites/{site}/zone-drafts")]
pub(in crate::api) async fn zone(
    access: Access<Manage>,
    db: Data<Db>,
    Body(draft): Body<ZoneDraft>,
) -> Result<Json<Drafted>, ApiError> {
    // What is brought up on the way is rolled back: looking writes nothing.
    let mut tx = db.write(access.site).await?;
    let looked = planning::looked_at(&mut tx, access.site, &draft).await?;
    let (zone, first_look, plan) = looked?;
    Ok(Json(Drafted {
        zone,
        first_look,
        plan,
    }))
}
