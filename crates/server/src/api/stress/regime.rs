use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};
use jiff::civil::Date;
use lawn::new_grass::stages;
use lawn::site::{Invalid, Regime, SiteDocument};
use lawn::stress::decide::kept_green_until;
use serde::Deserialize;
use sqlx::PgConnection;
use utoipa::ToSchema;

use crate::api::access::{Access, Manage};
use crate::db::history::{self, Event};
use crate::db::ledgers::{self, ZoneSpan};
use crate::db::regimes::{self, NewChange};
use crate::db::{Db, ZoneId, sites, zones};
use crate::http::body::{Body, note};
use crate::http::error::{ApiError, Problem};
use crate::{clock, planning, stress};

/// Longest note, characters.
const LONGEST_NOTE: usize = 200;

/// How a zone is watered from a day on.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct RegimeTurn {
    /// `dormant`: let it go; `recovering`: it wakes; `established`: keep it green.
    regime: Regime,
    /// The first day; absent: today.
    #[serde(default)]
    from: Option<Date>,
    /// Why, in the person's words, at most 200 characters.
    #[serde(default)]
    note: Option<String>,
}

/// Lets a zone go, wakes it or keeps it green from a day on, and replans; days before keep theirs. New grass whose roots are as deep as the zone's own is a lawn from then on, which
/// is said as `established`. Where the ledger proposes the same, it is kept as the reason.
/// Said of a zone that is green, it is kept so: for the summer nothing else is proposed.
#[utoipa::path(tag = "stress", operation_id = "turn_regime", params(("site" = i64, Path), ("zone" = i64, Path)), request_body = RegimeTurn, responses(
    (status = 204, description = "So it is"),
    (status = 404, description = "No such zone here", body = Problem),
    (status = 409, description = "The zone is so already, or is new seed or switched off", body = Problem),
    (status = 422, description = "The day or the note does not hold", body = Problem)))]
#[put("/sites/{site}/zones/{zone}/regime")]
pub(in crate::api) async fn turn_regime(
    access: Access<Manage>,
    path: Path<(String, i64)>,
    db: Data<Db>,
    Body(turn): Body<RegimeTurn>,
) -> Result<HttpResponse, ApiError> {
    let note = note(turn.note.as_deref(), LONGEST_NOTE)?;
    if !turn.regime.is_rooted() {
        let message = "a zone is let go, wakes or is kept green; new seed and off are set on Site";
        return Err(Invalid::new("regime", message).into());
    }
    let mut tx = db.write(access.site).await?;
    let id = ZoneId(path.1);
    let row = zones::get(&mut *tx, access.site, id)
        .await?
        .ok_or(ApiError::NotFound("zone"))?;
    let site = sites::get(&mut *tx, access.site).await?;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    let from = turn.from.unwrap_or(today);
    if from > today {
        return Err(Invalid::new("from", format!("{from} is still to come")).into());
    }
    if let Some(first) = row.zone.active_from.filter(|first| from < *first) {
        let message = format!("{} begins on {first}", row.zone.name);
        return Err(Invalid::new("from", message).into());
    }
    let (document, _) = planning::as_measured(&mut tx, access.site).await?;
    if !row.zone.regime.is_rooted() {
        let lawn_from = lawn_from(&mut tx, &document, id, today).await?;
        let name = &row.zone.name;
        let is_lawn = lawn_from.is_some_and(|lawn| lawn <= from);
        let message = match lawn_from {
            Some(_) if is_lawn && turn.regime == Regime::Established => None,
            Some(_) if is_lawn => Some(format!("say on New grass first that {name} is a lawn")),
            Some(lawn) => Some(format!("the roots of {name} are young until {lawn}")),
            None => Some(format!(
                "{name} is new seed or switched off: change that on Site"
            )),
        };
        if let Some(message) = message {
            return Err(ApiError::Conflict(message));
        }
    }
    let is_kept = row.zone.regime == turn.regime && turn.regime == Regime::Established;
    let kept_until = if is_kept {
        let changes = regimes::of_site(&mut *tx, access.site).await?;
        kept_green_until(&regimes::of_zone(&changes, id), today)
    } else {
        None
    };
    if kept_until.is_some() || (row.zone.regime == turn.regime && !is_kept) {
        let message = format!("{} is so already", row.zone.name);
        return Err(ApiError::Conflict(message));
    }
    if is_kept && from != today {
        let message = "that it is kept green is decided today";
        return Err(Invalid::new("from", message).into());
    }
    let ledgers = stress::ledgers(&mut tx, access.site, &document, today).await?;
    let last = ledgers.get(&id).and_then(|days| days.last());
    let proposal = last.and_then(|day| day.proposes_beside(row.zone.regime));
    let proposal = proposal.filter(|proposes| proposes.regime() == turn.regime && from == today);
    let zone = if is_kept {
        row.zone
    } else {
        let zone = row.zone.in_regime(turn.regime, from)?;
        zones::update(&mut *tx, id, &zone, from).await?;
        zone
    };
    let change = NewChange {
        zone: id,
        regime: turn.regime,
        from,
        proposal,
        note,
        account: access.account,
        said_at: now,
    };
    regimes::add(&mut *tx, &change).await?;
    let event = Event::RegimeTurned {
        zone: zone.name,
        regime: turn.regime,
        from,
        proposed: proposal.is_some(),
    };
    history::note(&mut *tx, access.site, access.account, &event).await?;
    planning::replan(&mut tx, access.site).await?;
    tx.commit().await?;
    Ok(HttpResponse::NoContent().finish())
}

/// The morning from which the new grass of a zone is a lawn.
async fn lawn_from(
    db: &mut PgConnection,
    document: &SiteDocument,
    zone: ZoneId,
    today: Date,
) -> sqlx::Result<Option<Date>> {
    let span = ZoneSpan {
        zone,
        from: today.yesterday().unwrap_or(today),
        before: today,
    };
    let days = ledgers::zone_days(db, &[span]).await?.remove(&zone);
    let id = zone.0.to_string();
    let kept = document.zones.iter().find(|kept| kept.id == id);
    Ok(kept.and_then(|kept| stages::lawn_from(document, kept, &days.unwrap_or_default(), today)))
}
