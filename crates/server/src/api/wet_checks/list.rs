use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::civil::Date;
use lawn::measure::wet_check::{self, Due};
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::clock;
use crate::db::wet_checks::{self, WetCheckRow};
use crate::db::{Db, ZoneId, head_faults, sites};
use crate::http::error::{ApiError, Problem};

/// Wet checks that are shown at most.
const MOST_SHOWN: i64 = 50;

/// A wet check.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WetCheckView {
    id: i64,
    date: Date,
    /// The zones that were walked.
    zones: Vec<ZoneId>,
    ran_in_rain: bool,
    ran_in_frost: bool,
    note: Option<String>,
    who: Option<String>,
}

/// Wet checks, and whether the next is due.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct WetChecks {
    /// `null`: it is not.
    due: Option<Due>,
    /// How long each zone is on, min.
    minutes: u32,
    /// The last fifty, newest first.
    checks: Vec<WetCheckView>,
}

impl From<WetCheckRow> for WetCheckView {
    fn from(row: WetCheckRow) -> Self {
        Self {
            id: row.id,
            date: row.date,
            zones: row.zones,
            ran_in_rain: row.ran_in_rain,
            ran_in_frost: row.ran_in_frost,
            note: row.note,
            who: row.who,
        }
    }
}

/// The wet checks of a site, and why the next is due, if it is: monthly in the season, and after heads that a mower may have hit.
#[utoipa::path(tag = "sprinklers", operation_id = "list_wet_checks", params(("site" = i64, Path)), responses(
    (status = 200, description = "The wet checks", body = WetChecks),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/wet-checks")]
pub(in crate::api) async fn list_wet_checks(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<WetChecks>, ApiError> {
    let site = sites::get(db.pool(), access.site).await?;
    let today = clock::local_date(clock::now(site.simulated_now), &site.site.time_zone);
    let checks = wet_checks::of_site(db.pool(), access.site, MOST_SHOWN).await?;
    let watered = wet_checks::last_watered(db.pool(), access.site).await?;
    let faults = head_faults::of_site(db.pool(), access.site, None).await?;
    let hit = faults.iter().filter(|f| f.fault.may_be_the_mower());
    let hit = hit.map(|f| f.noted_on).max();
    Ok(Json(WetChecks {
        due: wet_check::due(today, checks.first().map(|c| c.date), watered, hit),
        minutes: wet_check::MINUTES,
        checks: checks.into_iter().map(WetCheckView::from).collect(),
    }))
}
