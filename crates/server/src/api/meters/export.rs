use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use jiff::tz::TimeZone;
use lawn::record::readings::Follows;

use crate::api::access::{Access, Read};
use crate::db::{Db, meters, sites};
use crate::http::csv::{self, or_empty};
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
    let site = sites::get(db.pool(), access.site).await?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let meters = meters::of_site(db.pool(), access.site).await?;
    let readings = meters::readings(db.pool(), access.site, lawn::days::FIRST).await?;
    let heading = [
        "read_at",
        "meter",
        "name",
        "register",
        "follows",
        "old_register",
        "began_with",
        "read_by",
    ];
    let rows = readings.into_iter().map(|row| {
        let meter = meters.iter().find(|m| m.id == row.meter);
        let (follows, old, began) = match row.reading.follows {
            Follows::On => ("on", None, None),
            Follows::RolledOver => ("rolled_over", None, None),
            Follows::NewMeter {
                old_register,
                began_with,
            } => ("new_meter", old_register, Some(began_with)),
        };
        [
            // With its offset: the same hour comes twice when the clock is set back.
            row.reading
                .at
                .to_zoned(zone.clone())
                .strftime("%Y-%m-%dT%H:%M:%S%:z")
                .to_string(),
            row.meter.0.to_string(),
            or_empty(meter.map(|m| &m.meter.name)),
            row.reading.register.to_string(),
            follows.to_owned(),
            or_empty(old),
            or_empty(began),
            or_empty(row.who),
        ]
    });
    Ok(csv::table("meter-readings.csv", heading, rows))
}
