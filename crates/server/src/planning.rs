//! Replanning a site: settle what the plan in force has run and held by now, then plan again from what is known.

use std::collections::BTreeMap;
use std::fmt::Write;

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use lawn::record::programme::Programme;
use lawn::site::counting::ZoneTest;
use lawn::site::document::{FORMAT, VERSION};
use lawn::site::{SiteDocument, calendar, events};
use lawn::view::changes::{Deed, changes_with_causes};
use lawn::view::plan::{DryDay, Error, Known, RainHold, plan_from};
use lawn::view::week_plan::VERSION as VERSION_OF_PLANS;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use serde::Serialize;
use serde_json::Value;
use sha2::{Digest, Sha256};
use sqlx::PgConnection;

use crate::clock;
pub use crate::computing::Failure;
use crate::computing::computed;
use crate::db::history::Event;
use crate::db::plans::NewPlan;
use crate::db::runs::NewRun;
use crate::db::sites::SiteRow;
use crate::db::zones::ZoneRow;
use crate::db::{self, SiteId, ZoneId};
use crate::ledger::{self, Kept};

/// The version of a plan's form.
pub const PLAN_VERSION: i32 = VERSION_OF_PLANS.cast_signed();

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
        controller: site.controller.clone(),
        zones: zones.iter().map(|z| z.zone.clone()).collect(),
    }
}

/// Gives a document's zones their tests.
pub fn add_tests(document: &mut SiteDocument, mut tests: BTreeMap<ZoneId, Vec<ZoneTest>>) {
    for zone in &mut document.zones {
        let id = zone.id.parse().ok().map(ZoneId);
        zone.tests = id.and_then(|id| tests.remove(&id)).unwrap_or_default();
    }
}

/// Settles and replans within the caller's transaction, at the site's instant; the site's row must be locked. `None` while there is no
/// weather yet. Sets the site's next event. What computes does so on the blocking pool: other requests go on meanwhile.
///
/// # Errors
/// [`Failure`].
pub async fn replan(db: &mut PgConnection, id: SiteId) -> Result<Option<i64>, Failure> {
    let site = db::sites::get(&mut *db, id).await?;
    let zones = db::zones::of_site(&mut *db, id).await?;
    replan_known(db, &site, &zones, false).await
}

/// [`replan`] of a site that was read in the same transaction; `at_event`: whether this is an event of the site's day.
///
/// # Errors
/// [`Failure`].
pub async fn replan_known(
    db: &mut PgConnection,
    site: &SiteRow,
    zones: &[ZoneRow],
    at_event: bool,
) -> Result<Option<i64>, Failure> {
    let id = site.id;
    let now = clock::now(site.simulated_now);
    let today = clock::local_date(now, &site.site.time_zone);
    // A window that has opened is left as it was planned: its runs count, and nothing is planned into what remains of it.
    let mut from = now;
    let newest = db::programmes::newest(&mut *db, id).await?;
    if let Some((plan, programme)) = &newest {
        let settled = programme.settle(now);
        from = settled.until;
        let begun: Vec<NewRun> = settled
            .begun
            .iter()
            .filter_map(|begun| NewRun::begun(*plan, begun))
            .collect();
        if !begun.is_empty() {
            db::runs::assume(&mut *db, &begun).await?;
        }
        if !settled.held.is_empty() {
            db::runs::hold(&mut *db, *plan, &settled.held).await?;
        }
    }
    let mut document = document(site, zones);
    add_tests(
        &mut document,
        db::sprinkler_tests::kept(&mut *db, id).await?,
    );
    let kept = ledger::brought_up(&mut *db, id, &document, today).await?;
    let forecast = db::weather::forecast(&mut *db, id, today).await?;
    let holds = db::runs::holds(&mut *db, id, today.saturating_sub(HELD_BACK.days())).await?;
    let dry_days = db::dry_days::of_site(&mut *db, id, today).await?;
    if let Some(next) = events::next_event(&document, now) {
        db::sites::set_next_event(&mut *db, id, next).await?;
    }
    let (before, deeds) = match db::plans::before(&mut *db, id, today).await? {
        Some((plan, made_at)) => {
            let programme = match newest {
                Some((newest, programme)) if newest == plan => programme,
                _ => db::programmes::of_plan(&mut *db, plan).await?,
            };
            let deeds = db::history::since(&mut *db, id, made_at).await?;
            (Some(programme), deeds)
        }
        None => (None, Vec::new()),
    };
    let facts = Facts {
        document,
        kept,
        forecast,
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
    let id = db::plans::insert(&mut *db, id, now, &plan, at_event).await?;
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

/// All that a plan is a function of.
struct Facts {
    document: SiteDocument,
    /// What the ledgers hold of the past.
    kept: Kept,
    forecast: Vec<WeatherDay>,
    holds: Vec<RainHold>,
    dry_days: Vec<DryDay>,
    today: Date,
    now: Timestamp,
    /// The end of an open window, or now.
    from: Timestamp,
    /// What the last plan of the day before was to run.
    before: Option<Programme>,
    /// What people did since.
    deeds: Vec<Deed>,
}

impl Facts {
    /// The plan and what it changes; `None` while there is no weather.
    fn plan(&self) -> Result<Option<NewPlan>, Failure> {
        let observed = &self.kept.observed;
        let known = Known {
            document: &self.document,
            observed,
            forecast: &daily(&self.document, observed, &self.forecast),
            runs: &self.kept.runs,
            holds: &self.holds,
            dry_days: &self.dry_days,
            today: self.today,
            now: Some(self.now),
            committed: (self.from > self.now).then_some(self.from),
        };
        let plan = match plan_from(&known, &self.kept.past) {
            Ok(plan) => plan,
            Err(Error::NoWeather { .. }) => return Ok(None),
            Err(error @ Error::Site(_)) => return Err(Failure::Stored(error.to_string())),
        };
        let changes = match &self.before {
            Some(before) => changes_with_causes(before, &plan, &self.deeds),
            None => Vec::new(),
        };
        let text =
            |json: serde_json::Result<String>| json.map_err(|e| Failure::Stored(e.to_string()));
        Ok(Some(NewPlan {
            today: plan.week.today,
            result: text(serde_json::to_string(&plan.week))?,
            changes: text(serde_json::to_string(&changes))?,
            version: PLAN_VERSION,
            programme: plan.programme,
            inputs: self.inputs()?,
        }))
    }

    /// What was known, each part by its hash: two plans with the same were made from the same.
    fn inputs(&self) -> Result<Value, Failure> {
        let mut site = self.document.clone();
        let tests: Vec<Vec<ZoneTest>> = site
            .zones
            .iter_mut()
            .map(|zone| std::mem::take(&mut zone.tests))
            .collect();
        Ok(serde_json::json!({
            "site": hash(&site)?,
            "tests": hash(&tests)?,
            "weather": hash(&self.kept.observed)?,
            "forecast": hash(&self.forecast)?,
            "ledger": hash(&(self.kept.past.zones.iter().map(|days| days.last()).collect::<Vec<_>>(), &self.kept.past.climatology))?,
            "runs": hash(&self.kept.runs)?,
            "holds": hash(&self.holds)?,
            "dry_days": hash(&self.dry_days)?,
        }))
    }
}

/// The first half of the SHA-256 of a value's JSON, in hexadecimal.
fn hash(value: &impl Serialize) -> Result<String, Failure> {
    let json = serde_json::to_vec(value).map_err(|e| Failure::Stored(e.to_string()))?;
    let digest = Sha256::digest(json);
    Ok(digest[..16].iter().fold(String::new(), |mut text, byte| {
        // Writing to a string does not fail.
        let _ = write!(text, "{byte:02x}");
        text
    }))
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
