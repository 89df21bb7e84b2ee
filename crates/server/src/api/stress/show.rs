use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::Timestamp;
use jiff::civil::Date;
use lawn::engine::history::ZoneHistory;
use lawn::quantity::Depth;
use lawn::site::{CrownWatering, HotEdge, Regime};
use lawn::stress::decide::kept_green_until;
use lawn::stress::dormancy::{Asleep, Day, Proposes, RULES, Rules, this_morning};
use lawn::stress::heat::{self, ByHand, Cooling, Deed, HeatDay};
use lawn::stress::recovery::{Recovery, recovery};
use lawn::stress::walk::{self, Due};
use science::turf::{Grass, Season};
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::computing::Turns;
use crate::db::regimes::{self, ChangeRow};
use crate::db::{Db, ZoneId, runs};
use crate::http::error::{ApiError, Problem};
use crate::{planning, stress};

/// Days of a ledger that are shown.
const SHOWN_DAYS: usize = 60;

/// How a site's zones stand heat and drought.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct StressView {
    /// The site's day; ledgers end before it, where the weather of days is missing earlier.
    today: Date,
    /// By which ledgers count.
    rules: Rules,
    /// In the site's order.
    zones: Vec<ZoneStress>,
    /// In the order in which they are walked: what dries out first, then what has used most.
    walk_order: Vec<ZoneId>,
}

/// How a zone stands them.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ZoneStress {
    zone: ZoneId,
    name: String,
    grass: Grass,
    season: Season,
    regime: Regime,
    /// Since when it is so; absent: always.
    since: Option<Date>,
    /// The last day of its ledger; absent: its balance has not begun.
    now: Option<Day>,
    /// What is proposed for today and not done yet.
    proposes: Option<Proposes>,
    /// Until when nothing is proposed, since somebody chose to keep it green.
    kept_green_until: Option<Date>,
    crown_watering: CrownWatering,
    /// Of dormant turf, this morning: until when it lives, and how near it is to waking.
    asleep: Option<Asleep>,
    /// Of waking turf: what is done when.
    recovery: Option<Recovery>,
    /// The last days, the newest last.
    days: Vec<Day>,
    /// The regimes that people changed, the newest first.
    changes: Vec<RegimeChange>,
    /// The site's day and the days after it, as far as a forecast tells their temperature.
    heat: Vec<HeatDay>,
    /// What to do about it; none: it strains nothing.
    deeds: Vec<Deed>,
    /// Its hot edges, with the water for each on the hottest of those days.
    by_hand: Vec<ByHand>,
    /// Cooling it at midday on days that strain all of it.
    cooling: Vec<Cooling>,
    /// Why it is to be walked; absent: it is not.
    walk_due: Option<Due>,
    /// When it was looked at last.
    walked_on: Option<Date>,
    /// Areas of it that dry out first.
    hot_edges: Vec<HotEdge>,
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
    turns: Data<Turns>,
) -> Result<Json<StressView>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let mut ledgers = stress::ledgers(&mut db, access.site, &document, today).await?;
    let changes = regimes::of_site(&mut *db, access.site).await?;
    let weather = stress::weather_ahead(&mut db, access.site, &document, today).await?;
    let ran = runs::since(&mut *db, access.site, today).await?;
    let there = document
        .zones
        .iter()
        .filter(|zone| zone.plants.is_turf() && zone.is_active(today));
    let mut order = Vec::new();
    let zones = there.filter_map(|kept| {
        let id = ZoneId(kept.id.parse().ok()?);
        let mut days = ledgers.remove(&id).unwrap_or_default();
        let recovery =
            recovery(&days, kept.regime, today).filter(|_| kept.regime == Regime::Recovering);
        days.drain(..days.len().saturating_sub(SHOWN_DAYS));
        let now = days.last().copied();
        let since = kept.holds_since("regime", today);
        let own = changes.iter().filter(|change| change.zone == id);
        let kept_green_until = kept_green_until(&regimes::of_zone(&changes, id), today);
        let history = ZoneHistory::of(&document, kept);
        let then = history.on(today);
        let zone = &then.zone;
        let asleep = now.and_then(|last| this_morning(&history, &last, today));
        let mut heat = heat::days(then.model.season, &weather);
        heat.retain(|day| day.date >= today);
        let day = weather.iter().find(|day| day.date == today);
        let etc = day.map_or(Depth::ZERO, |day| then.model.etc(day));
        let walked_on = walk::last_look(&kept.seen);
        let used = now.map_or(0.0, |day| day.used);
        order.push((walk::hotness(zone, &then.model), used, id));
        Some(ZoneStress {
            zone: id,
            name: zone.name.clone(),
            grass: zone.grass,
            season: then.model.season,
            regime: zone.regime,
            since,
            deeds: heat::deeds(&heat),
            by_hand: heat::by_hand(zone, &then.model, &weather, &heat),
            cooling: heat::cooling(&document, zone, &then.model, &heat),
            walk_due: walk::due(
                today,
                walked_on,
                now.map(|day| Day {
                    used: walk::used_now(day.used, &ran, zone, &then.model),
                    ..day
                })
                .as_ref(),
                asleep.as_ref(),
                &heat,
                then.model.raw(etc) / then.model.taw,
            ),
            walked_on,
            hot_edges: zone.hot_edges.clone(),
            heat,
            asleep,
            proposes: now
                .and_then(|last| last.proposes_beside(zone.regime))
                .filter(|_| kept_green_until.is_none()),
            kept_green_until,
            now,
            crown_watering: zone.crown_watering,
            recovery,
            days,
            changes: own.map(RegimeChange::from).collect(),
        })
    });
    let zones = zones.collect();
    order.sort_by(|a, b| b.0.cmp(&a.0).then(b.1.total_cmp(&a.1)));
    Ok(Json(StressView {
        today,
        rules: RULES,
        zones,
        walk_order: order.into_iter().map(|(_, _, id)| id).collect(),
    }))
}
