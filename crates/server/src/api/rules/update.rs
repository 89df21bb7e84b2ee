use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::Zone;
use lawn::site::rules::Rules;

use crate::api::access::{Access, Manage};
use crate::api::sites::SiteView;
use crate::db::history::{self, Event};
use crate::db::{Db, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::{check, etag, if_match};
use crate::planning;

/// Replaces the local rules; replans.
#[utoipa::path(tag = "sites", operation_id = "update_rules",
    params(("site" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = Rules, responses(
    (status = 200, description = "The site now", body = SiteView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A rule does not hold", body = Problem)))]
#[put("/sites/{site}/rules")]
pub(in crate::api) async fn update_rules(
    access: Access<Manage>,
    request: HttpRequest,
    db: Data<Db>,
    Body(rules): Body<Rules>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let mut tx = db.write(access.site).await?;
    let current = tx.version;
    if edited != current {
        let now = SiteView::from(sites::get(&mut *tx, access.site).await?);
        check(edited, current, &now)?;
    }
    let zones = zones::of_site(&mut *tx, access.site).await?;
    let zones: Vec<Zone> = zones.into_iter().map(|row| row.zone).collect();
    rules.validate(&zones)?;
    sites::set_rules(&mut *tx, access.site, &rules).await?;
    history::note(&mut *tx, access.site, access.account, &Event::RulesChanged).await?;
    planning::replan(&mut tx, access.site).await?;
    let row = sites::get(&mut *tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(SiteView::from(row)))
}
