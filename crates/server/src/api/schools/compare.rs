use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::site::School;
use lawn::view::schools::SchoolComparison;
use sqlx::Postgres;
use sqlx::pool::PoolConnection;

use crate::api::access::{Access, Read};
use crate::http::asker::Asker;
use crate::http::error::{ApiError, Problem};
use crate::long_work::{Kind, LongWork, json};
use crate::{past_year, planning};

/// Replays the site's last year of weather, or as much as there is, under each school, each morning without a forecast. Nothing is kept.
#[utoipa::path(tag = "plans", operation_id = "compare_schools", params(("site" = i64, Path)), responses(
    (status = 200, description = "What each zone would have come to", body = SchoolComparison),
    (status = 404, description = "No such site here", body = Problem),
    (status = 409, description = "No weather yet", body = Problem)))]
#[post("/sites/{site}/school-comparisons")]
pub(in crate::api) async fn compare_all_schools(
    access: Access<Read>,
    asker: Asker,
    long_work: Data<LongWork>,
) -> Result<HttpResponse, ApiError> {
    let asked = access.asks(Kind::Schools, &asker);
    let site = access.site;
    let read = move |mut db: PoolConnection<Postgres>| async move {
        let (document, today) = planning::as_measured(&mut db, site).await?;
        let told = past_year::told(&mut db, site, today).await?;
        Ok((document, told))
    };
    let compared = long_work.answer(asked, read, |(document, told), going| {
        past_year::under_schools(&|| going.is_wanted(), &document, &told, &School::usual())
    });
    let compared = compared.await?;
    if compared.as_ref() == b"null" {
        let message = "there is no weather yet to compare on";
        return Err(ApiError::Conflict(message.to_owned()));
    }
    Ok(json(compared))
}
