use std::collections::BTreeMap;

use actix_web::web::{Bytes, Data};
use actix_web::{HttpResponse, get};
use futures_util::stream;
use lawn::stress::decide::{Decision, decide};
use serde::Serialize;
use tokio::sync::mpsc;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::computing::computed;
use crate::db::Db;
use crate::http::error::{ApiError, Problem};
use crate::{past_year, planning, stress};

/// Past years that are looked at.
const PAST_YEARS: i64 = 31;

/// A line of the answer: how far it is, then what was found.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
pub(in crate::api) enum DecisionLine {
    /// So many of the past summers are done.
    Progress { done: usize, of: usize },
    /// The last line.
    Found { decision: Decision },
    /// The last line in its place: it broke off by a defect.
    Failed,
}

/// What keeping each zone green, or letting it go, would have come to in each past summer of the record from today on, under the rules as they are. One JSON
/// value a line: progress, then the decision's figures. Nothing is changed.
#[utoipa::path(tag = "stress", operation_id = "show_decision", params(("site" = i64, Path)), responses(
    (status = 200, description = "Progress and figures, one a line", body = DecisionLine, content_type = "application/jsonl"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/decision")]
pub(in crate::api) async fn show_decision(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let ledgers = stress::ledgers(&mut db, access.site, &document, today).await?;
    let told = past_year::told_of(&mut db, access.site, today, PAST_YEARS).await?;
    drop(db);
    let used = ledgers
        .iter()
        .filter_map(|(zone, days)| Some((zone.0.to_string(), days.last()?.used)));
    let used: BTreeMap<String, f64> = used.collect();
    let (lines, heard) = mpsc::unbounded_channel();
    actix_web::rt::spawn(async move {
        let progress = lines.clone();
        let found = computed(move || {
            let record = past_year::series(&document, &told);
            // Who does not listen any more is told nothing.
            let told = |done, of| drop(progress.send(DecisionLine::Progress { done, of }));
            decide(&document, &record, today, &used, told)
        });
        let last = match found.await {
            Ok(Ok(decision)) => DecisionLine::Found { decision },
            Ok(Err(error)) => broken(&error),
            Err(error) => broken(&error),
        };
        drop(lines.send(last));
    });
    let written = stream::try_unfold(heard, |mut heard| async move {
        let Some(line) = heard.recv().await else {
            return Ok::<_, ApiError>(None);
        };
        let line = serde_json::to_string(&line).map_err(|e| ApiError::Internal(e.to_string()))?;
        Ok(Some((Bytes::from(line + "\n"), heard)))
    });
    Ok(HttpResponse::Ok()
        .content_type("application/jsonl")
        .streaming(Box::pin(written)))
}

fn broken(error: &dyn std::error::Error) -> DecisionLine {
    tracing::error!(%error, "deciding over past summers broke off");
    DecisionLine::Failed
}
