use actix_web::post;
use actix_web::web::{Data, Json};
use lawn::site::rules::Rules;
use lawn::view::allowed::{AllowedDay, allowed_days};

use crate::api::access::{Access, Read};
use crate::clock;
use crate::computing::{Turns, computed};
use crate::db::{Db, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Who may water when in the next two weeks if these were the site's rules; writes nothing.
#[utoipa::path(tag = "sites", operation_id = "preview_rules", params(("site" = i64, Path)), request_body = Rules, responses(
    (status = 200, description = "Today and thirteen days more", body = Vec<AllowedDay>),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "A rule does not hold", body = Problem)))]
#[post("/sites/{site}/rules/preview")]
pub(in crate::api) async fn preview_rules(
    access: Access<Read>,
    db: Data<Db>,
    turns: Data<Turns>,
    Body(rules): Body<Rules>,
) -> Result<Json<Vec<AllowedDay>>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let site = sites::get(db.pool(), access.site).await?;
    let zones = zones::of_site(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let mut document = zones::document(&site, &zones);
    document.rules = rules;
    let days = computed(move || allowed_days(&document, today)).await??;
    Ok(Json(days))
}
