//! Who did what on a site.

use actix_web::web::{Data, Json};
use actix_web::{HttpResponse, get};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::access::{Access, Read};
use crate::db::Db;
use crate::db::history::{self, Event};
use crate::http::csv::{self, or_empty};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;

/// Entries of an answer.
const PAGE: i64 = 50;
/// Most entries of a file, the newest.
const MOST_EXPORTED: i64 = 50_000;

/// Where to go on.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(super) struct Before {
    /// Entries before this identifier; absent: the newest.
    before: Option<i64>,
}

/// What somebody did.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct EntryView {
    id: i64,
    /// By the real clock.
    at: Timestamp,
    /// By the site's clock.
    site_now: Timestamp,
    /// `null`: the account is gone.
    who: Option<String>,
    what: Event,
}

/// A page of the history, newest first.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct History {
    entries: Vec<EntryView>,
    /// Whether there are older ones.
    more: bool,
}

/// Who did what, newest first, fifty at a time.
#[utoipa::path(tag = "people", operation_id = "list_history", params(("site" = i64, Path), Before), responses(
    (status = 200, description = "A page of it", body = History),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/history")]
pub(super) async fn list(
    access: Access<Read>,
    Asked(before): Asked<Before>,
    db: Data<Db>,
) -> Result<Json<History>, ApiError> {
    let before = before.before.unwrap_or(i64::MAX);
    let mut entries = history::page(db.pool(), access.site, before, PAGE + 1).await?;
    let page = usize::try_from(PAGE).unwrap_or(usize::MAX);
    let more = entries.len() > page;
    entries.truncate(page);
    Ok(Json(History {
        more,
        entries: entries
            .into_iter()
            .map(|e| EntryView {
                id: e.id,
                at: e.at,
                site_now: e.site_now,
                who: e.who,
                what: e.event,
            })
            .collect(),
    }))
}

/// Who did what, one a line, oldest first, as CSV (docs/formats/records.md).
#[utoipa::path(tag = "people", operation_id = "export_history", params(("site" = i64, Path)), responses(
    (status = 200, description = "The history", body = String, content_type = "text/csv"),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/history.csv")]
pub(super) async fn export_history(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut entries = history::page(db.pool(), access.site, i64::MAX, MOST_EXPORTED).await?;
    entries.reverse();
    let heading = ["at", "site_clock", "who", "event", "figures"];
    let rows = entries.into_iter().map(|e| {
        let mut figures = serde_json::to_value(&e.event).unwrap_or_default();
        let event = figures
            .as_object_mut()
            .and_then(|fields| fields.remove("event"))
            .unwrap_or_default();
        [
            e.at.to_string(),
            e.site_now.to_string(),
            or_empty(e.who),
            event.as_str().unwrap_or_default().to_owned(),
            figures.to_string(),
        ]
    });
    Ok(csv::table("history.csv", heading, rows))
}
