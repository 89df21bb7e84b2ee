use actix_web::get;
use actix_web::web::{Data, Json};

use super::MeterView;
use crate::api::access::{Access, Read};
use crate::db::{Db, flow, meters};
use crate::http::error::{ApiError, Problem};

/// The site's meters, those that are taken out too, each with its last reading.
#[utoipa::path(tag = "water book", operation_id = "list_meters", params(("site" = i64, Path)), responses(
    (status = 200, description = "The meters", body = Vec<MeterView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/meters")]
pub(in crate::api) async fn list_meters(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<MeterView>>, ApiError> {
    let rows = meters::of_site(db.pool(), access.site).await?;
    let readings = meters::readings(db.pool(), access.site, lawn::days::FIRST).await?;
    let mut views = Vec::with_capacity(rows.len());
    for row in rows {
        let id = row.id;
        let counts = row.meter.pulse_l.is_some();
        let mut view = MeterView::of(row, &readings);
        if counts {
            view.heard_until = flow::last_heard(db.pool(), id).await?;
        }
        views.push(view);
    }
    Ok(Json(views))
}
