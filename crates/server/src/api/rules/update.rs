use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::Zone;
use lawn::site::rules::Rules;

use crate::api::access::{Access, Manage};
use crate::api::sites::{SiteView, committed, opened_for_edit};
use crate::db::history::{self, Event};
use crate::db::{Db, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
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
    let mut tx = opened_for_edit(&request, &db, access.site).await?;
    let zones = zones::of_site(&mut *tx, access.site).await?;
    let zones: Vec<Zone> = zones.into_iter().map(|row| row.zone).collect();
    rules.validate(&zones)?;
    sites::set_rules(&mut *tx, access.site, &rules).await?;
    history::note(&mut *tx, access.site, access.account, &Event::RulesChanged).await?;
    planning::replan(&mut tx, access.site).await?;
    committed(tx, access.site).await
}
