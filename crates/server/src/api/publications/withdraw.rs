use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete};

use super::bring;
use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, publications, sites};
use crate::http::error::{ApiError, Problem};
use crate::settings::Settings;
use crate::{clock, planning};

/// Withdraws what is published: the newest plan is in force from now on, and the site's controller drops what has not begun. What has run has run.
#[utoipa::path(tag = "plans", operation_id = "withdraw_publication", params(("site" = i64, Path), ("publication" = i64, Path)), responses(
    (status = 204, description = "It is withdrawn"),
    (status = 404, description = "It is not what is published here", body = Problem)))]
#[delete("/sites/{site}/publications/{publication}")]
pub(in crate::api) async fn withdraw_publication(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<HttpResponse, ApiError> {
    let id = access.site;
    let mut tx = db.write(id).await?;
    let published = publications::of_site(&mut *tx, id).await?;
    if published.is_none_or(|p| p.id != path.1) {
        return Err(ApiError::NotFound("publication"));
    }
    // What it has run by now is settled while it is still in force.
    planning::replan(&mut tx, id).await?;
    let site = sites::get(&mut *tx, id).await?;
    publications::withdraw(&mut *tx, path.1, clock::now(site.simulated_now)).await?;
    history::note(&mut *tx, id, access.account, &Event::PublicationWithdrawn).await?;
    planning::replan(&mut tx, id).await?;
    tx.commit().await?;
    bring(&db, &settings, id).await?;
    Ok(HttpResponse::NoContent().finish())
}
