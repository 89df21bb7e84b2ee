use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::civil::Date;
use lawn::new_grass::stages::{Stages, mornings, stages};
use lawn::new_grass::stand::{Stand, stand};
use lawn::quantity::Area;
use lawn::ranges;
use lawn::record::past::PastDay;
use lawn::site::{Invalid, Regime};
use lawn::stress::repair::{SowBy, sow_by};
use science::turf::Grass;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::PAST_YEARS;
use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::ledgers::{self, ZoneSpan};
use crate::db::{Db, ZoneId, stand_counts};
use crate::http::error::{ApiError, Problem};
use crate::http::query::Asked;
use crate::{past_year, planning, stress};

/// What feedings are computed from.
#[derive(Debug, Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
#[serde(deny_unknown_fields)]
pub(in crate::api) struct Feeding {
    /// Share of the starter's nitrogen that is slow-release, %; absent: none.
    slow_pct: Option<f64>,
}

/// Zones with new grass, and those that could be sown.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct NewGrassView {
    /// The site's day.
    today: Date,
    /// Zones of turf that exist today, in the site's order.
    zones: Vec<NewGrassZone>,
}

/// A zone of turf.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct NewGrassZone {
    zone: ZoneId,
    name: String,
    grass: Grass,
    #[schema(value_type = f64)]
    area_m2: Area,
    regime: Regime,
    /// Where it is new grass: how far it is, and what comes.
    stages: Option<Stages>,
    /// Until when its grass is sown this year; absent: it has no seed.
    sow_by: Option<SowBy>,
    /// The newest count of its seedlings; absent: nobody counted.
    stand: Option<StandView>,
}

/// A count, and what it tells.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct StandView {
    id: i64,
    who: Option<String>,
    stand: Stand,
}

/// New grass: how far each zone is that has some, until when each grass is sown this year, and the newest counts of seedlings.
#[utoipa::path(tag = "new grass", operation_id = "show_new_grass", params(("site" = i64, Path), Feeding), responses(
    (status = 200, description = "The zones of turf that exist today", body = NewGrassView),
    (status = 404, description = "No such site here", body = Problem),
    (status = 422, description = "The share does not hold", body = Problem)))]
#[get("/sites/{site}/new-grass")]
pub(in crate::api) async fn show_new_grass(
    access: Access<Read>,
    Asked(feeding): Asked<Feeding>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<NewGrassView>, ApiError> {
    let slow_pct = feeding.slow_pct.unwrap_or(0.0);
    Invalid::unless_within("slow_pct", ranges::SLOW_RELEASE, slow_pct)?;
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let there = document
        .zones
        .iter()
        .filter(|zone| zone.plants.is_turf() && zone.is_active(today));
    let there: Vec<_> = there
        .filter_map(|zone| Some((ZoneId(zone.id.parse().ok()?), zone.clone())))
        .collect();
    let new = there.iter().filter(|(_, zone)| zone.regime.is_new_grass());
    let spans: Vec<ZoneSpan> = new
        .map(|(id, zone)| ZoneSpan {
            zone: *id,
            from: zone.sown_on.unwrap_or(lawn::days::FIRST),
            before: today,
        })
        .collect();
    let days = ledgers::zone_days(&mut *db, &spans).await?;
    let mut counts = stand_counts::newest(&mut *db, access.site).await?;
    let ahead = stress::weather_ahead(&mut db, access.site, &document, today).await?;
    let told = past_year::told_of(&mut db, access.site, today, PAST_YEARS).await?;
    drop(db);
    let view = computed(move || {
        let record = past_year::series(&document, &told);
        let latitude = document.site.latitude;
        let none: Vec<PastDay> = Vec::new();
        let zones = there.into_iter().map(|(id, kept)| {
            let zone = kept.on(today);
            let began = mornings(&document, &kept, days.get(&id).unwrap_or(&none), today);
            let by = zone
                .grass
                .seed()
                .map(|seed| sow_by(&seed, latitude, &record, today));
            NewGrassZone {
                zone: id,
                stages: stages(zone.grass, &began, &ahead, &record, slow_pct),
                sow_by: by,
                stand: counts.remove(&id).map(|row| StandView {
                    id: row.id,
                    who: row.who,
                    stand: stand(
                        (zone.grass, zone.new_grass_as),
                        zone.area_m2,
                        row.count,
                        by,
                        today,
                    ),
                }),
                grass: zone.grass,
                area_m2: zone.area_m2,
                regime: zone.regime,
                name: zone.name,
            }
        });
        NewGrassView {
            today,
            zones: zones.collect(),
        }
    });
    Ok(Json(view.await?))
}
