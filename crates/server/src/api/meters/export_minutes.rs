use std::collections::VecDeque;

use actix_web::http::header::CONTENT_DISPOSITION;
use actix_web::web::{Bytes, Data, Path};
use actix_web::{HttpResponse, get};
use futures_util::stream;
use jiff::{SignedDuration, Timestamp};
use lawn::record::told_minutes::{Batch, heading, lines};

use super::meter;
use crate::api::access::{Access, Read};
use crate::db::meters::MeterId;
use crate::db::{Db, SiteId, flow};
use crate::http::error::{ApiError, Problem};

/// Time that is read at once: a batch a line has no more.
const AT_ONCE: SignedDuration = SignedDuration::from_hours(7 * 24);

/// How minutes are written.
#[derive(Clone, Copy)]
enum Form {
    Columns,
    Batches,
}

impl Form {
    fn write(self, batch: &Batch) -> Result<String, ApiError> {
        match self {
            Self::Columns => Ok(lines(batch)),
            Self::Batches if batch.counts.iter().all(Option::is_none) => Ok(String::new()),
            Self::Batches => serde_json::to_string(batch)
                .map(|line| line + "\n")
                .map_err(|e| ApiError::Internal(e.to_string())),
        }
    }
}

/// Every minute that a meter counted, one a line, as CSV (docs/formats/flow.md).
#[utoipa::path(tag = "water book", operation_id = "export_minutes", params(("site" = i64, Path), ("meter" = i64, Path)), responses(
    (status = 200, description = "The minutes", body = String, content_type = "text/csv"),
    (status = 404, description = "No such meter here", body = Problem)))]
#[get("/sites/{site}/meters/{meter}/minutes.csv")]
pub(in crate::api) async fn export_minutes(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    export(access.site, MeterId(path.1), db, Form::Columns).await
}

/// Every minute that a meter counted, a week a line, as JSON.
#[utoipa::path(tag = "water book", operation_id = "export_minute_batches", params(("site" = i64, Path), ("meter" = i64, Path)), responses(
    (status = 200, description = "The minutes", body = String, content_type = "application/jsonl"),
    (status = 404, description = "No such meter here", body = Problem)))]
#[get("/sites/{site}/meters/{meter}/minutes.jsonl")]
pub(in crate::api) async fn export_minute_batches(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    export(access.site, MeterId(path.1), db, Form::Batches).await
}

/// Sends them as they are read, so that no year lies in memory.
async fn export(
    site: SiteId,
    id: MeterId,
    db: Data<Db>,
    form: Form,
) -> Result<HttpResponse, ApiError> {
    let heard = {
        let mut db = db.pool().acquire().await?;
        meter(&mut db, site, id).await?;
        flow::heard(&mut *db, id).await?
    };
    let mut weeks: VecDeque<(Timestamp, Timestamp)> = VecDeque::new();
    if let Some((mut from, end)) = heard {
        while from < end {
            let to = (from + AT_ONCE).min(end);
            weeks.push_back((from, to));
            from = to;
        }
    }
    let first = match form {
        Form::Columns => heading(),
        Form::Batches => String::new(),
    };
    let written = stream::try_unfold((weeks, Some(first)), move |(mut weeks, first)| {
        let db = db.clone();
        async move {
            if let Some(first) = first {
                return Ok::<_, ApiError>(Some((Bytes::from(first), (weeks, None))));
            }
            let Some((from, to)) = weeks.pop_front() else {
                return Ok(None);
            };
            let (from, counts) = flow::between(db.pool(), id, from, to).await?;
            let text = form.write(&Batch { from, counts })?;
            Ok(Some((Bytes::from(text), (weeks, None))))
        }
    });
    let (kind, name) = match form {
        Form::Columns => ("text/csv; charset=utf-8", "minutes.csv"),
        Form::Batches => ("application/jsonl", "minutes.jsonl"),
    };
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header((
            CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ))
        .streaming(Box::pin(written)))
}
