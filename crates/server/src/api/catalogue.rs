//! What forms offer.

use actix_web::get;
use actix_web::web::Json;
use lawn::view::catalogue::{Catalogue, catalogue};

use super::access::SignedIn;

/// Grasses, soils, sprinklers with their first figures, and the range of every figure.
#[utoipa::path(tag = "catalogue", responses((status = 200, description = "The catalogue", body = Catalogue)))]
#[get("/catalogue")]
pub(super) async fn show(_: SignedIn) -> Json<Catalogue> {
    Json(catalogue())
}
