use actix_web::http::header::{CONTENT_DISPOSITION, ContentType};
use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use lawn::site::SiteDocument;
use lawn::site::document;

use crate::api::access::{Access, Read};
use crate::db::{Db, measured, meters, sites, zones};
use crate::http::error::{ApiError, Problem};

/// The site document: everything that plans read of the site but the weather and the runs; what was measured and seen is in it, but for photos.
#[utoipa::path(tag = "sites", operation_id = "export_site", params(("site" = i64, Path)), responses(
    (status = 200, description = "The site document", body = SiteDocument),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/document")]
pub(in crate::api) async fn export(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut db = db.pool().acquire().await?;
    let site = sites::get(&mut *db, access.site).await?;
    let zones = zones::of_site(&mut *db, access.site).await?;
    let mut whole = zones::document(&site, &zones);
    let mut measured = measured::of_sites(&mut db, &[access.site]).await?;
    measured.put_into(&mut whole);
    let meters = meters::of_site(&mut *db, access.site).await?;
    whole.meters = meters.into_iter().map(|row| row.meter).collect();
    whole.caps = site.caps;
    let text = document::write(&whole);
    Ok(HttpResponse::Ok()
        .content_type(ContentType::json())
        .insert_header((CONTENT_DISPOSITION, "attachment; filename=\"site.json\""))
        .body(text))
}
