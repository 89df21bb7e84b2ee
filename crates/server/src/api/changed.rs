//! What a change of an input changes in the plan: the newest programme before and after it.

use jiff::civil::Date;
use lawn::record::programme::Programme;
use lawn::view::changes::{Between, Change};
use lawn::view::consequence::Consequence;
use lawn::view::verdict::Warning;
use lawn::view::week_plan::ZonePlan;
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use sqlx::PgConnection;
use utoipa::ToSchema;

use crate::db::{SiteId, ZoneId, plans, programmes, runs, zones};
use crate::http::error::ApiError;
use crate::planning::{self, Made};

/// What follows from a change of a zone's week.
#[derive(Debug, Serialize, ToSchema)]
pub(super) struct Follows {
    /// The zone's week as it was.
    pub(super) before: Consequence,
    /// The zone's week with it.
    pub(super) after: Consequence,
    /// What changes in the plan, of other zones too.
    pub(super) changes: Vec<Change>,
    /// What a person should see to on the day that is changed.
    pub(super) warnings: Vec<Warning>,
}

/// A zone's week in the newest plan.
pub(super) async fn week_of(
    db: &mut PgConnection,
    site: SiteId,
    zone: ZoneId,
) -> Result<ZonePlan, ApiError> {
    let newest = plans::newest(&mut *db, site).await?;
    let newest = newest.ok_or(ApiError::NotFound("plan"))?;
    let text = plans::text(&mut *db, site, newest.id).await?;
    let text = text.ok_or(ApiError::NotFound("plan"))?;
    own_week(&text.result, zone)
}

fn own_week(plan: &str, zone: ZoneId) -> Result<ZonePlan, ApiError> {
    let own = zone_of(plan, &zone.0.to_string())
        .map_err(|e| ApiError::Internal(format!("the newest plan: {e}")))?;
    own.ok_or(ApiError::NotFound("zone"))
}

/// A zone's week of a plan's text; the other zones are passed over unread.
fn zone_of(plan: &str, zone: &str) -> serde_json::Result<Option<ZonePlan>> {
    #[derive(Deserialize)]
    struct Zones<'a> {
        #[serde(borrow)]
        zones: Vec<&'a RawValue>,
    }
    #[derive(Deserialize)]
    struct Named {
        zone: String,
    }
    let week: Zones = serde_json::from_str(plan)?;
    for text in week.zones {
        if serde_json::from_str::<Named>(text.get())?.zone == zone {
            return serde_json::from_str(text.get()).map(Some);
        }
    }
    Ok(None)
}

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
    let made = planning::replanned(&mut *db, site).await?;
    changes_since(db, site, before, made.as_ref(), today).await
}

/// [`replanned_from`], and a zone's week after it.
pub(super) async fn followed(
    db: &mut PgConnection,
    site: SiteId,
    zone: ZoneId,
    before: &Programme,
    today: Date,
) -> Result<(Vec<Change>, ZonePlan), ApiError> {
    let made = planning::replanned(&mut *db, site).await?;
    let changes = changes_since(db, site, before, made.as_ref(), today).await?;
    let made = made.ok_or(ApiError::NotFound("plan"))?;
    Ok((changes, own_week(&made.plan.result, zone)?))
}

async fn changes_since(
    db: &mut PgConnection,
    site: SiteId,
    before: &Programme,
    made: Option<&Made>,
    today: Date,
) -> Result<Vec<Change>, ApiError> {
    let nothing = Programme::default();
    let after = made.map_or(&nothing, |made| &made.plan.programme);
    let zones = zones::of_site(&mut *db, site).await?;
    let ran = runs::since(&mut *db, site, today).await?;
    let between = Between {
        before,
        after,
        today,
        zones: &zones.iter().map(|z| z.id.0.to_string()).collect::<Vec<_>>(),
        ran: &ran.into_iter().map(|run| run.zone).collect::<Vec<_>>(),
    };
    Ok(between.changes())
}
