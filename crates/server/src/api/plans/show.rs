use actix_web::http::header::{ETAG, IF_NONE_MATCH};
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, get};

use super::{CurrentPlan, PlanAnswers, tag};
use crate::api::access::{Access, Read};
use crate::db::{Db, plans};
use crate::http::error::{ApiError, Problem};

/// The newest plan; the ETag is its number. Reading computes nothing and writes nothing.
#[utoipa::path(tag = "plans", operation_id = "show_plan", params(("site" = i64, Path),
        ("If-None-Match" = Option<String>, Header, description = "The ETag of the plan that the reader has")), responses(
    (status = 200, description = "The newest plan", body = CurrentPlan),
    (status = 304, description = "The reader has it"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/plan")]
pub(in crate::api) async fn show(
    access: Access<Read>,
    request: HttpRequest,
    db: Data<Db>,
    answers: Data<PlanAnswers>,
) -> Result<HttpResponse, ApiError> {
    let newest = plans::newest(db.pool(), access.site).await?;
    let tag = tag(newest);
    let known = request
        .headers()
        .get_all(IF_NONE_MATCH)
        .filter_map(|v| v.to_str().ok())
        .flat_map(|line| line.split(','))
        .any(|known| known.trim() == tag);
    if known {
        return Ok(HttpResponse::NotModified()
            .insert_header((ETAG, tag))
            .finish());
    }
    let answer = answers.of(db.pool(), access.site, newest).await?;
    Ok(answer.respond(&request, HttpResponse::Ok()))
}
