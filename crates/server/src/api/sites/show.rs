use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use sqlx::PgPool;

use super::SiteView;
use crate::api::access::{Access, Read};
use crate::api::error::{ApiError, Problem};
use crate::api::etag::etag;
use crate::db::sites;

/// Place, allowed days and hours, supply, clock; the ETag is its version.
#[utoipa::path(tag = "sites", operation_id = "show_site", params(("site" = i64, Path)), responses(
    (status = 200, description = "The site", body = SiteView),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}")]
pub(in crate::api) async fn show(
    access: Access<Read>,
    pool: Data<PgPool>,
) -> Result<HttpResponse, ApiError> {
    let row = sites::get(pool.as_ref(), access.site).await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}
