use actix_web::get;
use actix_web::web::{Data, Json};

use super::{SeenView, advice};
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::{Db, seen, sites, zones};
use crate::http::error::{ApiError, Problem};

/// Of what was seen as much is listed.
const MOST_LISTED: i64 = 500;

/// What was seen of all zones, the last 500, newest first.
#[utoipa::path(tag = "soil", operation_id = "list_seen", params(("site" = i64, Path)), responses(
    (status = 200, description = "What was seen", body = Vec<SeenView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/seen")]
pub(in crate::api) async fn list_seen(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<SeenView>>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let zones = zones::of_site(db.pool(), access.site).await?;
    let rows = seen::of_site(db.pool(), access.site, MOST_LISTED).await?;
    let views = rows.into_iter().map(|row| {
        let zone = zones.iter().find(|z| z.id == row.zone);
        let advice = zone.map(|z| advice(z, &row.kept.seen, site.site.latitude, today));
        SeenView::of(row, advice.unwrap_or_default())
    });
    Ok(Json(views.collect()))
}
