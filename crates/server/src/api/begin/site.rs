use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::draft::SiteDraft;

use crate::api::access::SignedIn;
use crate::api::sites::{SiteView, founded};
use crate::db::Db;
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Makes a new site, without zones, of answers, each of which may be left open.
#[utoipa::path(tag = "sites", operation_id = "begin_site", request_body = SiteDraft, responses(
    (status = 201, description = "The new site", body = SiteView),
    (status = 409, description = "The account owns 1000 sites", body = Problem),
    (status = 422, description = "An answer that does not hold", body = Problem)))]
#[post("/site-drafts")]
pub(in crate::api) async fn site(
    account: SignedIn,
    db: Data<Db>,
    Body(draft): Body<SiteDraft>,
) -> Result<HttpResponse, ApiError> {
    let document = draft.document()?;
    Ok(HttpResponse::Created().json(founded(&db, account.0, &document).await?))
}
