use actix_web::get;
use actix_web::web::{Data, Json};
use jiff::{Timestamp, ToSpan};
use lawn::measure::sprinkler::SprinklerTest;
use lawn::record::findings::Finding;
use lawn::record::flow_findings::standing;
use lawn::record::flow_watch::Named;
use lawn::record::watching::metered_test;
use serde::Serialize;
use utoipa::ToSchema;

use crate::api::access::{Access, Read};
use crate::computing::{Turns, computed};
use crate::db::meters::MeterId;
use crate::db::{Db, ZoneId};
use crate::http::error::{ApiError, Problem};
use crate::{flow, planning, water_book};

/// Days that meters are looked back over by their readings.
const LOOKED_BACK: i64 = 60;

/// What meters say beside the runs.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct Findings {
    /// By their readings.
    readings: Vec<Finding>,
    /// By what they count each minute, the most water first.
    flow: Vec<FlowFindingView>,
}

/// What a flow meter says.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct FlowFindingView {
    meter: MeterId,
    meter_name: String,
    /// The zone that it is about.
    zone: Option<ZoneId>,
    zone_name: Option<String>,
    named: Named,
    since: Timestamp,
    /// Water of the last seven days that it explains, L; below 0: what is missing.
    litres_a_week: f64,
    /// Where the zone's rate is another than the site says: what its last passes took, as a quick test by the meter that a person may take.
    offers: Option<MeteredTest>,
    /// What that costs at the price of the next water; `null`: no price is known.
    cost_a_week: Option<f64>,
}

/// A quick test that the meter has done by itself.
#[derive(Debug, Serialize, ToSchema)]
pub(in crate::api) struct MeteredTest {
    /// The test, to be sent as it is.
    test: SprinklerTest,
    /// The rate that it tells.
    rate_mm_h: f64,
}

/// Where meters do not agree with what ran: by their readings of the last two months, and by their flow.
#[utoipa::path(tag = "water book", operation_id = "show_findings", params(("site" = i64, Path)), responses(
    (status = 200, description = "The findings", body = Findings),
    (status = 404, description = "No such site here", body = Problem)))]
#[get("/sites/{site}/findings")]
pub(in crate::api) async fn show_findings(
    access: Access<Read>,
    db: Data<Db>,
    turns: Data<Turns>,
) -> Result<Json<Findings>, ApiError> {
    let _turn = turns.take(access.account, access.site).await?;
    let mut db = db.pool().acquire().await?;
    let (document, today) = planning::as_measured(&mut db, access.site).await?;
    let from = today.saturating_sub(LOOKED_BACK.days());
    let pages = water_book::read(&mut db, access.site, document.clone(), from, today).await?;
    let kept = flow::read(&mut db, access.site, &document, today, today).await?;
    let found = computed(move || {
        let price = document.site.price_per_m3;
        let of_flow = kept.iter().flat_map(|kept| {
            let document = &document;
            let days = kept.days();
            let standing = standing(&days, today);
            standing.into_iter().map(move |standing| {
                let place = standing.named.zone();
                let zone = place.and_then(|place| document.zones.get(place));
                let wrong_rate = matches!(standing.named, Named::WrongRate { .. });
                let test = zone.filter(|_| wrong_rate).zip(place);
                let test = test.and_then(|(zone, place)| metered_test(&days, place, zone.area_m2));
                FlowFindingView {
                    offers: test.map(|test| MeteredTest {
                        rate_mm_h: test.rate_mm_h(),
                        test: SprinklerTest::Quick(test),
                    }),
                    meter: kept.id,
                    meter_name: kept.meter.name.clone(),
                    zone: zone.and_then(|zone| zone.id.parse().ok()).map(ZoneId),
                    zone_name: zone.map(|zone| zone.name.clone()),
                    named: standing.named,
                    since: standing.since,
                    litres_a_week: standing.litres_a_week.l(),
                    cost_a_week: price.map(|p| standing.litres_a_week.cost_at(p)),
                }
            })
        });
        Findings {
            flow: of_flow.collect(),
            readings: pages.findings(),
        }
    });
    Ok(Json(found.await?))
}
