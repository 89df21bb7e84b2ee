use actix_web::post;
use actix_web::web::{Data, Json, Path};
use jiff::ToSpan;
use lawn::engine::history::ZoneHistory;
use lawn::view::minutes::{Minutes, MinutesGive, minutes_give};
use lawn::weather::{self, Gaps, WeatherDay};

use crate::api::access::{Access, Read};
use crate::db::{self, Db};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Days of weather of which the mean use is told.
const RECENT_DAYS: i64 = 14;

/// What so many minutes so many times a week give on a zone; writes nothing.
#[utoipa::path(tag = "zones", operation_id = "minutes_give", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = Minutes, responses(
    (status = 200, description = "What they give", body = MinutesGive),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 422, description = "A figure does not hold", body = Problem)))]
#[post("/sites/{site}/zones/{zone}/minutes")]
pub(in crate::api) async fn minutes(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(minutes): Body<Minutes>,
) -> Result<Json<MinutesGive>, ApiError> {
    minutes.validate()?;
    let mut connection = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut connection, access.site).await?;
    let id = path.1.to_string();
    let zone = document.zones.iter().find(|zone| zone.id == id);
    let zone = zone.ok_or(ApiError::NotFound("zone"))?;
    let yesterday = today.saturating_sub(1.day());
    let first = today.saturating_sub(RECENT_DAYS.days());
    let told: Vec<WeatherDay> = db::weather::days(&mut *connection, access.site, first, yesterday)
        .await?
        .into_iter()
        .map(|stored| stored.day)
        .collect();
    let place = weather::place(&document.site);
    let gaps = Gaps::filled(&document.site);
    let record = weather::series(&place, &told, gaps).unwrap_or_default();
    // Today as plans expect it: by the days before, and by normals where they are few.
    let day = gaps.day(&place, &record, today);
    let history = ZoneHistory::of(&document, zone);
    let then = history.on(today);
    Ok(Json(minutes_give(
        &then.model,
        then.zone.area_m2,
        &day,
        minutes,
    )))
}
