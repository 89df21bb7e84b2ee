use std::collections::BTreeMap;
use std::sync::Arc;

use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::civil::Date;
use lawn::quantity::Area;
use lawn::site::{Regime, SiteDocument, Zone};
use lawn::stress::dormancy::Day;
use lawn::stress::recovery::{Recovery, is_early, recovery, sown_unjudged};
use lawn::stress::repair::{Look, Repair, Sow, SowBy, State, repair, sow, sow_by, telling};
use lawn::weather::DailyWeather;
use science::turf::Grass;
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::patches::{self, LookRow, PatchRow};
use crate::db::{Db, ZoneId};
use crate::http::error::{ApiError, Problem};
use crate::{past_year, planning, stress};

/// Past years whose frosts are read.
const PAST_YEARS: i64 = 30;

/// Zones that wake or have patches.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct RecoveryView {
    /// The site's day.
    today: Date,
    /// In the site's order; those that neither wake nor have patches too, to note one.
    zones: Vec<ZoneRecovery>,
    /// Seed for what is open and dead, by grass.
    seed: Vec<SeedNeeded>,
}

/// Seed of a grass.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct SeedNeeded {
    grass: Grass,
    kg: f64,
}

/// How a zone recovers.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct ZoneRecovery {
    zone: ZoneId,
    name: String,
    grass: Grass,
    regime: Regime,
    /// Where it woke this season.
    recovery: Option<Recovery>,
    /// Until when its grass is sown; absent: it has no seed.
    sow_by: Option<SowBy>,
    /// The last day of sowing where it comes before dead is told from asleep: what shows no green by then is sown without waiting.
    sow_unjudged_by: Option<Date>,
    /// Open ones first, then as they were noted.
    patches: Vec<PatchView>,
}

/// A patch.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct PatchView {
    id: i64,
    name: String,
    #[schema(value_type = f64)]
    area_m2: Area,
    noted_on: Date,
    state: State,
    /// When that was seen.
    seen_on: Option<Date>,
    /// Whether that was before dead can be told from asleep: look again.
    is_early: bool,
    repaired_on: Option<Date>,
    /// Of a dead one that is open: what closes it.
    repair: Option<Repair>,
    /// Of one that is sown: whether there is time to spray first.
    sow: Option<Sow>,
    /// Oldest first.
    looks: Vec<LookView>,
}

/// A look at a patch.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct LookView {
    id: i64,
    date: Date,
    state: State,
    who: Option<String>,
    /// Whether it has a photo.
    photo: bool,
}

impl From<&LookRow> for LookView {
    fn from(row: &LookRow) -> Self {
        Self {
            id: row.id,
            date: row.date,
            state: State::of(row.holds, row.alive),
            who: row.who.clone(),
            photo: row.photo,
        }
    }
}

/// Zones that wake from a drought: what is done when, from when on dead is told from asleep, the patches with what closes each and until when.
#[utoipa::path(tag = "stress", operation_id = "show_recovery", params(("site" = i64, Path)), responses(
    (status = 200, description = "The zones that exist today", body = RecoveryView),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/recovery")]
pub(in crate::api) async fn show_recovery(
    access: Access<Read>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<RecoveryView>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let ledgers = stress::ledgers(&mut db, access.site, &document, today).await?;
    let rows = patches::of_site(&mut *db, access.site, None).await?;
    let looks = patches::looks(&mut *db, access.site).await?;
    let told = past_year::told_of(&mut db, access.site, today, PAST_YEARS).await?;
    drop(db);
    let view = computed(move || {
        let record = past_year::series(&document, &told);
        let stored = Stored {
            document: &document,
            record: &record,
            ledgers: &ledgers,
            rows: &rows,
            looks: &looks,
        };
        stored.view(today)
    });
    Ok(Json(view.await?))
}

struct Stored<'a> {
    document: &'a Arc<SiteDocument>,
    record: &'a [DailyWeather],
    ledgers: &'a BTreeMap<ZoneId, Vec<Day>>,
    rows: &'a [PatchRow],
    looks: &'a [LookRow],
}

impl Stored<'_> {
    fn view(&self, today: Date) -> RecoveryView {
        let there = self
            .document
            .zones
            .iter()
            .filter(|zone| zone.plants.is_turf() && zone.is_active(today));
        let zones: Vec<ZoneRecovery> = there.filter_map(|zone| self.zone(zone, today)).collect();
        let mut seed: Vec<SeedNeeded> = Vec::new();
        for zone in &zones {
            let open = zone.patches.iter().filter_map(|patch| patch.repair);
            let kg: f64 = open.filter_map(|repair| repair.seed_kg).sum();
            match seed.iter_mut().find(|needed| needed.grass == zone.grass) {
                Some(needed) => needed.kg += kg,
                None if kg > 0.0 => seed.push(SeedNeeded {
                    grass: zone.grass,
                    kg,
                }),
                None => {}
            }
        }
        RecoveryView { today, zones, seed }
    }

    fn zone(&self, zone: &Zone, today: Date) -> Option<ZoneRecovery> {
        let id = ZoneId(zone.id.parse().ok()?);
        let ledger = self.ledgers.get(&id).map_or(&[][..], Vec::as_slice);
        let recovery = recovery(ledger, zone.regime, today);
        let latitude = self.document.site.latitude;
        let by = zone.grass.seed();
        let by = by.map(|seed| sow_by(&seed, latitude, self.record, today));
        let own = self.rows.iter().filter(|row| row.zone == id);
        let mut patches: Vec<PatchView> = own
            .map(|row| self.patch(row, zone, recovery.as_ref(), by, today))
            .collect();
        patches.sort_by_key(|patch| patch.repaired_on.is_some());
        Some(ZoneRecovery {
            zone: id,
            name: zone.name.clone(),
            grass: zone.grass,
            regime: zone.regime,
            sow_unjudged_by: (recovery.as_ref().zip(by))
                .and_then(|(recovery, by)| sown_unjudged(recovery, by)),
            recovery,
            sow_by: by,
            patches,
        })
    }

    fn patch(
        &self,
        row: &PatchRow,
        zone: &Zone,
        recovery: Option<&Recovery>,
        by: Option<SowBy>,
        today: Date,
    ) -> PatchView {
        let own = self.looks.iter().filter(|look| look.patch == row.id);
        let looks: Vec<LookView> = own.map(LookView::from).collect();
        let told: Vec<Look> = looks
            .iter()
            .map(|look| Look {
                date: look.date,
                state: look.state,
            })
            .collect();
        let telling = telling(&told);
        let state = telling.map_or(State::Unjudged, |look| look.state);
        let repair = (state == State::Dead && row.repaired_on.is_none())
            .then(|| repair(zone.grass, row.area));
        PatchView {
            id: row.id,
            name: row.name.clone(),
            area_m2: row.area,
            noted_on: row.noted_on,
            state,
            seen_on: telling.map(|look| look.date),
            is_early: telling.is_some_and(|look| is_early(zone.regime, recovery, look.date)),
            repaired_on: row.repaired_on,
            sow: repair
                .filter(|repair| repair.seed_kg.is_some())
                .and(by)
                .map(|by| sow(by, today)),
            repair,
            looks,
        }
    }
}
