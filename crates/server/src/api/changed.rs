//! What a change of an input changes in the plan: the newest programme before and after it.

use jiff::civil::Date;
use lawn::record::programme::Programme;
use lawn::view::changes::{Between, Change};
use sqlx::PgConnection;

use crate::db::{SiteId, plans, programmes, runs, zones};
use crate::http::error::ApiError;
use crate::planning;

/// What the newest plan runs; nothing where there is none.
pub(super) async fn newest_programme(
    db: &mut PgConnection,
    site: SiteId,
) -> Result<Programme, ApiError> {
    let Some(newest) = plans::newest(&mut *db, site).await? else {
        return Ok(Programme::default());
    };
    let mut found = programmes::of_plans(db, &[newest.id]).await?;
    Ok(found.remove(&newest.id).unwrap_or_default())
}

/// Replans a site and says what that changes against the plan before; `today`: the site's day.
pub(super) async fn replanned_from(
    db: &mut PgConnection,
    site: SiteId,
    before: &Programme,
    today: Date,
) -> Result<Vec<Change>, ApiError> {
    planning::replan(&mut *db, site).await?;
    let after = newest_programme(&mut *db, site).await?;
    let zones = zones::of_site(&mut *db, site).await?;
    let ran = runs::since(&mut *db, site, today).await?;
    let between = Between {
        before,
        after: &after,
        today,
        zones: &zones.iter().map(|z| z.id.0.to_string()).collect::<Vec<_>>(),
        ran: &ran.into_iter().map(|run| run.zone).collect::<Vec<_>>(),
    };
    Ok(between.changes())
}
