use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get};
use lawn::measure::cans::file as can_file;
use lawn::measure::sprinkler::SprinklerTest;

use crate::api::access::{Access, Read};
use crate::db::{Db, sprinkler_tests};
use crate::http::csv;
use crate::http::error::{ApiError, Problem};

/// The cans of a test as `fresh-meadow audit` reads them (docs/formats/cans.md).
#[utoipa::path(tag = "sprinklers", operation_id = "export_cans", params(("site" = i64, Path), ("test" = i64, Path)), responses(
    (status = 200, description = "The cans", body = String, content_type = "text/csv"),
    (status = 404, description = "No such test with cans", body = Problem)))]
#[get("/sites/{site}/sprinkler-tests/{test}/cans.csv")]
pub(in crate::api) async fn export_cans(
    access: Access<Read>,
    path: Path<(String, i64)>,
    db: Data<Db>,
) -> Result<HttpResponse, ApiError> {
    let tests = sprinkler_tests::of_site(db.pool(), access.site).await?;
    let found = tests.into_iter().find(|t| t.id == path.1);
    let Some(SprinklerTest::Cans(test)) = found.map(|t| t.test) else {
        return Err(ApiError::NotFound("test with cans"));
    };
    Ok(csv::file("cans.csv", can_file::write(&test)))
}
