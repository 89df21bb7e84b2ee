use actix_web::get;
use actix_web::web::{Data, Json};
use serde::Serialize;
use utoipa::ToSchema;

use super::EditView;
use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::{Db, edits, sites};
use crate::http::error::{ApiError, Problem};

/// What people have changed of the plan.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Edits {
    /// The edits that hold on days from today on, by day.
    days: Vec<EditView>,
    /// The reader's own act that an undo would take back.
    undo: Option<EditView>,
    /// The reader's own act that a redo would bring back.
    redo: Option<EditView>,
}

/// What people have changed of the plan, and what the reader can undo of it.
#[utoipa::path(tag = "plans", operation_id = "list_edits", params(("site" = i64, Path)), responses(
    (status = 200, description = "The edits", body = Edits),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/edits")]
pub(in crate::api) async fn list_edits(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Edits>, ApiError> {
    let (pool, id, own) = (db.pool(), access.site, access.account);
    let site = sites::get(pool, id).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let days = edits::of_site(pool, id, today).await?;
    let undo = edits::next_of(pool, id, own, today, false).await?;
    let redo = edits::next_of(pool, id, own, today, true).await?;
    Ok(Json(Edits {
        days: days.into_iter().map(EditView::from).collect(),
        undo: undo.map(EditView::from),
        redo: redo.map(EditView::from),
    }))
}
