use actix_web::put;
use actix_web::web::{Data, Json, Path};
use lawn::measure::unlikely;
use lawn::record::said::Said;
use lawn::record::watered::{self, Passes};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::RunView;
use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, runs, sites, zones};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// What a person says of a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, Serialize, ToSchema)]
#[serde(tag = "answer", rename_all = "snake_case", deny_unknown_fields)]
pub(in crate::api) enum Answer {
    /// It ran as recorded.
    Ran,
    /// It did not run.
    DidNotRun,
    /// It ran for another time.
    Changed {
        /// Time that water ran, s, 1 to 86400.
        seconds: i64,
        /// Whether a time that is seldom so was asked about, and is so.
        #[serde(default)]
        sure: bool,
    },
}

/// Says of a run whether it ran; what was assumed is voided, their word added, and the site replanned. What the plan asked for is kept with it.
#[utoipa::path(tag = "runs", operation_id = "answer_run", params(("site" = i64, Path), ("run" = i64, Path)), request_body = Answer, responses(
    (status = 200, description = "The run as it stands now", body = RunView),
    (status = 404, description = "No such run, or somebody answered meanwhile", body = Problem),
    (status = 409, description = "There is nothing to confirm or to deny", body = Problem),
    (status = 422, description = "The time does not hold, or is asked about", body = Problem)))]
#[put("/sites/{site}/runs/{run}/answer")]
pub(in crate::api) async fn answer(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(said): Body<Answer>,
) -> Result<Json<RunView>, ApiError> {
    let mut tx = db.write(access.site).await?;
    let run = runs::get(&mut *tx, access.site, path.1)
        .await?
        .ok_or(ApiError::NotFound("run"))?;
    let (source, passes, run_s) = match said {
        Answer::Ran if run.passes == 0 => {
            return Err(ApiError::Conflict(
                "it was said not to have run; take that back, or say for how long it did"
                    .to_owned(),
            ));
        }
        Answer::DidNotRun if run.planned.is_none() => {
            return Err(ApiError::Conflict(
                "somebody noted this by hand; take it back if it did not run".to_owned(),
            ));
        }
        Answer::Ran => (Said::Confirmed, run.passes, run.run_s),
        Answer::DidNotRun => (Said::Denied, 0, 0),
        Answer::Changed { seconds, sure } => {
            watered::validate_seconds(seconds)?;
            let site = sites::get(&mut *tx, access.site).await?;
            let zones = zones::of_site(&mut *tx, access.site).await?;
            let closes = run
                .planned
                .and_then(|_| planning::window_end(&site, &zones, run.date, run.started_at));
            let now = clock::now(site.simulated_now);
            ApiError::ask(
                "seconds",
                unlikely::run(run.started_at, seconds, now, closes),
                sure,
            )?;
            let planned = run.planned.map_or(run.passes, |p| p.passes);
            let told = Passes::told(u32::try_from(planned).unwrap_or(0), seconds);
            let number = |n: i64| i32::try_from(n).unwrap_or(i32::MAX);
            (
                Said::Changed,
                number(told.passes.into()),
                number(told.run_s),
            )
        }
    };
    let id = runs::answer(&mut tx, &run, access.account, source, passes, run_s).await?;
    let event = Event::RunSaid {
        zone: run.zone_name,
        date: run.date,
        answer: source.name().to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    let now = runs::get(&mut *tx, access.site, id)
        .await?
        .ok_or(ApiError::NotFound("run"))?;
    tx.commit().await?;
    Ok(Json(now.into()))
}
