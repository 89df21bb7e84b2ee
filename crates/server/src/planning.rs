//! Replanning a site: settle what the plan in force has run and held by now, then plan again from what is known.

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use lawn::days;
use lawn::site::SiteDocument;
use lawn::site::calendar;
use lawn::site::document::{FORMAT, VERSION};
use lawn::sourced::{Source, Sourced};
use lawn::view::changes::{Deed, changes_with_causes};
use lawn::view::plan::{DryDay, Error, Known, RainHold, Run, plan_week};
use lawn::view::reason::Reason;
use lawn::view::week_plan::WeekPlan;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use sqlx::PgConnection;
use thiserror::Error as ThisError;

use crate::db::history::Event;
use crate::db::plans::NewPlan;
use crate::db::runs::{NewHold, NewRun};
use crate::db::sites::SiteRow;
use crate::db::sprinkler_tests::{self, TestRow};
use crate::db::zones::ZoneRow;
use crate::db::{self, SiteId, ZoneId};
use crate::{clock, site_day};

/// A defect while replanning; bad input was refused before it was stored.
#[derive(Debug, ThisError)]
pub enum Failure {
    /// The database.
    #[error(transparent)]
    Database(#[from] sqlx::Error),
    /// Stored input that no longer holds.
    #[error("stored input does not plan: {0}")]
    Stored(String),
}

/// Days that holds for rain are remembered by a plan.
const HELD_BACK: i64 = 30;
/// The site document of stored rows.
#[must_use]
pub fn document(site: &SiteRow, zones: &[ZoneRow]) -> SiteDocument {
    SiteDocument {
        format: FORMAT.to_owned(),
        version: VERSION,
        site: site.site.clone(),
        windows: site.windows.clone(),
        supply: site.supply.clone(),
        zones: zones.iter().map(|z| z.zone.clone()).collect(),
    }
}

/// Puts what tests measured in the place of handbook figures, and of figures typed before the test.
pub fn apply_tests(document: &mut SiteDocument, tests: &[TestRow]) {
    for counting in sprinkler_tests::counting(tests) {
        let id = counting.zone.0.to_string();
        let Some(zone) = document.zones.iter_mut().find(|z| z.id == id) else {
            continue;
        };
        let (rate, evenness) = (counting.rate, counting.evenness);
        if !is_newer(zone.rate_mm_h.as_ref(), rate.date)
            && let Some(measured) = rate.result.rate()
        {
            zone.rate_mm_h = Some(measured);
        }
        if let Some(test) = evenness
            && !is_newer(zone.evenness_du_lq.as_ref(), test.date)
            && let Some(measured) = test.result.evenness()
        {
            zone.evenness_du_lq = Some(measured);
        }
    }
}

/// Whether a figure was measured after a date.
fn is_newer<T>(figure: Option<&Sourced<T>>, than: Date) -> bool {
    figure.is_some_and(|f| matches!(f.source, Source::Measured { date, .. } if date > than))
}

/// Settles and replans within the caller's transaction, at the site's instant; the site's row must be locked. `None` while there is no
/// weather yet. Sets the site's next event. What computes does so on the blocking pool: other requests go on meanwhile.
///
/// # Errors
/// [`Failure`].
pub async fn replan(db: &mut PgConnection, id: SiteId) -> Result<Option<i64>, Failure> {
    let site = db::sites::get(&mut *db, id).await?;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    // A window that has opened is left as it was planned: its runs count, and nothing is planned into what remains of it.
    let mut from = now;
    if let Some((plan, result)) = db::plans::newest(&mut *db, id).await? {
        let settled = computed(move || {
            let week = read(&result)?;
            let until = open_window(&week, now).unwrap_or(now);
            settle(plan, &week, now, until).map(|(begun, held)| (until, begun, held))
        })
        .await?;
        let (until, begun, held) = settled?;
        from = until;
        if !begun.is_empty() {
            db::runs::assume(&mut *db, &begun).await?;
        }
        if !held.is_empty() {
            db::runs::hold(&mut *db, &held).await?;
        }
    }
    let zones = db::zones::of_site(&mut *db, id).await?;
    let mut document = document(&site, &zones);
    apply_tests(
        &mut document,
        &db::sprinkler_tests::of_site(&mut *db, id).await?,
    );
    let yesterday = today
        .yesterday()
        .map_err(|e| Failure::Stored(e.to_string()))?;
    let observed = db::weather::days(&mut *db, id, days::FIRST, yesterday).await?;
    let forecast = db::weather::forecast(&mut *db, id, today).await?;
    let runs = db::runs::of_site(&mut *db, id).await?;
    let holds = db::runs::holds(&mut *db, id, today.saturating_sub(HELD_BACK.days())).await?;
    let dry_days = db::dry_days::of_site(&mut *db, id, today).await?;
    if let Some(next) = site_day::next_event(&document, now) {
        db::sites::set_next_event(&mut *db, id, next).await?;
    }
    let inputs = serde_json::json!({
        "site_version": site.version,
        "weather_version": site.weather_version,
        "zones": zones.iter().map(|z| (z.id.0, z.version)).collect::<Vec<_>>(),
        "runs": runs.len(),
        "holds": holds.len(),
        "dry_days": dry_days.len(),
    });
    let before = db::plans::before(&mut *db, id, today).await?;
    let deeds = match &before {
        Some((_, made_at)) => db::history::since(&mut *db, id, *made_at).await?,
        None => Vec::new(),
    };
    let before = before.map(|(plan, _)| plan);
    let facts = Facts {
        document,
        observed: observed.into_iter().map(|d| d.day).collect(),
        forecast,
        runs,
        holds: holds.iter().map(RainHold::from).collect(),
        dry_days: dry_days.iter().map(DryDay::from).collect(),
        today,
        now,
        from,
        before,
        deeds: deeds.into_iter().filter_map(Event::deed).collect(),
    };
    let Some(plan) = computed(move || facts.plan()).await?? else {
        return Ok(None);
    };
    let id = db::plans::insert(&mut *db, id, now, &plan, &inputs).await?;
    Ok(Some(id))
}

/// When the window closes in which a run of a day begins; `None` where it begins outside any.
#[must_use]
pub fn window_end(
    site: &SiteRow,
    zones: &[ZoneRow],
    date: Date,
    starts: Timestamp,
) -> Option<Timestamp> {
    let zone = site.site.zone().ok()?;
    let days = calendar::days(&document(site, zones), &zone, date, 1);
    let at = starts.as_second();
    let window = days
        .first()?
        .windows
        .iter()
        .find(|w| w.start_s <= at && at < w.end_s)?;
    Timestamp::from_second(window.end_s).ok()
}

/// Runs a computation on the blocking pool.
async fn computed<T: Send + 'static>(
    work: impl FnOnce() -> T + Send + 'static,
) -> Result<T, Failure> {
    tokio::task::spawn_blocking(work)
        .await
        .map_err(|e| Failure::Stored(format!("the computation broke off: {e}")))
}

/// All that a plan is a function of.
struct Facts {
    document: SiteDocument,
    observed: Vec<WeatherDay>,
    forecast: Vec<WeatherDay>,
    runs: Vec<Run>,
    holds: Vec<RainHold>,
    dry_days: Vec<DryDay>,
    today: Date,
    now: Timestamp,
    /// The end of an open window, or now.
    from: Timestamp,
    /// The last plan of the day before.
    before: Option<String>,
    /// What people did since.
    deeds: Vec<Deed>,
}

impl Facts {
    /// The plan and what it changes; `None` while there is no weather.
    fn plan(&self) -> Result<Option<NewPlan>, Failure> {
        let observed = daily(&self.document, &[], &self.observed);
        let known = Known {
            document: &self.document,
            observed: &observed,
            forecast: &daily(&self.document, &observed, &self.forecast),
            runs: &self.runs,
            holds: &self.holds,
            dry_days: &self.dry_days,
            today: self.today,
            now: Some(self.now),
            committed: (self.from > self.now).then_some(self.from),
        };
        let plan = match plan_week(&known) {
            Ok(plan) => plan,
            Err(Error::NoWeather { .. }) => return Ok(None),
            Err(error @ Error::Site(_)) => return Err(Failure::Stored(error.to_string())),
        };
        let changes = match &self.before {
            Some(before) => changes_with_causes(&read(before)?, &plan, &self.deeds),
            None => Vec::new(),
        };
        let text =
            |json: serde_json::Result<String>| json.map_err(|e| Failure::Stored(e.to_string()));
        Ok(Some(NewPlan {
            today: plan.today,
            result: text(serde_json::to_string(&plan))?,
            changes: text(serde_json::to_string(&changes))?,
        }))
    }
}

/// Daily weather that goes on from earlier days, gaps filled by the stated policy; empty where no day has temperatures.
fn daily(
    document: &SiteDocument,
    before: &[DailyWeather],
    days: &[WeatherDay],
) -> Vec<DailyWeather> {
    weather::continued(&weather::place(&document.site), before, days, Gaps::Fill)
        .unwrap_or_default()
}

fn read(plan: &str) -> Result<WeekPlan, Failure> {
    serde_json::from_str(plan).map_err(|e| Failure::Stored(e.to_string()))
}

/// When the window closes that has opened before an instant and is still open, as the plan in force has it.
fn open_window(plan: &WeekPlan, now: Timestamp) -> Option<Timestamp> {
    plan.days
        .iter()
        .flat_map(|day| &day.windows)
        .find(|w| w.opens < now && now < w.closes)
        .map(|w| w.closes)
}

/// What a plan runs before an instant (the end of an open window, or now), and where it held for rain: controllers run their programme
/// unless a person says otherwise.
fn settle(
    plan_id: i64,
    plan: &WeekPlan,
    now: Timestamp,
    before: Timestamp,
) -> Result<(Vec<NewRun>, Vec<NewHold>), Failure> {
    let (mut begun, mut held) = (Vec::new(), Vec::new());
    for zone in &plan.zones {
        let Ok(zone_id) = zone.zone.parse().map(ZoneId) else {
            continue;
        };
        for (cell, day) in zone.cells.iter().zip(&plan.days) {
            let over = day.windows.last().is_some_and(|w| w.closes <= now);
            let hold = cell
                .reasons
                .iter()
                .find(|r| matches!(r, Reason::HeldForRain { .. }));
            if let Some(reason) = hold
                && over
            {
                held.push(NewHold {
                    zone: zone_id,
                    date: cell.date,
                    plan: plan_id,
                    figures: serde_json::to_value(reason)
                        .map_err(|e| Failure::Stored(e.to_string()))?,
                });
            }
            let Some(run) = &cell.run else { continue };
            let (started_at, passes) = if run.starts.is_empty() {
                // By hand, at any allowed hour: counted once the day's last window is over.
                match (day.windows.first(), day.windows.last()) {
                    (Some(first), Some(last)) if last.closes <= now => (first.opens, run.passes),
                    _ => continue,
                }
            } else {
                let passes = run.starts.iter().filter(|s| **s < before).count();
                (run.starts[0], u32::try_from(passes).unwrap_or(u32::MAX))
            };
            if passes > 0 {
                // By hand, all of it is counted once the day's windows are over.
                let last = run.starts.last().copied().unwrap_or(started_at);
                let planned_end = last.saturating_add(run.pass_s.seconds()).unwrap_or(last);
                begun.push(NewRun {
                    zone: zone_id,
                    date: cell.date,
                    started_at,
                    passes,
                    pass_s: run.pass_s,
                    planned_passes: run.passes,
                    planned_end,
                    plan: Some(plan_id),
                });
            }
        }
    }
    Ok((begun, held))
}
