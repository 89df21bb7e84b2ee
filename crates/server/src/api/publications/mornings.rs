use actix_web::web::Data;
use actix_web::{HttpResponse, put};
use serde::Deserialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::{Db, publications, sites};
use crate::http::body::Body;
use crate::http::error::{ApiError, Problem};

/// Whether the plan is published by itself.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Mornings {
    /// Each morning, with the day's first plan.
    each_morning: bool,
}

/// Says whether the plan is published each morning by itself. Said again it changes nothing.
#[utoipa::path(tag = "plans", operation_id = "set_mornings", params(("site" = i64, Path)), request_body = Mornings, responses(
    (status = 204, description = "So it is"),
    (status = 404, description = "No such site here", body = Problem)))]
#[put("/sites/{site}/publishing")]
pub(in crate::api) async fn set_mornings(
    access: Access<Manage>,
    db: Data<Db>,
    Body(body): Body<Mornings>,
) -> Result<HttpResponse, ApiError> {
    let Mornings { each_morning } = body;
    let mut tx = db.write(access.site).await?;
    let site = sites::get(&mut *tx, access.site).await?;
    if site.publishes_each_morning != each_morning {
        publications::set_each_morning(&mut *tx, access.site, each_morning).await?;
        let event = Event::PublishesEachMorning { each_morning };
        history::note(&mut *tx, access.site, access.account, &event).await?;
    }
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}
