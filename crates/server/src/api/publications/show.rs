use actix_web::get;
use actix_web::web::{Data, Json};

use super::{PublicationView, Publishing, controller_view};
use crate::api::access::{Access, Read};
use crate::db::{Db, plans, publications, sites};
use crate::http::error::{ApiError, Problem};
use crate::planning::Since;
use crate::settings::Settings;

/// How the site publishes, what is in force, and what changed since.
#[utoipa::path(tag = "plans", operation_id = "show_publishing", params(("site" = i64, Path)), responses(
    (status = 200, description = "What is in force", body = Publishing),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/publishing")]
pub(in crate::api) async fn show_publishing(
    access: Access<Read>,
    db: Data<Db>,
    settings: Data<Settings>,
) -> Result<Json<Publishing>, ApiError> {
    let (pool, id) = (db.pool(), access.site);
    let site = sites::get(pool, id).await?;
    let published = publications::of_site(pool, id).await?;
    let since = match &published {
        Some(_) => plans::since_published(pool, id).await?,
        None => None,
    };
    let since = since.map(|text| serde_json::from_str::<Since>(&text));
    let since = since
        .transpose()
        .map_err(|e| ApiError::Internal(format!("the newest plan: {e}")))?;
    let of_this = |since: &Since| {
        published
            .as_ref()
            .is_some_and(|p| p.id == since.publication)
    };
    let controller = controller_view(pool, &settings, &site, published.as_ref()).await?;
    Ok(Json(Publishing {
        controller,
        each_morning: site.publishes_each_morning,
        since: since.filter(of_this).map(|since| since.since),
        published: published.map(PublicationView::from),
    }))
}
