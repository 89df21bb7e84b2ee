//! Who did what on a site.

use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::access::{Access, Read};
use crate::db::Db;
use crate::db::history::{self, Event};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;

/// Entries of an answer.
const PAGE: i64 = 50;

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
