use actix_web::put;
use actix_web::web::{Data, Json, Path};
use lawn::site::Invalid;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::RunView;
use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, runs};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Longest run that a person can report, s.
pub(super) const LONGEST_S: i64 = 24 * 3600;

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
    },
}

/// Says of a run whether it ran; what was assumed is voided, their word added, and the site replanned.
#[utoipa::path(tag = "runs", operation_id = "answer_run", params(("site" = i64, Path), ("run" = i64, Path)), request_body = Answer, responses(
    (status = 200, description = "The run as it stands now", body = RunView),
    (status = 404, description = "No such run, or somebody answered meanwhile", body = Problem),
    (status = 422, description = "The time does not hold", body = Problem)))]
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
    let (source, passes, pass_s) = match said {
        Answer::Ran if run.passes == 0 => {
            return Err(ApiError::Conflict(
                "it was said not to have run; say for how long it did".to_owned(),
            ));
        }
        Answer::Ran => ("confirmed", run.passes, run.pass_s),
        Answer::DidNotRun => ("denied", 0, run.pass_s),
        Answer::Changed { seconds } => {
            if !(1..=LONGEST_S).contains(&seconds) {
                return Err(Invalid {
                    field: "seconds".to_owned(),
                    message: format!("a run takes 1 s to 24 h, not {seconds} s"),
                }
                .into());
            }
            let passes = run.passes.max(1);
            let pass_s = i32::try_from(seconds).unwrap_or(i32::MAX) / passes;
            if pass_s >= 1 {
                ("changed", passes, pass_s)
            } else {
                ("changed", 1, i32::try_from(seconds).unwrap_or(i32::MAX))
            }
        }
    };
    let id = runs::answer(&mut tx, &run, access.account, source, passes, pass_s).await?;
    let event = Event::RunSaid {
        zone: run.zone_name,
        date: run.date,
        answer: source.to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    let now = runs::get(&mut *tx, access.site, id)
        .await?
        .ok_or(ApiError::NotFound("run"))?;
    tx.commit().await?;
    Ok(Json(now.into()))
}
