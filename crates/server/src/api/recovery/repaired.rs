use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, put};

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::history::{self, Event};
use crate::db::patches::{self, PatchRow};
use crate::db::{Db, SiteId, sites};
use crate::http::error::{ApiError, Problem};

/// Says that a patch is sown, planted or closed, on the site's day. Said again it changes nothing.
#[utoipa::path(tag = "stress", operation_id = "repair_patch", params(("site" = i64, Path), ("patch" = i64, Path)), responses(
    (status = 204, description = "Noted"),
    (status = 404, description = "No such patch here", body = Problem)))]
#[put("/sites/{site}/patches/{patch}/repaired")]
pub(in crate::api) async fn repair_patch(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    set_repaired(&access, path.1, &db, true).await
}

/// Takes back that a patch is repaired: it is open again. Said again it changes nothing.
#[utoipa::path(tag = "stress", operation_id = "reopen_patch", params(("site" = i64, Path), ("patch" = i64, Path)), responses(
    (status = 204, description = "Open again"),
    (status = 404, description = "No such patch here", body = Problem)))]
#[delete("/sites/{site}/patches/{patch}/repaired")]
pub(in crate::api) async fn reopen_patch(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    set_repaired(&access, path.1, &db, false).await
}

/// Takes back a patch that was noted by mistake, with its looks.
#[utoipa::path(tag = "stress", operation_id = "undo_patch", params(("site" = i64, Path), ("patch" = i64, Path)), responses(
    (status = 204, description = "Taken back"),
    (status = 404, description = "No such patch here", body = Problem)))]
#[delete("/sites/{site}/patches/{patch}")]
pub(in crate::api) async fn undo_patch(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let patch = there(&mut tx, access.site, path.1).await?;
    patches::undo(&mut *tx, patch.id).await?;
    let event = Event::PatchUndone {
        zone: patch.zone_name,
        patch: patch.name,
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// A patch of a site.
pub(super) async fn there(
    db: &mut sqlx::PgConnection,
    site: SiteId,
    patch: i64,
) -> Result<PatchRow, ApiError> {
    let found = patches::of_site(db, site, Some(patch)).await?;
    found.into_iter().next().ok_or(ApiError::NotFound("patch"))
}

async fn set_repaired(
    access: &Access<Record>,
    patch: i64,
    db: &Db,
    repaired: bool,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let patch = there(&mut tx, access.site, patch).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let on = repaired.then_some(today);
    if patches::set_repaired(&mut *tx, patch.id, on, access.account).await? {
        let event = Event::PatchRepaired {
            zone: patch.zone_name,
            patch: patch.name,
            repaired,
        };
        history::note(&mut *tx, access.site, access.account, &event).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
