use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::Timestamp;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::site::{CrownWatering, Regime};
use lawn::stress::dormancy::{Asleep, Day, Proposes, this_morning};
use science::turf::Grass;
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::db::regimes::{self, ChangeRow};
use crate::db::{Db, ZoneId};
use crate::http::error::{ApiError, Problem};
use crate::{planning, stress};

/// Days of a ledger that are shown.
const SHOWN_DAYS: usize = 60;

/// How a site's zones stand heat and drought.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct StressView {
    /// The site's day; ledgers end before it, where the weather of days is missing earlier.
    today: Date,
    zones: Vec<ZoneStress>,
}

/// How a zone stands them.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ZoneStress {
    zone: ZoneId,
    name: String,
    grass: Grass,
    regime: Regime,
    /// Since when it is so; absent: always.
    since: Option<Date>,
    /// The last day of its ledger; absent: its balance has not begun.
    now: Option<Day>,
    /// What is proposed for today and not done yet.
    proposes: Option<Proposes>,
    crown_watering: CrownWatering,
    /// Of dormant turf, this morning: until when it lives, and how near it is to waking.
    asleep: Option<Asleep>,
    /// The last days, the newest last.
    days: Vec<Day>,
    /// The regimes that people changed, the newest first.
    changes: Vec<RegimeChange>,
}

/// A change of a zone's regime.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct RegimeChange {
    regime: Regime,
    /// Its first day.
    from: Date,
    /// The proposal that was taken; absent: a person chose it.
    proposal: Option<Proposes>,
    /// Why, in the person's words.
    note: Option<String>,
    who: Option<String>,
    /// When it was said, by the site's clock.
    said_at: Timestamp,
}

impl From<&ChangeRow> for RegimeChange {
    fn from(row: &ChangeRow) -> Self {
        Self {
            regime: row.regime,
            from: row.from,
            proposal: row.proposal,
            note: row.note.clone(),
            who: row.who.clone(),
            said_at: row.said_at,
        }
    }
}

/// How zones stand heat and drought: each one's dormancy ledger with what is proposed, and who changed what.
#[utoipa::path(tag = "stress", operation_id = "show_stress", params(("site" = i64, Path)), responses(
    (status = 200, description = "The zones that exist today", body = StressView),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/stress")]
pub(in crate::api) async fn show_stress(
    access: Access<Read>,
    db: Data<Db>,
) -> Result<Json<StressView>, ApiError> {
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let mut ledgers = stress::ledgers(&mut db, access.site, &document, today).await?;
    let changes = regimes::of_site(&mut *db, access.site).await?;
    let there = document.zones.iter().filter(|zone| zone.is_active(today));
    let zones = there.filter_map(|kept| {
        let id = ZoneId(kept.id.parse().ok()?);
        let mut days = ledgers.remove(&id).unwrap_or_default();
        days.drain(..days.len().saturating_sub(SHOWN_DAYS));
        let now = days.last().copied();
        let since = kept.holds_since("regime", today);
        let own = changes.iter().filter(|change| change.zone == id);
        let history = ZoneHistory::new(kept, &document.controller, document.site.latitude);
        let zone = &history.on(today).zone;
        Some(ZoneStress {
            zone: id,
            name: zone.name.clone(),
            grass: zone.grass,
            regime: zone.regime,
            since,
            asleep: now.and_then(|last| this_morning(&history, &last, today)),
            proposes: now.and_then(|last| last.proposes_beside(zone.regime)),
            now,
            crown_watering: zone.crown_watering,
            days,
            changes: own.map(RegimeChange::from).collect(),
        })
    });
    let zones = zones.collect();
    Ok(Json(StressView { today, zones }))
}
