use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, put};
use lawn::site::Invalid;
use lawn::site::meter::Meter;

use super::{MeterView, check, meter};
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::meters::MeterId;
use crate::db::{Db, meters};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::http::etag::{self, etag, if_match};

/// Replaces a meter's description; with a last day it is taken out, and its readings stay. What it counts in cannot change once it was read: its readings
/// would say something else.
#[utoipa::path(tag = "water book", operation_id = "update_meter",
    params(("site" = i64, Path), ("meter" = i64, Path), ("If-Match" = String, Header, description = "The version edited")),
    request_body = Meter, responses(
    (status = 200, description = "The meter now", body = MeterView),
    (status = 412, description = "Somebody changed it in the meantime", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[put("/sites/{site}/meters/{meter}")]
pub(in crate::api) async fn update_meter(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    request: HttpRequest,
    db: Data<Db>,
    Body(new): Body<Meter>,
) -> Result<HttpResponse, ApiError> {
    let edited = if_match(&request)?;
    let id = MeterId(path.1);
    let mut tx = db.write(access.site).await?;
    let current = meter(&mut tx, access.site, id).await?;
    let readings = meters::readings(&mut *tx, access.site, lawn::days::FIRST).await?;
    if edited != current.version {
        let version = current.version;
        etag::check(edited, version, &MeterView::of(current, &readings))?;
        return Err(ApiError::NoVersion);
    }
    check(&mut tx, access.site, &new).await?;
    if readings.iter().any(|r| r.meter == id) {
        let was = &current.meter;
        for (field, changed) in [
            ("unit", was.unit != new.unit),
            ("digits", was.digits != new.digits),
            (
                "multiplier",
                was.multiplier.total_cmp(&new.multiplier).is_ne(),
            ),
        ] {
            if changed {
                let message = "it was read in this count; where the meter was changed, say so with its first reading, or end this one and add another";
                return Err(Invalid::new(field, message).into());
            }
        }
    }
    meters::update(&mut *tx, id, &new).await?;
    let event = match (current.meter.active_to, new.active_to) {
        (before, Some(last_day)) if before != Some(last_day) => Event::MeterEnded {
            name: new.name,
            last_day,
        },
        _ => Event::MeterChanged { name: new.name },
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    let row = meter(&mut tx, access.site, id).await?;
    tx.commit().await?;
    Ok(HttpResponse::Ok()
        .insert_header(etag(row.version))
        .json(MeterView::of(row, &readings)))
}
