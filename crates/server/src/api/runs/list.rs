use actix_web::get;
use actix_web::web::{Data, Json, Query};
use jiff::civil::Date;
use serde::Deserialize;
use sqlx::PgPool;
use utoipa::IntoParams;

use super::RunView;
use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::db::runs;

/// Which days.
#[derive(Deserialize, IntoParams)]
pub(in crate::api) struct RunDays {
    /// First day.
    from: Date,
    /// Last day.
    to: Date,
}

/// Runs of a stretch of days, newest first; denied ones with no passes.
#[utoipa::path(tag = "runs", operation_id = "list_runs", params(("site" = i64, Path), RunDays), responses(
    (status = 200, description = "The runs", body = Vec<RunView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/runs")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    days: Query<RunDays>,
    pool: Data<PgPool>,
) -> Result<Json<Vec<RunView>>, ApiError> {
    let rows = runs::list(pool.as_ref(), access.site, days.from, days.to).await?;
    Ok(Json(rows.into_iter().map(RunView::from).collect()))
}
