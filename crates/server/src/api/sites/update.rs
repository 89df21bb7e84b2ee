use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::{Controller, Site, Supply, Window, validate_windows};
use serde::Deserialize;
use utoipa::ToSchema;

use super::{SiteView, committed, opened_for_edit};
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Place, allowed days and hours, supply, controller.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct SiteEdit {
    site: Site,
    windows: Vec<Window>,
    supply: Supply,
    controller: Controller,
}

/// Replaces place, allowed days and hours, supply, controller; replans.
#[utoipa::path(tag = "sites", operation_id = "update_site",
    params(("site" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = SiteEdit, responses(
    (status = 200, description = "The site now", body = SiteView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[put("/sites/{site}")]
pub(in crate::api) async fn update(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Body(edit): Body<SiteEdit>,
) -> Result<HttpResponse, ApiError> {
    edit.site.validate()?;
    validate_windows(&edit.windows)?;
    edit.supply.validate()?;
    edit.controller.validate()?;
    let mut tx = opened_for_edit(&request, &db, access.site).await?;
    sites::update(
        &mut *tx,
        access.site,
        &edit.site,
        &edit.windows,
        &edit.supply,
        &edit.controller,
    )
    .await?;
    history::note(&mut *tx, access.site, access.account, &Event::SiteChanged).await?;
    planning::replan(&mut tx, access.site).await?;
    committed(tx, access.site).await
}
