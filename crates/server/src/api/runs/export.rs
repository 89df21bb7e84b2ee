use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, get};
use jiff::tz::TimeZone;
use lawn::days;
use lawn::record::runs_file::{self, Filed};

use super::filed;
use crate::api::access::{Access, Read};
use crate::db::{Db, SiteId, runs, sites};
use crate::http::csv;
use crate::http::error::{ApiError, Problem};

/// What ran, and what was said not to have, as CSV with names, clock times and whose word it is (docs/formats/runs.md).
#[utoipa::path(tag = "runs", operation_id = "export_runs", params(("site" = i64, Path)), responses(
    (status = 200, description = "The runs", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/runs.csv")]
pub(in crate::api) async fn export_runs(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let filed = all(&db, access.site).await?;
    Ok(csv::file("runs.csv", runs_file::write(&filed, &zone)))
}

/// The same as JSON.
#[utoipa::path(tag = "runs", operation_id = "export_runs_json", params(("site" = i64, Path)), responses(
    (status = 200, description = "The runs", body = Vec<Filed>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/runs.json")]
pub(in crate::api) async fn export_runs_json(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<Filed>>, ApiError> {
    Ok(Json(all(&db, access.site).await?))
}

/// All runs of a site, oldest first.
async fn all(db: &Db, site: SiteId) -> sqlx::Result<Vec<Filed>> {
    let rows = runs::list(db.pool(), site, days::FIRST, days::LAST).await?;
    Ok(rows.iter().rev().map(filed).collect())
}
