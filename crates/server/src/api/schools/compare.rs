use actix_web::post;
use actix_web::web::{Data, Json};
use lawn::site::School;
use lawn::view::schools::SchoolComparison;

use crate::api::access::{Access, Read};
use crate::computing::computed;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::{past_year, planning};

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
    let told = past_year::told(&mut connection, access.site, today).await?;
    drop(connection);
    let compared =
        computed(move || past_year::under_schools(&document, &told, &School::usual())).await??;
    compared
        .map(Json)
        .ok_or_else(|| ApiError::Conflict("there is no weather yet to compare on".to_owned()))
}
