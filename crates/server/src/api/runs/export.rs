use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use jiff::tz::TimeZone;
use lawn::days;
use lawn::record::runs_file::{self, Row};

use crate::api::access::{Access, Read};
use crate::db::{Db, runs, sites};
use crate::http::csv;
use crate::http::error::{ApiError, Problem};

/// What ran, and what was said not to have, as CSV with names, clock times and whose word it is (docs/formats/runs.md).
#[utoipa::path(tag = "runs", operation_id = "export_runs", params(("site" = i64, Path)), responses(
    (status = 200, description = "The runs", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/runs.csv")]
pub(in crate::api) async fn export_runs(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
    let mut rows = runs::list(db.pool(), access.site, days::FIRST, days::LAST).await?;
    rows.reverse();
    let rows = rows.into_iter().map(|run| Row {
        date: run.date,
        zone: run.zone.0.to_string(),
        zone_name: run.zone_name,
        started: run.started_at.to_zoned(zone.clone()).datetime(),
        passes: u32::try_from(run.passes).unwrap_or(0),
        run_s: i64::from(run.run_s),
        watered: run.watered,
        said: run.source,
        who: run.who,
    });
    Ok(csv::file("runs.csv", runs_file::write(rows)))
}
