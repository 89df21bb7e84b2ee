use crate::api::access::{Access, Manage};
use crate::api::sprinkler_tests::NewStanding;
use crate::db::history::{self, Event};
use crate::db::{Db, soil_tests};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};

/// Says whether a soil test counts, and replans. The test itself stays.
#[utoipa::path(tag = "soil", operation_id = "set_soil_test_standing", params(("site" = i64, Path), ("test" = i64, Path)), request_body = NewStanding, responses(
    (status = 204, description = "Set"),
    (status = 404, description = "No such test", body = Problem)))]
#[put("/sites/{site}/soil-tests/{test}/standing")]
pub(in crate::api) async fn set_soil_test_standing(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NewStanding>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    let found = soil_tests::set_standing(&mut tx, access.site, path.1, new.standing).await?;
    let test = found.ok_or(ApiError::NotFound("test"))?;
    let event = Event::SoilTestStanding {
        test,
        standing: new.standing.name().to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
