use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, post};

use super::PlanAnswers;
use crate::api::access::{Access, Record};
use crate::api::plans::CurrentPlan;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Plans again from what is known now.
#[utoipa::path(tag = "plans", operation_id = "create_plan", params(("site" = i64, Path)), responses(
    (status = 201, description = "The newest plan", body = CurrentPlan),
    (status = 404, description = "No such site here", body = Problem)))]
#[post("/sites/{site}/plans")]
pub(in crate::api) async fn create(
    access: Access<Record>,
    request: HttpRequest,
    db: Data<Db>,
    answers: Data<PlanAnswers>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    let answer = answers.newest(db.pool(), access.site).await?;
    Ok(answer.respond(&request, HttpResponse::Created()))
}
