use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::meter::{MOST_METERS, Meter};

use super::{MeterView, check, meter};
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, meters};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Adds a meter; `id` of the body is not read.
#[utoipa::path(tag = "water book", operation_id = "add_meter", params(("site" = i64, Path)), request_body = Meter, responses(
    (status = 201, description = "The meter", body = MeterView),
    (status = 409, description = "The site has 50 meters", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/meters")]
pub(in crate::api) async fn add_meter(
    access: Access<Manage>,
    db: Data<Db>,
    Body(new): Body<Meter>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    check(&mut tx, access.site, &new).await?;
    if meters::of_site(&mut *tx, access.site).await?.len() >= MOST_METERS {
        return Err(ApiError::Conflict(format!(
            "a site has at most {MOST_METERS} meters"
        )));
    }
    let id = meters::insert(&mut *tx, access.site, &new).await?;
    let event = Event::MeterAdded { name: new.name };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let row = meter(&mut tx, access.site, id).await?;
    tx.commit().await?;
    Ok(HttpResponse::Created().json(MeterView::of(row, &[])))
}
