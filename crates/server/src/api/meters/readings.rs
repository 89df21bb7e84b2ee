use actix_web::get;
use actix_web::web::{Data, Json, Path};

use super::{ReadingView, meter, views};
use crate::api::access::{Access, Read};
use crate::db::Db;
use crate::db::meters::{self, MeterId, ReadingRow};
use crate::http::error::{ApiError, Problem};

/// The readings of a meter that count, newest first, each with what flowed since the one before.
#[utoipa::path(tag = "water book", operation_id = "list_readings", params(("site" = i64, Path), ("meter" = i64, Path)), responses(
    (status = 200, description = "The readings", body = Vec<ReadingView>),
    (status = 404, description = "No such meter here", body = Problem)))]
#[get("/sites/{site}/meters/{meter}/readings")]
pub(in crate::api) async fn list_readings(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<Json<Vec<ReadingView>>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let row = meter(&mut db, access.site, MeterId(path.1)).await?;
    let rows = meters::readings(&mut *db, access.site, lawn::days::FIRST).await?;
    let own: Vec<&ReadingRow> = rows.iter().filter(|r| r.meter == row.id).collect();
    let mut views = views(&row.meter, &own);
    views.reverse();
    Ok(Json(views))
}
