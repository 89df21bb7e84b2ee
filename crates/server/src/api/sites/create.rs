use actix_web::web::{Bytes, Data};
use actix_web::{HttpResponse, post};
use lawn::document;
use lawn::site::SiteDocument;
use sqlx::PgPool;

use super::SiteView;
use crate::api::access::SignedIn;
use crate::api::error::{ApiError, Problem};
use crate::db::{sites, zones};

/// Makes a new site of a site document, owned by the account. Importing never touches another site.
#[utoipa::path(tag = "sites", operation_id = "create_site", request_body = SiteDocument, responses(
    (status = 201, description = "The new site", body = SiteView),
    (status = 400, description = "Not a site document", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites")]
pub(in crate::api) async fn create(
    account: SignedIn,
    pool: Data<PgPool>,
    body: Bytes,
) -> Result<HttpResponse, ApiError> {
    let text = std::str::from_utf8(&body).map_err(|_| ApiError::Malformed {
        field: None,
        message: "the file is not UTF-8 text".to_owned(),
    })?;
    let document = document::read(text).map_err(|error| match error {
        document::Error::Invalid(invalid) => ApiError::Invalid(invalid),
        other => ApiError::Malformed {
            field: None,
            message: other.to_string(),
        },
    })?;
    let mut tx = pool.begin().await?;
    let id = sites::insert(
        &mut *tx,
        &document.site,
        &document.windows,
        &document.supply,
        None,
    )
    .await?;
    sites::add_member(&mut *tx, id, account.0, "owner").await?;
    for zone in &document.zones {
        zones::insert(&mut *tx, id, zone).await?;
    }
    let row = sites::get(&mut *tx, id).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(SiteView::from(row)))
}
