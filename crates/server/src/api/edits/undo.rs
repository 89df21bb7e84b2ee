use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, post};

use crate::api::access::{Access, Manage};
use crate::clock;
use crate::db::edits::{self, Own};
use crate::db::history::{self, Event};
use crate::db::{Db, SiteWrite, sites};
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
    turn(&db, &access, path.1, true).await
}

/// Does again what one undid last, with all days of its act, and replans.
#[utoipa::path(tag = "plans", operation_id = "redo_edit", params(("site" = i64, Path), ("edit" = i64, Path)), responses(
    (status = 204, description = "It holds again"),
    (status = 404, description = "No such edit here, or it is not undone", body = Problem),
    (status = 409, description = "It is another's, or the plan was changed since", body = Problem)))]
#[post("/sites/{site}/edits/{edit}/redo")]
pub(in crate::api) async fn redo_edit(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    turn(&db, &access, path.1, false).await
}

/// Undoes an edit, or does it again.
async fn turn(
    db: &Db,
    access: &Access<Manage>,
    id: i64,
    undo: bool,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let Own {
        zone_name: zone,
        date,
        ..
    } = untouched(&mut tx, access, id, !undo).await?;
    let event = if undo {
        Event::EditUndone { zone, date }
    } else {
        is_next(&mut tx, access, id).await?;
        Event::EditRedone { zone, date }
    };
    edits::set_undone(&mut *tx, id, undo).await?;
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Refuses to do again what the reader did not undo last.
async fn is_next(tx: &mut SiteWrite, access: &Access<Manage>, id: i64) -> Result<(), ApiError> {
    let site = sites::get(&mut **tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let next = edits::next_of(&mut **tx, access.site, access.account, today, true).await?;
    if next.is_some_and(|next| next.id == id) {
        return Ok(());
    }
    let message = "only what you undid last is done again, before you change something else";
    Err(ApiError::Conflict(message.to_owned()))
}

/// An edit of the reader's own, undone or not, whose days nobody has changed after it.
async fn untouched(
    tx: &mut SiteWrite,
    access: &Access<Manage>,
    id: i64,
    undone: bool,
) -> Result<Own, ApiError> {
    let edit = edits::own(&mut **tx, access.site, id).await?;
    let edit = edit
        .filter(|edit| edit.undone == undone)
        .ok_or(ApiError::NotFound("edit"))?;
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
    Ok(edit)
}
