use actix_web::post;
use actix_web::web::{Data, Json};
use lawn::record::said::Said;
use lawn::site::Invalid;
use serde::Deserialize;
use utoipa::ToSchema;

use super::RunView;
use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, runs};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Most runs that are said to have run at once.
const MOST: usize = 500;

/// Runs that ran as recorded.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Confirmation {
    /// The runs, 1 to 500.
    #[schema(min_items = 1, max_items = 500)]
    runs: Vec<i64>,
}

/// Says of several runs that they ran as recorded; those that somebody has answered meanwhile, or that are no longer there, are left as they
/// are. The site is replanned once.
#[utoipa::path(tag = "runs", operation_id = "confirm_runs", params(("site" = i64, Path)), request_body = Confirmation, responses(
    (status = 200, description = "The runs that are confirmed now", body = Vec<RunView>),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "None, or more than 500", body = Problem)))]
#[post("/sites/{site}/runs/confirmation")]
pub(in crate::api) async fn confirm(
    access: Access<Record>,
    db: Data<Db>,
    Body(said): Body<Confirmation>,
) -> Result<Json<Vec<RunView>>, ApiError> {
    if said.runs.is_empty() || said.runs.len() > MOST {
        return Err(Invalid {
            field: "runs".to_owned(),
            message: format!("between 1 and {MOST} runs, not {}", said.runs.len()),
        }
        .into());
    }
    let mut tx = db.write(access.site).await?;
    let mut confirmed = Vec::with_capacity(said.runs.len());
    for id in said.runs {
        let run = runs::get(&mut *tx, access.site, id).await?;
        let Some(run) = run.filter(|run| run.source == Said::Assumed) else {
            continue;
        };
        let (passes, run_s) = (run.passes, run.run_s);
        let id = runs::answer(
            &mut tx,
            &run,
            access.account,
            Said::Confirmed,
            passes,
            run_s,
        )
        .await?;
        let event = Event::RunSaid {
            zone: run.zone_name,
            date: run.date,
            answer: Said::Confirmed.name().to_owned(),
        };
        history::note(&mut *tx, access.site, access.account, &event).await?;
        let run = runs::get(&mut *tx, access.site, id).await?;
        confirmed.extend(run.map(RunView::from));
    }
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(Json(confirmed))
}
