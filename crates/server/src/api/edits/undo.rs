use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};

use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, edits};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Undoes an edit of one's own, with all days of its act, and replans: what held before holds again.
#[utoipa::path(tag = "plans", operation_id = "undo_edit", params(("site" = i64, Path), ("edit" = i64, Path)), responses(
    (status = 204, description = "It is undone"),
    (status = 404, description = "No such edit here, or it is undone", body = Problem),
    (status = 409, description = "It is another's, or somebody changed the day after it", body = Problem)))]
#[delete("/sites/{site}/edits/{edit}")]
pub(in crate::api) async fn undo_edit(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let edit = edits::to_undo(&mut *tx, access.site, path.1).await?;
    let edit = edit.ok_or(ApiError::NotFound("edit"))?;
    if let Some(who) = edit.changed_after {
        let who = if who.is_empty() { "Somebody" } else { &who };
        return Err(ApiError::Conflict(format!(
            "{who} changed this day after it; set the day anew instead"
        )));
    }
    if edit.account != Some(access.account.0) {
        let message = "this is another person's edit; set the day anew instead".to_owned();
        return Err(ApiError::Conflict(message));
    }
    edits::undo(&mut *tx, path.1).await?;
    let event = Event::EditUndone {
        zone: edit.zone_name,
        date: edit.date,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
