use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::tariff::{self, Tariff};

use crate::api::access::{Access, Manage};
use crate::api::sites::SiteView;
use crate::db::history::{self, Event};
use crate::db::{Db, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::{check, etag, if_match};
use crate::planning;

/// Replaces what water costs, from which day on; replans, since plans tell what they cost.
#[utoipa::path(tag = "water book", operation_id = "update_tariffs",
    params(("site" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = Vec<Tariff>, responses(
    (status = 200, description = "The site now", body = SiteView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A tariff does not hold", body = Problem)))]
#[put("/sites/{site}/tariffs")]
pub(in crate::api) async fn update_tariffs(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Body(tariffs): Body<Vec<Tariff>>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let mut tx = db.write(access.site).await?;
    let current = tx.version;
    if edited != current {
        let now = SiteView::from(sites::get(&mut *tx, access.site).await?);
        check(edited, current, &now)?;
    }
    tariff::validate(&tariffs)?;
    sites::set_tariffs(&mut *tx, access.site, &tariffs).await?;
    history::note(
        &mut *tx,
        access.site,
        access.account,
        &Event::TariffsChanged,
    )
    .await?;
    planning::replan(&mut tx, access.site).await?;
    let row = sites::get(&mut *tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}
