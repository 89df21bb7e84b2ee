use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::civil::Date;
use lawn::record::book::Book;
use lawn::site::Invalid;

use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::http::query::{Asked, Stretch};
use crate::{planning, water_book};

/// Longest span of a book, days: ten years.
const LONGEST_DAYS: i32 = 3660;

/// The water book of a stretch of days: what was planned, what ran, what fell, what it cost, and the meters beside it. Of days that are over: a stretch that goes
/// on ends yesterday.
#[utoipa::path(tag = "water book", operation_id = "show_book", params(("site" = i64, Path), Stretch), responses(
    (status = 200, description = "The book", body = Book),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "A day that no record may name, or no day that is over", body = Problem)))]
#[get("/sites/{site}/book")]
pub(in crate::api) async fn show_book(
    access: Access<Read>,
    Asked(days): Asked<Stretch>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<Book>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let days = that_are_over(days, today, LONGEST_DAYS)?;
    let read = water_book::read(&mut db, access.site, document, days.from, days.to).await?;
    Ok(Json(computed(move || read.book()).await?))
}

/// The days of a stretch that are over, no more than so many.
pub(super) fn that_are_over(days: Stretch, today: Date, longest: i32) -> Result<Stretch, ApiError> {
    let Stretch { from, to } = days.checked()?;
    let to = to.min(today.yesterday().unwrap_or(today));
    if to < from {
        let message = format!("no day from {from} to {} is over", days.to);
        return Err(Invalid::new("from", message).into());
    }
    if from.until(to).is_ok_and(|span| span.get_days() > longest) {
        let message = format!("at most {longest} days at once");
        return Err(Invalid::new("from", message).into());
    }
    Ok(Stretch { from, to })
}
