//! Bringing what is published to a site's controller, and what that tells into the record. All of it may be tried again at any time: the controller knows
//! publications by their number, and its log counts its lines.

use std::collections::{BTreeMap, BTreeSet};

use jiff::{SignedDuration, Timestamp};
use lawn::engine::history::ZoneHistory;
use lawn::record::programme::ProgrammeRun;
use lawn::record::told_of_pass::{self, Says, Sent};
use sqlx::PgConnection;

use crate::clock;
use crate::controller_service::{
    ControllerService, Heard, Kind, Pass, Programme, Refusal, Valve, pass_id,
};
use crate::db::controller_doubts;
use crate::db::controllers::{self, Taken};
use crate::db::history::{self, Event};
use crate::db::publications::PublicationRow;
use crate::db::{self, Db, SiteId};
use crate::outside::Unusable;
use crate::planning::{self, Failure};

/// A pass is sent so long after its start: what is published as a window opens takes a moment to come. The controller begins it at once and ends it in time (no
/// source).
const LATE: SignedDuration = SignedDuration::from_secs(120);

/// Hears a site's controller, and lets it hold what is published; replans where it told something new. `Ok(Some(_))`: why that did not come about; it is noted, and
/// tried again later.
///
/// # Errors
/// [`Failure`]: the database.
pub async fn attend(
    db: &Db,
    service: &ControllerService,
    id: SiteId,
) -> Result<Option<Unusable>, Failure> {
    let pool = db.pool();
    let Some(link) = controllers::get(pool, id).await? else {
        return Ok(None);
    };
    let site = db::sites::get(pool, id).await?;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    // No transaction is open while another machine is asked.
    let heard = match service
        .heard(id, now, link.last_number, link.log_id.as_deref())
        .await
    {
        Ok(heard) => heard,
        Err(unusable) => return failed(db, id, unusable).await,
    };
    let mut tx = db.write(id).await?;
    keep(&mut tx, id, &heard, now).await?;
    controllers::heard(&mut *tx, id, heard.holds, now).await?;
    let taken = controllers::take_in(&mut tx, id, today).await?;
    if !taken.is_empty() {
        note_missed(&mut tx, id, &taken).await?;
        planning::replan(&mut tx, id).await?;
    }
    tx.commit().await?;

    let published = db::publications::of_site(pool, id).await?;
    let wanted = published.filter(|p| p.last_day >= today);
    let held = match (&wanted, heard.holds) {
        (Some(wanted), holds) if holds != Some(wanted.id) => {
            let programme = programme(db, id, wanted, now).await?;
            service.put(id, wanted.id, &programme, now).await
        }
        // Its days are over: it has nothing left to run.
        (None, Some(held)) if !is_over(db, id, held).await? => {
            service.drop_programme(id, held, now).await.map(|()| None)
        }
        (_, holds) => Ok(holds),
    };
    match held {
        Ok(holds) => {
            controllers::settled(pool, id, holds).await?;
            Ok(None)
        }
        Err(unusable) => failed(db, id, unusable).await,
    }
}

/// Keeps what was heard: what cannot be so of the passes that were sent is left out, and said.
async fn keep(
    db: &mut PgConnection,
    id: SiteId,
    heard: &Heard,
    now: Timestamp,
) -> sqlx::Result<()> {
    if heard.is_new_log {
        controllers::begin_log(&mut *db, id, heard.log.as_deref()).await?;
    } else if let Some(log) = &heard.log {
        controllers::name_log(&mut *db, id, log).await?;
    }
    let publications: BTreeSet<i64> = heard.lines.iter().map(|line| line.publication).collect();
    let publications: Vec<i64> = publications.into_iter().collect();
    let sent = controllers::sent(&mut *db, id, &publications).await?;
    let mut refused = heard.refused.clone();
    let mut told = Vec::new();
    for line in &heard.lines {
        // What was never sent is another's.
        let key = (line.publication, line.zone.0, line.starts);
        let Some(seconds) = sent.get(&key).copied() else {
            continue;
        };
        let sent = Sent {
            starts: line.starts,
            seconds,
        };
        let says = match line.kind {
            Kind::Stopped(seconds) => Says::Stopped(seconds),
            Kind::Pulses(volume) => Says::Flowed(volume),
            Kind::Started | Kind::Missed | Kind::Fault(_) => Says::Happened,
        };
        match told_of_pass::check(sent, line.at, says, now) {
            Ok(()) => told.push(*line),
            Err(why) => refused.push(Refusal {
                number: Some(line.number),
                why,
            }),
        }
    }
    controllers::tell(&mut *db, id, &told, heard.last_number).await?;
    if !refused.is_empty() {
        controller_doubts::refuse(db, id, &refused).await?;
    }
    Ok(())
}

/// Notes in the history what the controller did not run: nobody did it, and it may change the plan.
async fn note_missed(db: &mut PgConnection, id: SiteId, taken: &[Taken]) -> sqlx::Result<()> {
    let zones = db::zones::of_site(&mut *db, id).await?;
    for run in taken.iter().filter(|run| run.passes < run.planned_passes) {
        let zone = zones.iter().find(|z| z.id == run.zone);
        let event = Event::PassesMissed {
            zone: zone.map(|z| z.zone.name.clone()).unwrap_or_default(),
            date: run.date,
            passes: run.passes,
            planned: run.planned_passes,
        };
        history::note_by_rule(&mut *db, id, &event).await?;
    }
    Ok(())
}

async fn failed(db: &Db, id: SiteId, unusable: Unusable) -> Result<Option<Unusable>, Failure> {
    controllers::failed(db.pool(), id, &unusable.to_string()).await?;
    Ok(Some(unusable))
}

/// Whether what a controller holds is the newest publication, not withdrawn, whose days are over.
async fn is_over(db: &Db, id: SiteId, held: i64) -> Result<bool, Failure> {
    let newest = db::publications::of_site(db.pool(), id).await?;
    Ok(newest.is_some_and(|p| p.id == held))
}

/// What a controller is to hold of a publication: what of it is in force on the clock and has not gone by.
async fn programme(
    db: &Db,
    id: SiteId,
    published: &PublicationRow,
    now: Timestamp,
) -> Result<Programme, Failure> {
    let mut connection = db.pool().acquire().await?;
    let mut programmes = db::programmes::of_plans(&mut *connection, &[published.plan]).await?;
    let week = lawn::record::published::Published {
        programme: programmes.remove(&published.plan).unwrap_or_default(),
        from: published.from,
        last: published.last_day,
    };
    let (document, today) = planning::as_measured(&mut connection, id).await?;
    let runs = week.in_force().runs;
    let passes = runs.iter().flat_map(|run| passes(published.id, run));
    let valves = document.zones.iter().map(|zone| {
        let history = ZoneHistory::of(&document, zone);
        Valve {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            flow_l_min: history.on(today).model.flow_l_min,
        }
    });
    let valves: BTreeMap<String, Valve> = valves.map(|v| (v.zone.clone(), v)).collect();
    let late = now.saturating_sub(LATE).unwrap_or(now);
    let passes: Vec<Pass> = passes.filter(|pass| pass.starts > late).collect();
    let used = passes.iter().filter_map(|pass| valves.get(&pass.zone));
    let used: BTreeMap<&str, Valve> = used.map(|v| (v.zone.as_str(), v.clone())).collect();
    Ok(Programme {
        from: published.from,
        valves: used.into_values().collect(),
        passes,
    })
}

/// The passes of a run on the clock; what a person waters has none.
fn passes(publication: i64, run: &ProgrammeRun) -> impl Iterator<Item = Pass> {
    run.starts.iter().map(move |starts| Pass {
        id: pass_id(publication, &run.zone, *starts),
        zone: run.zone.clone(),
        starts: *starts,
        seconds: run.pass_s,
    })
}
