use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use sqlx::PgPool;

use super::show::{CurrentPlan, newest};
use crate::api::access::{Access, Record};
use crate::api::error::{ApiError, Problem};
use crate::db::sites;
use crate::planning;

/// Plans again from what is known now.
#[utoipa::path(tag = "plans", operation_id = "create_plan", params(("site" = i64, Path)), responses(
    (status = 201, description = "The newest plan", body = CurrentPlan),
    (status = 404, description = "No such site here", body = Problem)))]
#[post("/sites/{site}/plans")]
pub(in crate::api) async fn create(
    access: Access<Record>,
    pool: Data<PgPool>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = pool.begin().await?;
    sites::lock(&mut *tx, access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(newest(&pool, access.site).await?))
}
