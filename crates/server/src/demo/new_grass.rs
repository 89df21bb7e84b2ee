//! New grass: until yesterday the crew watered it by hand at each slot at which the plan asked for it.

use jiff::Timestamp;
use jiff::civil::Date;
use lawn::record::said::Said;
use lawn::record::watered::Watered;
use lawn::view::week_plan::{PlanWindow, WeekPlan};
use sqlx::PgConnection;

use super::{Error, defect};
use crate::db::history::Event;
use crate::db::runs::ByHand;
use crate::db::{self, AccountId, SiteId, ZoneId};

/// Notes what is due in a slot that is open, before a day.
pub(super) async fn water(
    db: &mut PgConnection,
    site: SiteId,
    crew: AccountId,
    now: Timestamp,
    before: Date,
) -> Result<(), Error> {
    let Some(newest) = db::plans::newest(&mut *db, site).await? else {
        return Ok(());
    };
    let text = db::plans::text(&mut *db, site, newest.id).await?;
    let text = text.ok_or_else(|| defect("no plan"))?;
    let plan: WeekPlan = serde_json::from_str(&text.result).map_err(defect)?;
    if plan.today >= before {
        return Ok(());
    }
    let zones = plan.zones.iter();
    for zone in zones.filter(|zone| zone.new_grass.is_some() && zone.by_hand) {
        let cell = zone.cells.iter().find(|cell| cell.date == plan.today);
        let runs = cell.into_iter().flat_map(|cell| cell.runs());
        let is_open = |window: &PlanWindow| window.opens <= now && now < window.closes;
        for run in runs.filter(|run| is_open(&run.window)) {
            let key = format!("demo-new-grass-{}", now.as_second());
            let by_hand = ByHand {
                zone: ZoneId(zone.zone.parse().map_err(defect)?),
                date: plan.today,
                started_at: now,
                seconds: i32::try_from(run.run_s).map_err(defect)?,
                source: Said::Hand,
                watered: Watered::all(),
                account: crew,
                idempotency_key: &key,
            };
            if db::runs::add(&mut *db, &by_hand).await?.is_some() {
                let event = Event::RunAdded {
                    zone: zone.name.clone(),
                    date: plan.today,
                    seconds: run.run_s,
                    source: Said::Hand.name().to_owned(),
                };
                db::history::note(&mut *db, site, crew, &event).await?;
            }
        }
    }
    Ok(())
}
