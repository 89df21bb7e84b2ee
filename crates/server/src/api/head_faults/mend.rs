use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, put};

use crate::api::access::{Access, Record};
use crate::clock;
use crate::db::head_faults::{self, FaultRow};
use crate::db::history::{self, Event};
use crate::db::{Db, sites};
use crate::http::error::{ApiError, Problem};

/// Says that a fault was repaired, on the site's day. Tests from before that day are said to be so. Said again it changes nothing.
#[utoipa::path(tag = "sprinklers", operation_id = "mend_head", params(("site" = i64, Path), ("fault" = i64, Path)), responses(
    (status = 204, description = "Noted"),
    (status = 404, description = "No such fault", body = Problem)))]
#[put("/sites/{site}/head-faults/{fault}/repaired")]
pub(in crate::api) async fn mend(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    set_mended(&access, path.1, &db, true).await
}

/// Takes a repair back that was none: the fault is open again. Said again it changes nothing.
#[utoipa::path(tag = "sprinklers", operation_id = "reopen_head_fault", params(("site" = i64, Path), ("fault" = i64, Path)), responses(
    (status = 204, description = "Open again"),
    (status = 404, description = "No such fault", body = Problem)))]
#[delete("/sites/{site}/head-faults/{fault}/repaired")]
pub(in crate::api) async fn reopen(
    access: Access<Record>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    set_mended(&access, path.1, &db, false).await
}

/// Notes that a fault is repaired, or open again, with who said so; what is so already is left.
async fn set_mended(
    access: &Access<Record>,
    fault: i64,
    db: &Db,
    mended: bool,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let faults = head_faults::of_site(&mut *tx, access.site, Some(fault)).await?;
    let FaultRow {
        id,
        zone_name: zone,
        head,
        fault,
        ..
    } = faults
        .into_iter()
        .next()
        .ok_or(ApiError::NotFound("fault"))?;
    let (changed, event) = if mended {
        let site = sites::get(&mut *tx, access.site).await?;
        let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
        (
            head_faults::mend(&mut *tx, id, today, access.account).await?,
            Event::HeadMended { zone, head, fault },
        )
    } else {
        (
            head_faults::not_mended(&mut *tx, id).await?,
            Event::HeadNotMended { zone, head, fault },
        )
    };
    if changed {
        history::note(&mut *tx, access.site, access.account, &event).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
