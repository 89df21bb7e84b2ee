use actix_web::get;
use actix_web::web::{Data, Json};

use super::RunView;
use crate::api::access::{Access, Read};
use crate::db::{Db, runs};
use crate::http::error::{ApiError, Problem};
use crate::http::query::{Asked, Stretch};

/// Runs of a stretch of days, newest first; denied ones with no passes.
#[utoipa::path(tag = "runs", operation_id = "list_runs", params(("site" = i64, Path), Stretch), responses(
    (status = 200, description = "The runs", body = Vec<RunView>),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "A day that no record may name", body = Problem)))]
#[get("/sites/{site}/runs")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    Asked(days): Asked<Stretch>,
    db: Data<Db>,
) -> Result<Json<Vec<RunView>>, ApiError> {
    let days = days.checked()?;
    let rows = runs::list(db.pool(), access.site, days.from, days.to).await?;
    Ok(Json(rows.into_iter().map(RunView::from).collect()))
}
