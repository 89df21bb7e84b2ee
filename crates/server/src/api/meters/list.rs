use actix_web::get;
use actix_web::web::{Data, Json};

use super::MeterView;
use crate::api::access::{Access, Read};
use crate::db::{Db, meters};
use crate::http::error::{ApiError, Problem};

/// The site's meters, those that are taken out too, each with its last reading.
#[utoipa::path(tag = "water book", operation_id = "list_meters", params(("site" = i64, Path)), responses(
    (status = 200, description = "The meters", body = Vec<MeterView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/meters")]
pub(in crate::api) async fn list_meters(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<MeterView>>, ApiError> {
    let rows = meters::of_site(db.pool(), access.site).await?;
    let readings = meters::readings(db.pool(), access.site, lawn::days::FIRST).await?;
    let views = rows.into_iter().map(|row| MeterView::of(row, &readings));
    Ok(Json(views.collect()))
}
