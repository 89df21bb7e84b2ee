use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};

use crate::api::access::{Access, Record};
use crate::db::history::{self, Event};
use crate::db::{Db, seen};
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// Undoes what was seen, as if it had not been, and replans.
#[utoipa::path(tag = "soil", operation_id = "undo_seen", params(("site" = i64, Path), ("seen" = i64, Path)), responses(
    (status = 204, description = "Undone"),
    (status = 404, description = "Nothing such", body = Problem)))]
#[delete("/sites/{site}/seen/{seen}")]
pub(in crate::api) async fn undo_seen(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let zone = seen::undo(&mut *tx, access.site, path.1).await?;
    let zone = zone.ok_or(ApiError::NotFound("note"))?;
    history::note(
        &mut *tx,
        access.site,
        access.account,
        &Event::SeenUndone { zone },
    )
    .await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
