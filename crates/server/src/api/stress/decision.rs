use std::collections::BTreeMap;

use actix_web::web::{Bytes, Data};
use actix_web::{HttpResponse, get};
use futures_util::stream;
use lawn::stress::decide::{Decision, decide};
use serde::Serialize;
use serde_json::value::RawValue;
use sqlx::Postgres;
use sqlx::pool::PoolConnection;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::http::asker::Asker;
use crate::http::error::{ApiError, Problem};
use crate::long_work::{Broken, Course, Kind, LongWork};
use crate::{past_year, planning, stress};

/// Past years that are looked at.
const PAST_YEARS: i64 = 31;

/// A line of the answer: how far it is, then what was found.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
pub(in crate::api) enum DecisionLine<'a> {
    /// So many of the past summers are done.
    Progress { done: usize, of: usize },
    /// The last line.
    Found {
        #[schema(value_type = Decision)]
        decision: &'a RawValue,
    },
    /// The last line in its place: it broke off by a defect.
    Failed,
    /// Likewise: the same person has asked for a decision of another site, or of what is known since.
    AskedAnew,
    /// Likewise: others ask for much at the moment.
    Busy,
}

/// What keeping each zone green, or letting it go, would have come to in each past summer of the record from today on, under the rules as they are. One JSON
/// value a line: progress, then the decision's figures. Nothing is changed.
#[utoipa::path(tag = "stress", operation_id = "show_decision", params(("site" = i64, Path)), responses(
    (status = 200, description = "Progress and figures, one a line", body = DecisionLine, content_type = "application/jsonl"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/decision")]
pub(in crate::api) async fn show_decision(
    access: Access<Read>,
    asker: Asker,
    long_work: Data<LongWork>,
) -> Result<HttpResponse, ApiError> {
    let asked = access.asks(Kind::Decision, &asker);
    let site = access.site;
    let read = move |mut db: PoolConnection<Postgres>| async move {
        let (document, today) = planning::as_measured(&mut db, site).await?;
        let ledgers = stress::ledgers(&mut db, site, &document, today).await?;
        let told = past_year::told_of(&mut db, site, today, PAST_YEARS).await?;
        Ok((document, today, ledgers, told))
    };
    let hears = long_work.ask(asked, read, |(document, today, ledgers, told), going| {
        let used = ledgers
            .iter()
            .filter_map(|(zone, days)| Some((zone.0.to_string(), days.last()?.used)));
        let used: BTreeMap<String, f64> = used.collect();
        let record = past_year::series(&document, &told);
        let wanted = || going.is_wanted();
        let told = |done, of| going.progress(done, of);
        Ok(decide(&wanted, &document, &record, today, &used, told)?)
    });
    let hears = hears.await?;
    // Dropped with its connection, it listens no more.
    let written = stream::unfold(Some(hears), |hears| async move {
        let mut hears = hears?;
        let (line, goes_on) = match hears.next().await {
            Course::UnderWay(done, of) => (line(&DecisionLine::Progress { done, of }), true),
            Course::Found(decision) => (found(&decision), false),
            Course::Broken(broken) => (line(&ended(&broken)), false),
        };
        Some((line, goes_on.then_some(hears)))
    });
    Ok(HttpResponse::Ok()
        .content_type("application/jsonl")
        .streaming(Box::pin(written)))
}

fn line(line: &DecisionLine<'_>) -> Result<Bytes, ApiError> {
    let json = serde_json::to_string(line).map_err(|e| ApiError::Internal(e.to_string()))?;
    Ok(Bytes::from(json + "\n"))
}

fn found(decision: &[u8]) -> Result<Bytes, ApiError> {
    let decision =
        serde_json::from_slice(decision).map_err(|e| ApiError::Internal(e.to_string()))?;
    line(&DecisionLine::Found { decision })
}

const fn ended(broken: &Broken) -> DecisionLine<'static> {
    match broken {
        Broken::Defect(_) | Broken::Unwanted => DecisionLine::Failed,
        Broken::AskedAnew => DecisionLine::AskedAnew,
        Broken::Full(_) | Broken::Away => DecisionLine::Busy,
    }
}
