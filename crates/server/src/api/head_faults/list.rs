use actix_web::get;
use actix_web::web::{Data, Json};

use super::HeadFaultView;
use crate::api::access::{Access, Read};
use crate::db::{Db, head_faults};
use crate::http::error::{ApiError, Problem};

/// Faults of all zones: those to be repaired first, by the day they are due.
#[utoipa::path(tag = "sprinklers", operation_id = "list_head_faults", params(("site" = i64, Path)), responses(
    (status = 200, description = "The faults", body = Vec<HeadFaultView>),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/head-faults")]
pub(in crate::api) async fn list_faults(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<Vec<HeadFaultView>>, ApiError> {
    let faults = head_faults::of_site(db.pool(), access.site, None).await?;
    Ok(Json(faults.into_iter().map(HeadFaultView::from).collect()))
}
