use std::fmt::Write;

use actix_web::http::header::CONTENT_DISPOSITION;
use actix_web::web::Data;
use actix_web::{HttpResponse, get};

use crate::api::access::{Access, Read};
use crate::db::{Db, runs};
use crate::http::error::{ApiError, Problem};

/// What ran, as CSV: date, zone, passes, pass_s (docs/formats/runs.md).
#[utoipa::path(tag = "plans", operation_id = "export_runs", params(("site" = i64, Path)), responses(
    (status = 200, description = "The runs", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/runs.csv")]
pub(in crate::api) async fn export_runs(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut text = String::from("date,zone,passes,pass_s\n");
    for run in runs::of_site(db.pool(), access.site).await? {
        writeln!(
            text,
            "{},{},{},{}",
            run.date, run.zone, run.passes, run.pass_s
        )
        .map_err(|e| ApiError::Internal(e.to_string()))?;
    }
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((CONTENT_DISPOSITION, "attachment; filename=\"runs.csv\""))
        .body(text))
}
