use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use lawn::record::findings::Finding;

use crate::api::access::{Access, Read};
use crate::computing::computed;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::{planning, water_book};

/// Days that meters are looked back over.
const LOOKED_BACK: i64 = 60;

/// Meters that do not agree with what ran, by their readings of the last two months.
#[utoipa::path(tag = "water book", operation_id = "show_findings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The findings", body = Vec<Finding>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/findings")]
pub(in crate::api) async fn show_findings(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<Finding>>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let from = today.saturating_sub(LOOKED_BACK.days());
    let pages = water_book::read(&mut db, access.site, document, from, today).await?;
    Ok(Json(computed(move || pages.findings()).await?))
}
