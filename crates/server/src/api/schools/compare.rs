use actix_web::post;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use lawn::view::schools::{SchoolComparison, compare_schools};
use lawn::weather::{self, Gaps, WeatherDay};

use crate::api::access::{Access, Read};
use crate::computing::{Failure, computed};
use crate::db::{self, Db};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Days that are compared at most: a year.
const MOST_DAYS: i64 = 365;

/// Replays the site's last year of weather, or as much as there is, under each school, each morning without a forecast. Nothing is kept.
#[utoipa::path(tag = "plans", operation_id = "compare_schools", params(("site" = i64, Path)), responses(
    (status = 200, description = "What each zone would have come to", body = SchoolComparison),
    (status = 404, description = "No such site here", body = Problem),
    (status = 409, description = "No weather yet", body = Problem)))]
#[post("/sites/{site}/school-comparisons")]
pub(in crate::api) async fn compare_all_schools(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<SchoolComparison>, ApiError> {
    let mut connection = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut connection, access.site).await?;
    let to = today.saturating_sub(1.day());
    let first = to.saturating_sub((2 * MOST_DAYS).days());
    let told: Vec<WeatherDay> = db::weather::days(&mut *connection, access.site, first, to)
        .await?
        .into_iter()
        .map(|stored| stored.day)
        .collect();
    drop(connection);
    let compared = computed(move || {
        let gaps = Gaps::filled(&document.site);
        // Without a day of which anything but rain is known there is no series.
        let record = weather::series(&weather::place(&document.site), &told, gaps);
        let record = record.unwrap_or_default();
        let (Some(begin), Some(end)) = (record.first(), record.last()) else {
            return Ok(None);
        };
        let year = end.date.saturating_sub((MOST_DAYS - 1).days());
        compare_schools(&document, &record, begin.date.max(year), end.date)
            .map(Some)
            .map_err(|e| Failure::Stored(e.to_string()))
    })
    .await??;
    compared
        .map(Json)
        .ok_or_else(|| ApiError::Conflict("there is no weather yet to compare on".to_owned()))
}
