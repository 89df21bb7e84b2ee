use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};

use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, runs, sites};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning};

/// Takes back what a person said of a run, and replans: what it took the place of stands again, to the last pass. A run noted by hand or hose
/// is gone.
#[utoipa::path(tag = "runs", operation_id = "take_back_answer", params(("site" = i64, Path), ("run" = i64, Path)), responses(
    (status = 204, description = "Taken back"),
    (status = 404, description = "No such run, or somebody answered meanwhile", body = Problem),
    (status = 409, description = "Nobody has said anything of it", body = Problem)))]
#[delete("/sites/{site}/runs/{run}/answer")]
pub(in crate::api) async fn take_back(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let run = runs::get(&mut *tx, access.site, path.1)
        .await?
        .ok_or(ApiError::NotFound("run"))?;
    if run.source.is_open() {
        return Err(ApiError::Conflict(
            "nobody has said anything of this run".to_owned(),
        ));
    }
    let site = sites::get(&mut *tx, access.site).await?;
    runs::take_back(&mut tx, &run, clock::now(site.simulated_now)).await?;
    let event = Event::RunTakenBack {
        zone: run.zone_name,
        date: run.date,
        answer: run.source.name().to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
