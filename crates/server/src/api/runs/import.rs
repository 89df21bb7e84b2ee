use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use lawn::days;
use lawn::record::runs_file::{self, Filed};
use lawn::record::runs_import::{self, Becomes, Coming};
use serde::Serialize;
use utoipa::ToSchema;

use super::filed;
use crate::api::access::{Access, Record};
use crate::api::taken::Taken;
use crate::db::history::{self, Event};
use crate::db::runs::Imported;
use crate::db::{Db, ZoneId, runs, sites, zones};
use crate::http::body::{Upload, text};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;
use crate::{clock, planning};

/// What an import did.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ImportedRuns {
    /// Runs that were added.
    new: usize,
    /// Runs of the record that the file answers.
    answered: usize,
    /// Runs that were there.
    known: usize,
}

/// Imports runs of the site's zones (docs/formats/runs.md): all of them or none, and replans. Runs that the record has are left as they are, unless the file
/// says of one that nobody has answered whether it ran; people's words in it are those of who imports it.
#[utoipa::path(tag = "runs", operation_id = "import_runs", params(("site" = i64, Path), Taken),
    request_body(content((String = "text/csv"), (Vec<Filed> = "application/json"))), responses(
    (status = 201, description = "Imported", body = ImportedRuns),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "Lines that do not hold, or are asked about; nothing was written", body = Problem)))]
#[post("/sites/{site}/run-imports")]
pub(in crate::api) async fn import_runs(
    access: Access<Record>,
    Asked(taken): Asked<Taken>,
    db: Data<Db>,
    Upload(body): Upload,
) -> Result<HttpResponse, ApiError> {
    let file = text(&body)?;
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let document = zones::document(&site, &zones::of_site(&mut *tx, access.site).await?);
    let coming = runs_file::read(file, &document).map_err(ApiError::Lines)?;
    let rows = runs::list(&mut *tx, access.site, days::FIRST, days::LAST).await?;
    let known: Vec<Filed> = rows.iter().map(filed).collect();
    let outcomes = runs_import::import(&Coming {
        document: &document,
        known: &known,
        filed: &coming,
        now: clock::now(site.simulated_now),
        sure: taken.sure,
    })
    .map_err(ApiError::Lines)?;
    let (mut new, mut answered) = (Vec::new(), 0);
    for ((_, run), outcome) in coming.iter().zip(outcomes) {
        match outcome {
            Becomes::Known => {}
            Becomes::New(started_at) => new.push(Imported {
                zone: ZoneId(run.zone.parse().map_err(|_| ApiError::NotFound("zone"))?),
                date: run.date,
                started_at,
                ran: run.ran(),
                planned: run.planned,
                watered: run.watered,
                source: run.said,
            }),
            Becomes::Answer(place) => {
                let number = |n: i64| i32::try_from(n).unwrap_or(i32::MAX);
                let (passes, run_s) = (number(run.passes.into()), number(run.run_s));
                runs::answer(
                    &mut tx,
                    &rows[place],
                    access.account,
                    run.said,
                    passes,
                    run_s,
                )
                .await?;
                answered += 1;
            }
        }
    }
    runs::import(&mut *tx, &new, access.account).await?;
    let imported = ImportedRuns {
        new: new.len(),
        answered,
        known: coming.len() - new.len() - answered,
    };
    if imported.new + imported.answered > 0 {
        let count = |n: usize| u32::try_from(n).unwrap_or(u32::MAX);
        let event = Event::RunsImported {
            runs: count(imported.new),
            answered: count(imported.answered),
        };
        history::note(&mut *tx, access.site, access.account, &event).await?;
        planning::replan(&mut tx, access.site).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::Created().json(imported))
}
