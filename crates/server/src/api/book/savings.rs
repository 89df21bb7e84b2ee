use std::sync::Arc;

use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use lawn::record::flow_findings::standing;
use lawn::site::{School, Zone};
use lawn::view::savings::{Saving, savings};
use lawn::view::schools::SchoolComparison;
use sqlx::Postgres;
use sqlx::pool::PoolConnection;

use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::Db;
use crate::http::asker::Asker;
use crate::http::error::{ApiError, Problem};
use crate::long_work::{Kind, LongWork};
use crate::{flow, past_year, planning, water_book};

/// What would save water in a year, the most first: a repair, more even sprinklers, another school; by the water and the weather of the last twelve months.
#[utoipa::path(tag = "water book", operation_id = "show_savings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The savings, each alone", body = Vec<Saving>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/savings")]
pub(in crate::api) async fn show_savings(
    access: Access<Read>,
    asker: Asker,
    db: Data<Db>,
    long_work: Data<LongWork>,
    turns: Data<Turns>,
) -> Result<Json<Vec<Saving>>, ApiError> {
    let schools = compared(&access, &asker, &long_work).await?;
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let kept = flow::read(&mut db, access.site, &document, today, today).await?;
    let yesterday = today.yesterday().unwrap_or(today);
    let year = today.saturating_sub(1.year());
    let pages = water_book::read(&mut db, access.site, document.clone(), year, yesterday).await?;
    drop(db);
    let found = computed(move || {
        let standing: Vec<_> = (kept.iter())
            .flat_map(|kept| standing(&kept.days(), today))
            .collect();
        savings(&document, &pages.book(), &standing, schools.as_ref())
    });
    Ok(Json(found.await?))
}

/// The last year under the schools that are in use beside the balance; `None`: every zone is watered by its balance, or there is no weather yet.
async fn compared(
    access: &Access<Read>,
    asker: &Asker,
    long_work: &Arc<LongWork>,
) -> Result<Option<SchoolComparison>, ApiError> {
    let asked = access.asks(Kind::Savings, asker);
    let site = access.site;
    let read = move |mut db: PoolConnection<Postgres>| async move {
        let (document, today) = planning::as_measured(&mut db, site).await?;
        let used = School::usual().into_iter().filter(|school| {
            let is_own = |zone: &Zone| zone.school.name() == school.name();
            school.is_water_balance() || document.zones.iter().any(is_own)
        });
        let used: Vec<School> = used.collect();
        if used.len() < 2 {
            return Ok(None);
        }
        let told = past_year::told(&mut db, site, today).await?;
        Ok(Some((document, told, used)))
    };
    let found = long_work.answer(asked, read, |facts, going| match facts {
        None => Ok(None),
        Some((document, told, used)) => {
            past_year::under_schools(&|| going.is_wanted(), &document, &told, &used)
        }
    });
    serde_json::from_slice(&found.await?).map_err(|e| ApiError::Internal(e.to_string()))
}
