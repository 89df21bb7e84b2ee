use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::{Controller, Site, Supply, Window, validate_windows};
use serde::Deserialize;
use utoipa::ToSchema;

use super::SiteView;
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::{check, etag, if_match};
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
    let edited = if_match(&request)?;
    edit.site.validate()?;
    validate_windows(&edit.windows)?;
    edit.supply.validate()?;
    edit.controller.validate()?;
    let mut tx = db.write(access.site).await?;
    let current = tx.version;
    if edited != current {
        let now = SiteView::from(sites::get(&mut *tx, access.site).await?);
        check(edited, current, &now)?;
    }
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
    let row = sites::get(&mut *tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}
