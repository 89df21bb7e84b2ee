use actix_web::post;
use actix_web::web::Json;
use lawn::measure::cans::layout::{Layout, Wanted};

use crate::api::access::{Access, Record};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// A plan of a zone with heads and cans by a pattern; nothing is written.
#[utoipa::path(tag = "sprinklers", operation_id = "lay_out_cans", params(("site" = i64, Path)), request_body = Wanted, responses(
    (status = 200, description = "The plan", body = Layout),
    (status = 422, description = "A figure does not hold, or the sides do not meet", body = Problem)))]
#[post("/sites/{site}/can-layouts")]
pub(in crate::api) async fn lay_out(
    _access: Access<Record>,
    Body(wanted): Body<Wanted>,
) -> Result<Json<Layout>, ApiError> {
    Ok(Json(wanted.layout()?))
}
