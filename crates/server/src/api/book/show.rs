use actix_web::get;
use actix_web::web::{Data, Json};
use lawn::record::book::Book;
use lawn::site::Invalid;

use crate::api::access::{Access, Read};
use crate::computing::computed;
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
) -> Result<Json<Book>, ApiError> {
    let days = days.checked()?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let to = days.to.min(today.yesterday().unwrap_or(today));
    if to < days.from {
        let message = format!("no day from {} to {} is over", days.from, days.to);
        return Err(Invalid::new("from", message).into());
    }
    if days
        .from
        .until(to)
        .is_ok_and(|span| span.get_days() > LONGEST_DAYS)
    {
        let message = format!("at most {LONGEST_DAYS} days at once");
        return Err(Invalid::new("from", message).into());
    }
    let read = water_book::read(&mut db, access.site, document, days.from, to).await?;
    Ok(Json(computed(move || read.book()).await?))
}
