use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use lawn::record::flow_findings::standing;
use lawn::site::{School, Zone};
use lawn::view::savings::{Saving, savings};

use crate::api::access::{Access, Read};
use crate::computing::{Failure, computed};
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::{flow, past_year, planning, water_book};

/// What would save water in a year, the most first: a repair, more even sprinklers, another school; by the water and the weather of the last twelve months.
#[utoipa::path(tag = "water book", operation_id = "show_savings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The savings, each alone", body = Vec<Saving>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/savings")]
pub(in crate::api) async fn show_savings(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<Saving>>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let kept = flow::read(&mut db, access.site, &document, today, today).await?;
    let yesterday = today.yesterday().unwrap_or(today);
    let year = today.saturating_sub(1.year());
    let pages = water_book::read(&mut db, access.site, document.clone(), year, yesterday).await?;
    // The schools that are in use beside the balance; where every zone is watered by its balance there is nothing to compare.
    let schools = School::usual().into_iter().filter(|school| {
        let is_own = |zone: &Zone| zone.school.name() == school.name();
        school.is_water_balance() || document.zones.iter().any(is_own)
    });
    let schools: Vec<School> = schools.collect();
    let told = if schools.len() < 2 {
        Vec::new()
    } else {
        past_year::told(&mut db, access.site, today).await?
    };
    drop(db);
    let found = computed(move || {
        let standing: Vec<_> = (kept.iter())
            .flat_map(|kept| standing(&kept.days(), today))
            .collect();
        let schools = past_year::under_schools(&document, &told, &schools)?;
        Ok::<_, Failure>(savings(
            &document,
            &pages.book(),
            &standing,
            schools.as_ref(),
        ))
    });
    Ok(Json(found.await??))
}
