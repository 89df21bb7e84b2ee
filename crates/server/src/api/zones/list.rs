use actix_web::get;
use actix_web::web::{Data, Json};

use super::ZoneView;
use crate::api::access::{Access, Read};
use crate::db::{Db, zones};
use crate::http::error::{ApiError, Problem};

/// The zones in the site's order, ended ones too.
#[utoipa::path(tag = "zones", operation_id = "list_zones", params(("site" = i64, Path)), responses(
    (status = 200, description = "The zones", body = Vec<ZoneView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/zones")]
pub(in crate::api) async fn list(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<ZoneView>>, ApiError> {
    let rows = zones::of_site(db.pool(), access.site).await?;
    Ok(Json(rows.into_iter().map(ZoneView::from).collect()))
}
