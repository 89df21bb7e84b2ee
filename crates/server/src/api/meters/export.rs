use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, get};
use jiff::tz::TimeZone;
use lawn::record::readings_file::{self, Filed};
use sqlx::PgConnection;

use crate::api::access::{Access, Read};
use crate::db::{Db, SiteId, meters, sites};
use crate::http::csv;
use crate::http::error::{ApiError, Problem};

/// Every reading that counts, one a line, by meter and time, as CSV (docs/formats/records.md).
#[utoipa::path(tag = "water book", operation_id = "export_readings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The readings", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/meter-readings.csv")]
pub(in crate::api) async fn export_readings(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut db = db.pool().acquire().await?;
    let site = sites::get(&mut *db, access.site).await?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let filed = filed(&mut db, access.site).await?;
    let text = readings_file::write(&filed, &zone);
    Ok(csv::file("meter-readings.csv", text))
}

/// The same as JSON.
#[utoipa::path(tag = "water book", operation_id = "export_readings_json", params(("site" = i64, Path)), responses(
    (status = 200, description = "The readings", body = Vec<Filed>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/meter-readings.json")]
pub(in crate::api) async fn export_readings_json(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<Filed>>, ApiError> {
    let mut db = db.pool().acquire().await?;
    Ok(Json(filed(&mut db, access.site).await?))
}

async fn filed(db: &mut PgConnection, site: SiteId) -> sqlx::Result<Vec<Filed>> {
    let meters = meters::of_site(&mut *db, site).await?;
    let readings = meters::readings(&mut *db, site, lawn::days::FIRST).await?;
    let name = |row: &meters::ReadingRow| {
        let meter = meters.iter().find(|m| m.id == row.meter);
        meter.map(|m| m.meter.name.clone()).unwrap_or_default()
    };
    let filed = readings.into_iter().map(|row| Filed {
        read_at: row.reading.at,
        meter: row.meter.0.to_string(),
        name: name(&row),
        register: row.reading.register,
        follows: row.reading.follows,
        read_by: row.who,
    });
    Ok(filed.collect())
}
