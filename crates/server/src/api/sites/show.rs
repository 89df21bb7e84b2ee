use actix_web::web::Data;
use actix_web::{HttpResponse, get};

use super::SiteView;
use crate::api::access::{Access, Read};
use crate::db::{Db, sites};
use crate::http::error::{ApiError, Problem};
use crate::http::etag::etag;

/// Place, allowed days and hours, supply, controller, clock; the ETag is its version.
#[utoipa::path(tag = "sites", operation_id = "show_site", params(("site" = i64, Path)), responses(
    (status = 200, description = "The site", body = SiteView),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}")]
pub(in crate::api) async fn show(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let row = sites::get(db.pool(), access.site).await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}
