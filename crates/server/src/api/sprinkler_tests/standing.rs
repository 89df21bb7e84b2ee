use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};
use lawn::site::counting::Standing;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, sprinkler_tests};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};
use crate::planning;

/// A test's standing.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct NewStanding {
    pub(in crate::api) standing: Standing,
}

/// Says whether a test counts, and replans. The test itself stays.
#[utoipa::path(tag = "sprinklers", operation_id = "set_sprinkler_test_standing", params(("site" = i64, Path), ("test" = i64, Path)), request_body = NewStanding, responses(
    (status = 204, description = "Set"),
    (status = 404, description = "No such test", body = Problem)))]
#[put("/sites/{site}/sprinkler-tests/{test}/standing")]
pub(in crate::api) async fn set_standing(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(new): Body<NewStanding>,
) -> Result<HttpResponse, ApiError> {
    let mut tx = db.write(access.site).await?;
    if !sprinkler_tests::set_standing(&mut tx, access.site, path.1, new.standing).await? {
        return Err(ApiError::NotFound("test"));
    }
    let event = Event::CanTestStanding {
        test: path.1,
        standing: new.standing.name().to_owned(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
