use actix_web::http::header::{CONTENT_DISPOSITION, ContentType};
use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use lawn::site::SiteDocument;
use lawn::site::document;

use crate::api::access::{Access, Read};
use crate::db::{Db, head_faults, sites, sprinkler_tests, zones};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// The site document: everything that plans read of the site but the weather and the runs; what tests measured stands in its zones.
#[utoipa::path(tag = "sites", operation_id = "export_site", params(("site" = i64, Path)), responses(
    (status = 200, description = "The site document", body = SiteDocument),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/document")]
pub(in crate::api) async fn export(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let zones = zones::of_site(db.pool(), access.site).await?;
    let mut whole = planning::document(&site, &zones);
    let tests = sprinkler_tests::of_site(db.pool(), access.site).await?;
    let mended = head_faults::mended(db.pool(), access.site).await?;
    planning::apply_tests(&mut whole, &tests, &mended);
    let text = document::write(&whole);
    Ok(HttpResponse::Ok()
        .content_type(ContentType::json())
        .insert_header((CONTENT_DISPOSITION, "attachment; filename=\"site.json\""))
        .body(text))
}
