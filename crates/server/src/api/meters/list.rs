use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::ToSpan;
use lawn::record::readings::is_due;
use lawn::record::waterings::Ran;

use super::MeterView;
use crate::api::access::{Access, Read};
use crate::db::{Db, flow, meters, runs, sites};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// Days that are looked back for water that ran since a reading: longer than any meter is left unread.
const LOOKED_BACK: i64 = 62;

/// The site's meters, those that are taken out too, each with its last reading.
#[utoipa::path(tag = "water book", operation_id = "list_meters", params(("site" = i64, Path)), responses(
    (status = 200, description = "The meters", body = Vec<MeterView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/meters")]
pub(in crate::api) async fn list_meters(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<MeterView>>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let rows = meters::of_site(&mut *db, access.site).await?;
    if rows.is_empty() {
        return Ok(Json(Vec::new()));
    }
    let readings = meters::readings(&mut *db, access.site, lawn::days::FIRST).await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let zone = document.site.zone()?;
    let now = clock::now(sites::get(&mut *db, access.site).await?.simulated_now);
    let last = |id| {
        let of = readings.iter().rev().find(|r| r.meter == id);
        of.map(|row| row.reading.at)
    };
    let first = rows.iter().filter_map(|row| last(row.id)).min();
    let entries = match first {
        Some(first) => {
            // Whether any ran lately is enough to know.
            let lately = today.saturating_sub(LOOKED_BACK.days());
            let first = first.to_zoned(zone).date().saturating_sub(1.day());
            let first = first.max(lately);
            runs::entries(&mut *db, access.site, first, today).await?
        }
        None => Vec::new(),
    };
    let ran = Ran::new(&document, &entries);
    let mut views = Vec::with_capacity(rows.len());
    for row in rows {
        let id = row.id;
        let counts = row.meter.pulse_l.is_some();
        let mut view = MeterView::of(row, &readings);
        if counts {
            view.heard_until = flow::last_heard(&mut *db, id).await?;
        }
        let is_there = view.meter.active_to.is_none_or(|to| today <= to);
        let since = last(id).unwrap_or(now);
        let ran = ran.between(&view.meter, since, now);
        view.due = is_there && is_due(last(id), view.heard_until, ran, now);
        views.push(view);
    }
    Ok(Json(views))
}
