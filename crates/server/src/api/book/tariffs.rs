use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::tariff::{self, Tariff};

use crate::api::access::{Access, Manage};
use crate::api::sites::{SiteView, committed, opened_for_edit};
use crate::db::history::{self, Event};
use crate::db::{Db, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
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
    let mut tx = opened_for_edit(&request, &db, access.site).await?;
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
    committed(tx, access.site).await
}
