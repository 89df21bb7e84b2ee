use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::Timestamp;
use lawn::changes::Change;
use lawn::week_plan::WeekPlan;
use serde::Serialize;
use sqlx::PgPool;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::db::plans;

/// A plan as it was made, unchanged since.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct PlanView {
    id: i64,
    /// The site's instant at which it was made.
    made_at: Timestamp,
    #[schema(value_type = WeekPlan)]
    plan: serde_json::Value,
    /// What it changes against the last plan of the day before.
    #[schema(value_type = Vec<Change>)]
    changes: serde_json::Value,
}

/// The newest plan; `null` while there is no weather to plan from.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct CurrentPlan {
    current: Option<PlanView>,
}

pub(super) async fn newest(
    pool: &PgPool,
    access_site: crate::db::SiteId,
) -> Result<CurrentPlan, ApiError> {
    let stored = plans::newest(pool, access_site).await?;
    Ok(CurrentPlan {
        current: stored.map(|p| PlanView {
            id: p.id,
            made_at: p.made_at,
            plan: p.result,
            changes: p.changes,
        }),
    })
}

/// The newest plan. Reading computes nothing and writes nothing.
#[utoipa::path(tag = "plans", operation_id = "show_plan", params(("site" = i64, Path)), responses(
    (status = 200, description = "The newest plan", body = CurrentPlan),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/plan")]
pub(in crate::api) async fn show(
    access: Access<Read>,
    pool: Data<PgPool>,
) -> Result<Json<CurrentPlan>, ApiError> {
    newest(&pool, access.site).await.map(Json)
}
