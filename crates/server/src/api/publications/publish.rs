use actix_web::web::Data;
use actix_web::{HttpResponse, post};
use serde::Deserialize;
use utoipa::ToSchema;

use super::{PublicationView, bring};
use crate::api::access::{Access, Manage};
use crate::db::{Db, plans, publications};
use crate::http::body::{Body, idempotency_key};
use crate::http::error::{ApiError, Problem};
use crate::http::etag;
use crate::planning::{self, PLAN_VERSION};
use crate::publishing;
use crate::settings::Settings;

/// The plan that is to be in force.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct ToPublish {
    /// The newest plan, as the person saw it.
    plan: i64,
    /// Made up by the sender, 8 to 80 characters: the same sent twice is published once.
    idempotency_key: String,
}

/// Publishes the newest plan: it is in force for its week, and the site's controller is told at once, or as soon as it answers. Sent again with the same key it changes nothing.
#[utoipa::path(tag = "plans", operation_id = "publish", params(("site" = i64, Path)), request_body = ToPublish, responses(
    (status = 201, description = "What is in force", body = PublicationView),
    (status = 409, description = "There is no plan, or it is being made anew", body = Problem),
    (status = 412, description = "The plan changed meanwhile; the answer holds the newest", body = Problem)))]
#[post("/sites/{site}/publications")]
pub(in crate::api) async fn publish(
    access: Access<Manage>,
    db: Data<Db>,
    settings: Data<Settings>,
    Body(body): Body<ToPublish>,
) -> Result<HttpResponse, ApiError> {
    idempotency_key(&body.idempotency_key)?;
    let key = body.idempotency_key.as_str();
    let id = access.site;
    let mut tx = db.write(id).await?;
    if !publications::is_written(&mut *tx, id, key).await? {
        let newest = plans::newest(&mut *tx, id).await?;
        let newest = newest.filter(|plan| plan.version >= PLAN_VERSION);
        let newest = newest.ok_or_else(|| {
            ApiError::Conflict("there is no plan yet; try again in a moment".to_owned())
        })?;
        etag::check(
            body.plan,
            newest.id,
            &serde_json::json!({ "plan": newest.id }),
        )?;
        publishing::publish(&mut tx, id, newest.id, Some((access.account, key))).await?;
        planning::replan(&mut tx, id).await?;
    }
    let published = publications::of_site(&mut *tx, id).await?;
    tx.commit().await?;
    bring(&db, &settings, id).await?;
    let published = published.ok_or(ApiError::NotFound("publication"))?;
    Ok(HttpResponse::Created().json(PublicationView::from(published)))
}
