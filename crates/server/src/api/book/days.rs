use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, get};
use lawn::record::reconcile::{self, Day};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::show::that_are_over;
use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::meters::MeterId;
use crate::db::{Db, SiteId};
use crate::http::csv;
use crate::http::error::{ApiError, Problem};
use crate::http::query::{Asked, Stretch};
use crate::{flow, planning, water_book};

/// Longest span told by the day: a year.
const LONGEST_DAYS: i32 = 366;

/// Which flow meter stands beside the runs.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(in crate::api) struct Which {
    /// The meter; absent: the first that was heard.
    meter: Option<i64>,
}

/// A meter that was heard.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Heard {
    meter: MeterId,
    name: String,
}

/// Days one by one.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Reconciliation {
    /// The flow meter beside the runs; `null`: none was heard.
    meter: Option<MeterId>,
    /// All that were heard in these days.
    heard: Vec<Heard>,
    /// The days that are over, in time order; of the zones that the meter feeds.
    days: Vec<Day>,
}

/// Day by day and zone by zone: planned, run, metered, and what stays unexplained.
#[utoipa::path(tag = "water book", operation_id = "show_days", params(("site" = i64, Path), Stretch, Which), responses(
    (status = 200, description = "The days", body = Reconciliation),
    (status = 404, description = "No such site, or no such meter was heard in these days", body = Problem),
    (status = 422, description = "A day that no record may name, or no day that is over", body = Problem)))]
#[get("/sites/{site}/reconciliation")]
pub(in crate::api) async fn show_days(
    access: Access<Read>,
    Asked(days): Asked<Stretch>,
    Asked(which): Asked<Which>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<Reconciliation>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    Ok(Json(reconciled(access.site, days, which, &db).await?))
}

/// The same as CSV, a line for each zone's day (docs/formats/records.md).
#[utoipa::path(tag = "water book", operation_id = "export_days", params(("site" = i64, Path), Stretch, Which), responses(
    (status = 200, description = "The days", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site, or no such meter was heard in these days", body = Problem),
    (status = 422, description = "A day that no record may name, or no day that is over", body = Problem)))]
#[get("/sites/{site}/days.csv")]
pub(in crate::api) async fn export_days(
    access: Access<Read>,
    Asked(days): Asked<Stretch>,
    Asked(which): Asked<Which>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<HttpResponse, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let found = reconciled(access.site, days, which, &db).await?;
    Ok(csv::file("days.csv", reconcile::write(&found.days)))
}

async fn reconciled(
    site: SiteId,
    days: Stretch,
    which: Which,
    db: &Db,
) -> Result<Reconciliation, ApiError> {
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, site).await?;
    let days = that_are_over(days, today, LONGEST_DAYS)?;
    let kept = flow::read(&mut db, site, &document, days.from, days.to).await?;
    let pages = water_book::read(&mut db, site, document, days.from, days.to).await?;
    let chosen = match which.meter {
        None => (!kept.is_empty()).then_some(0),
        Some(id) => {
            let place = kept.iter().position(|kept| kept.id.0 == id);
            Some(place.ok_or(ApiError::NotFound("meter of these days"))?)
        }
    };
    let answer = computed(move || {
        let heard = kept.iter().map(|kept| Heard {
            meter: kept.id,
            name: kept.meter.name.clone(),
        });
        let heard = heard.collect();
        let chosen = chosen.and_then(|place| kept.get(place));
        let watched = chosen.map(|kept| (&kept.meter, kept.days()));
        Reconciliation {
            meter: chosen.map(|kept| kept.id),
            heard,
            days: pages.days(watched.as_ref().map(|(meter, days)| (*meter, &days[..]))),
        }
    });
    Ok(answer.await?)
}
