use actix_web::get;
use actix_web::web::{Data, Json};

use super::EditView;
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::{Db, edits, sites};
use crate::http::error::{ApiError, Problem};

/// The edits that hold on days from today on.
#[utoipa::path(tag = "plans", operation_id = "list_edits", params(("site" = i64, Path)), responses(
    (status = 200, description = "The edits, by day", body = Vec<EditView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/edits")]
pub(in crate::api) async fn list_edits(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<EditView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let rows = edits::of_site(db.pool(), access.site, today).await?;
    Ok(Json(rows.into_iter().map(EditView::from).collect()))
}
