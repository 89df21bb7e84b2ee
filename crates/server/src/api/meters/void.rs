use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};
use lawn::record::readings::used;

use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, meters};
use crate::http::error::{ApiError, Problem};

/// Takes a reading out of the count; it stays on record as voided.
#[utoipa::path(tag = "water book", operation_id = "void_reading", params(("site" = i64, Path), ("reading" = i64, Path)), responses(
    (status = 204, description = "Voided"),
    (status = 404, description = "No such reading", body = Problem),
    (status = 409, description = "The reading after it needs it", body = Problem)))]
#[delete("/sites/{site}/readings/{reading}")]
pub(in crate::api) async fn void_reading(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let rows = meters::readings(&mut *tx, access.site, lawn::days::FIRST).await?;
    let row = rows.iter().find(|row| row.id == path.1);
    let row = row.ok_or(ApiError::NotFound("reading"))?;
    let all = meters::of_site(&mut *tx, access.site).await?;
    let meter = all.into_iter().find(|m| m.id == row.meter);
    let meter = meter.ok_or(ApiError::NotFound("meter"))?.meter;
    let own: Vec<_> = rows.iter().filter(|r| r.meter == row.meter).collect();
    let at = own.partition_point(|r| r.reading.at < row.reading.at);
    // Without it the counter would go back: it tells of a turn, or of a new meter.
    let neighbours = at
        .checked_sub(1)
        .and_then(|i| own.get(i))
        .zip(own.get(at + 1));
    let backwards = neighbours
        .and_then(|(before, next)| used(&meter, &before.reading, &next.reading))
        .is_some_and(|flowed| flowed.l() < 0.0);
    if backwards {
        return Err(ApiError::Conflict(
            "the reading after it would be lower than the one before: correct this one instead"
                .to_owned(),
        ));
    }
    meters::void(&mut *tx, row.id).await?;
    let event = Event::MeterReadingVoided {
        meter: meter.name,
        register: row.reading.register,
        at: row.reading.at,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
