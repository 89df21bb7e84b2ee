//! Replanning a site: settle what the plan in force has run and held by now, then plan again from what is known.

use std::collections::BTreeMap;
use std::sync::{Arc, LazyLock};

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use lawn::quantity::Volume;
use lawn::record::constraint::Constraint;
use lawn::record::edit::Edit;
use lawn::record::programme::Programme;
use lawn::site::draft::ZoneDraft;
use lawn::site::{Invalid, SiteDocument, Zone, calendar, events};
use lawn::view::changes::{Deed, changes_with_causes};
use lawn::view::first_look::{FirstLook, depletion_at_begin, first_look};
use lawn::view::plan::{DryDay, Error, Known, Plan, RainHold, plan_with};
use lawn::view::scarcity::{self, Scarcity};
use lawn::view::since_published::{SincePublished, since_published};
use lawn::view::week_plan::{VERSION as VERSION_OF_PLANS, ZonePlan};
use lawn::view::worth::WorthMeasuring;
use lawn::weather::{self, DailyWeather, Gaps, WeatherDay};
use quick_cache::sync::Cache;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use sqlx::PgConnection;

pub use crate::computing::Failure;
use crate::computing::computed;
use crate::db::edits::EditRow;
use crate::db::history::Event;
use crate::db::measured::{self, Measured};
use crate::db::plans::NewPlan;
use crate::db::publications::PublicationRow;
use crate::db::runs::NewRun;
use crate::db::sites::SiteRow;
use crate::db::zones::{ZoneRow, document};
use crate::db::{self, SiteId};
use crate::fingerprint::hash;
use crate::ledger::{self, Kept};
use crate::{clock, water_book};

/// The version of a plan's form.
pub const PLAN_VERSION: i32 = VERSION_OF_PLANS.cast_signed();

/// Days that holds for rain are remembered by a plan.
const HELD_BACK: i64 = 30;

/// A site that was read in the transaction which replans it.
pub struct Stored {
    /// The site; its row must be locked.
    pub site: SiteRow,
    /// Its zones, in its order.
    pub zones: Vec<ZoneRow>,
}

/// Reads sites, in the order of their identifiers.
///
/// # Errors
/// The database.
pub async fn read(db: &mut PgConnection, ids: &[SiteId]) -> sqlx::Result<Vec<Stored>> {
    let sites = db::sites::all(&mut *db, ids).await?;
    let mut zones = db::zones::of_sites(&mut *db, ids).await?;
    let stored = sites.into_iter().map(|site| Stored {
        zones: zones.remove(&site.id).unwrap_or_default(),
        site,
    });
    Ok(stored.collect())
}

/// Settles and replans a site within the caller's transaction, at the site's instant; the site's row must be locked. `None` while there is no
/// weather yet. Sets the site's next event.
///
/// # Errors
/// [`Failure`].
pub async fn replan(db: &mut PgConnection, id: SiteId) -> Result<Option<i64>, Failure> {
    Ok(replanned(db, id).await?.map(|made| made.number))
}

/// A plan that was made.
pub struct Made {
    /// Its number; an older one's where that is equal.
    pub number: i64,
    /// What is stored of it.
    pub plan: NewPlan,
}

/// [`replan`], with the plan.
///
/// # Errors
/// [`Failure`].
pub async fn replanned(db: &mut PgConnection, id: SiteId) -> Result<Option<Made>, Failure> {
    let stored = read(&mut *db, &[id]).await?;
    let mut made = replan_all(db, stored, false).await?;
    Ok(made.remove(&id))
}

/// [`replan`] of several sites, which asks the database no oftener than one; `at_event`: whether this is an event of the sites' days. The plans
/// by site; a site without weather has none. What computes does so on the blocking pool: other requests go on meanwhile.
///
/// # Errors
/// [`Failure`]: of any of them, then none is replanned.
pub async fn replan_all(
    db: &mut PgConnection,
    stored: Vec<Stored>,
    at_event: bool,
) -> Result<BTreeMap<SiteId, Made>, Failure> {
    let ids: Vec<SiteId> = stored.iter().map(|s| s.site.id).collect();
    let mut measured = measured::of_sites(&mut *db, &ids).await?;
    let mut moments: Vec<Moment> = stored
        .iter()
        .map(|stored| Moment::of(stored, &mut measured))
        .collect();
    let today: Vec<(SiteId, Date)> = moments.iter().map(|m| (m.id, m.today)).collect();

    let recent = db::plans::recent(&mut *db, &today).await?;
    let publications = db::publications::of_sites(&mut *db, &ids).await?;
    let numbers = recent
        .values()
        .flat_map(|r| [r.newest, r.before.map(|(plan, _)| plan)]);
    let published = publications.values().map(|p| Some(p.plan));
    let mut numbers: Vec<i64> = numbers.chain(published).flatten().collect();
    numbers.sort_unstable();
    numbers.dedup();
    let programmes = db::programmes::of_plans(&mut *db, &numbers).await?;
    for moment in &mut moments {
        let publication = publications.get(&moment.id);
        let published = publication.and_then(|p| Published::of(p, &programmes));
        let newest = recent.get(&moment.id).and_then(|recent| recent.newest);
        if let Some((plan, programme)) =
            newest.and_then(|plan| Some((plan, programmes.get(&plan)?)))
        {
            let programme = match &published {
                Some(published) => &published.week.leaves(programme),
                None => programme,
            };
            moment.from = settle(&mut *db, plan, programme, moment.now).await?;
        }
        if let Some(published) = published {
            let programme = published.week.in_force();
            let until = settle(&mut *db, published.plan, &programme, moment.now).await?;
            moment.from = moment.from.max(until);
            moment.published = (published.week.last >= moment.today).then_some(published);
        }
    }

    let sites = moments.iter().map(|m| ledger::Site {
        id: m.id,
        document: m.document.clone(),
        today: m.today,
    });
    let mut kept = ledger::brought_up(&mut *db, sites.collect()).await?;
    let of = moments.iter().map(|m| (m.id, m.document.as_ref(), m.today));
    let mut priced = water_book::priced_all(&mut *db, of).await?;
    for moment in &mut moments {
        if let Some(document) = priced.remove(&moment.id) {
            moment.document = Arc::new(document);
        }
    }
    let mut forecasts = db::weather::forecasts(&mut *db, &today).await?;
    let since = today
        .iter()
        .map(|(id, today)| (*id, today.saturating_sub(HELD_BACK.days())));
    let mut holds = db::runs::holds(&mut *db, &since.collect::<Vec<_>>()).await?;
    let mut dry_days = db::dry_days::of_sites(&mut *db, &today).await?;
    let mut edits = db::edits::of_sites(&mut *db, &today).await?;
    let now: Vec<_> = moments.iter().map(|m| (m.id, m.now)).collect();
    let mut constraints = db::constraints::of_sites(&mut *db, &now).await?;
    let before = |id: &SiteId| recent.get(id).and_then(|recent| recent.before);
    let since = ids.iter().filter_map(|id| Some((*id, before(id)?.1)));
    let mut events = db::history::since(&mut *db, &since.collect::<Vec<_>>()).await?;
    let published = moments
        .iter()
        .filter_map(|m| Some((m.id, m.published.as_ref()?.history)));
    let mut since_published = db::history::after(&mut *db, &published.collect::<Vec<_>>()).await?;
    let mut next: BTreeMap<SiteId, Timestamp> = moments
        .iter()
        .filter_map(|m| Some((m.id, events::next_event(&m.document, m.now)?)))
        .collect();

    let facts = moments.into_iter().map(|moment| {
        let id = moment.id;
        let programme = before(&id).and_then(|(plan, _)| programmes.get(&plan));
        let deeds = |events: Option<Vec<Event>>| {
            let events = events.unwrap_or_default().into_iter();
            events.filter_map(Event::deed).collect()
        };
        let holds = holds.remove(&id).unwrap_or_default();
        let dry_days = dry_days.remove(&id).unwrap_or_default();
        let constraints = constraints.remove(&id).unwrap_or_default();
        let edits = edits.remove(&id).unwrap_or_default();
        Ok(Facts {
            kept: kept.remove(&id).ok_or(sqlx::Error::RowNotFound)?,
            forecast: forecasts.remove(&id).unwrap_or_default(),
            holds: holds.iter().map(RainHold::from).collect(),
            dry_days: dry_days.iter().map(DryDay::from).collect(),
            constraints: constraints.iter().map(Constraint::from).collect(),
            edits: edits.iter().filter_map(EditRow::edit).collect(),
            before: programme.cloned(),
            deeds: deeds(events.remove(&id)),
            deeds_since_published: deeds(since_published.remove(&id)),
            moment,
        })
    });
    let facts: Vec<Facts> = facts.collect::<sqlx::Result<_>>()?;
    let plans = computed(move || {
        let plans = facts.iter().filter_map(|facts| facts.plan().transpose());
        plans.collect::<Result<Vec<NewPlan>, Failure>>()
    })
    .await??;
    // Slots of new grass are planned anew, each as it begins and ends.
    for plan in &plans {
        let edge = plan.programme.next_edge(plan.made_at);
        if let Some((first, next)) = edge.zip(next.get_mut(&plan.site)) {
            *next = first.min(*next);
        }
    }
    db::sites::set_next_events(&mut *db, &next.into_iter().collect::<Vec<_>>()).await?;
    let numbers = db::plans::insert(&mut *db, &plans, at_event).await?;
    let made = plans.into_iter().filter_map(|plan| {
        let number = *numbers.get(&plan.site)?;
        Some((plan.site, Made { number, plan }))
    });
    Ok(made.collect())
}

/// Records what a programme has run and held by now; until when it stays as it is: the end of an open window, or now.
async fn settle(
    db: &mut PgConnection,
    plan: i64,
    programme: &Programme,
    now: Timestamp,
) -> sqlx::Result<Timestamp> {
    let settled = programme.settle(now);
    let begun = settled.begun.iter();
    let begun: Vec<NewRun> = begun
        .filter_map(|begun| NewRun::begun(plan, begun))
        .collect();
    if !begun.is_empty() {
        db::runs::assume(&mut *db, &begun).await?;
    }
    if !settled.held.is_empty() {
        db::runs::hold(&mut *db, plan, &settled.held).await?;
    }
    Ok(settled.until)
}

/// A site at the instant at which it is planned.
struct Moment {
    id: SiteId,
    document: Arc<SiteDocument>,
    today: Date,
    now: Timestamp,
    /// The end of an open window, or now. A window that has opened is left as it was planned: its runs count, and nothing is planned into what
    /// remains of it.
    from: Timestamp,
    /// The week that is published, while it lasts.
    published: Option<Published>,
}

/// A published week.
struct Published {
    /// Its identifier.
    id: i64,
    /// The plan that it is.
    plan: i64,
    /// The last entry of the history that it knew of.
    history: i64,
    week: lawn::record::published::Published,
}

impl Published {
    /// With the programme of its plan.
    fn of(row: &PublicationRow, programmes: &BTreeMap<i64, Programme>) -> Option<Self> {
        Some(Self {
            id: row.id,
            plan: row.plan,
            history: row.history,
            week: lawn::record::published::Published {
                programme: programmes.get(&row.plan)?.clone(),
                from: row.from,
                last: row.last_day,
            },
        })
    }
}

impl Moment {
    fn of(stored: &Stored, measured: &mut Measured) -> Self {
        let site = &stored.site;
        let now = clock::now(site.simulated_now);
        let mut document = document(site, &stored.zones);
        measured.put_into(&mut document);
        Self {
            id: site.id,
            today: clock::local_date(now, &site.site.time_zone),
            document: Arc::new(document),
            now,
            from: now,
            published: None,
        }
    }
}

/// A site as plans see it today, with what was measured and seen of its zones, and its day.
///
/// # Errors
/// The database; no such site.
pub async fn as_measured(
    db: &mut PgConnection,
    id: SiteId,
) -> sqlx::Result<(Arc<SiteDocument>, Date)> {
    let stored = read(&mut *db, &[id]).await?;
    let mut measured = measured::of_sites(&mut *db, &[id]).await?;
    let stored = stored.first().ok_or(sqlx::Error::RowNotFound)?;
    let moment = Moment::of(stored, &mut measured);
    let of = [(id, moment.document.as_ref(), moment.today)];
    let priced = water_book::priced_all(db, of).await?.remove(&id);
    let document = priced.map_or(moment.document, Arc::new);
    Ok((document, moment.today))
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

/// A zone of answers, what it asks for on a summer's day, and its week beside the other zones'.
pub type Looked = (Zone, Option<FirstLook>, Option<ZonePlan>);

/// The identifier of a zone that is not added yet.
const DRAFT: &str = "draft";

/// What the plan would do with a zone of answers. What is brought up on the way is the caller's to roll back; the site's row must be locked.
///
/// # Errors
/// [`Failure`]; within, the answer that does not hold.
pub async fn looked_at(
    db: &mut PgConnection,
    id: SiteId,
    draft: &ZoneDraft,
) -> Result<Result<Looked, Invalid>, Failure> {
    let mut facts = facts_now(&mut *db, id).await?;
    let moment = &mut facts.moment;
    let place = &moment.document.site;
    let mut zone = match draft.zone(place.latitude, moment.today) {
        Ok(zone) => zone,
        Err(invalid) => return Ok(Err(invalid)),
    };
    let controller = &moment.document.controller;
    zone.initial_depletion_mm = Some(depletion_at_begin(
        place,
        controller,
        &zone,
        &facts.kept.observed,
        draft.soaked_days_ago,
        moment.today,
    ));
    let look = first_look(place, controller, &zone, moment.today);
    zone.id = DRAFT.to_owned();
    let mut document = SiteDocument::clone(&moment.document);
    document.zones.push(zone.clone());
    moment.document = Arc::new(document);
    let week = computed(move || facts.week(None)).await??;
    let zones = week.into_iter().flat_map(|plan| plan.week.zones);
    zone.id.clear();
    let mut own = zones.filter(|z| z.zone == DRAFT);
    Ok(Ok((zone, look, own.next())))
}

/// What a volume for the coming week comes to; `None` while there is nothing to plan from. What is brought up on the way is the caller's to roll back; the site's row must be
/// locked.
///
/// # Errors
/// [`Failure`].
pub async fn scarcity(
    db: &mut PgConnection,
    id: SiteId,
    volume: Option<Volume>,
) -> Result<Option<Scarcity>, Failure> {
    let facts = facts_now(&mut *db, id).await?;
    computed(move || {
        facts.known(|known| planned(scarcity::scarcity(known, &facts.kept.past, volume)))
    })
    .await?
}

/// What is known of a site now, as a plan of this instant would be made from it.
async fn facts_now(db: &mut PgConnection, id: SiteId) -> Result<Facts, Failure> {
    let stored = read(&mut *db, &[id]).await?;
    let mut measured = measured::of_sites(&mut *db, &[id]).await?;
    let stored = stored.first().ok_or(sqlx::Error::RowNotFound)?;
    let mut moment = Moment::of(stored, &mut measured);
    let day = [(id, moment.today)];
    let site = ledger::Site {
        id,
        document: moment.document.clone(),
        today: moment.today,
    };
    let mut kept = ledger::brought_up(&mut *db, vec![site]).await?;
    let kept = kept.remove(&id).ok_or(sqlx::Error::RowNotFound)?;
    let of = [(id, moment.document.as_ref(), moment.today)];
    if let Some(document) = water_book::priced_all(&mut *db, of).await?.remove(&id) {
        moment.document = Arc::new(document);
    }
    let forecast = db::weather::forecasts(&mut *db, &day).await?;
    let dry_days = db::dry_days::of_sites(&mut *db, &day).await?;
    let constraints = db::constraints::of_site(&mut *db, id, moment.now).await?;
    let edits = db::edits::of_site(&mut *db, id, moment.today).await?;
    let dry_days = dry_days.into_values().flatten();
    Ok(Facts {
        forecast: forecast.into_values().flatten().collect(),
        holds: Vec::new(),
        dry_days: dry_days.map(|day| DryDay::from(&day)).collect(),
        constraints: constraints.iter().map(Constraint::from).collect(),
        edits: edits.iter().filter_map(EditRow::edit).collect(),
        before: None,
        deeds: Vec::new(),
        deeds_since_published: Vec::new(),
        kept,
        moment,
    })
}

/// All that a plan is a function of.
struct Facts {
    moment: Moment,
    /// What the ledgers hold of the past.
    kept: Kept,
    forecast: Vec<WeatherDay>,
    holds: Vec<RainHold>,
    dry_days: Vec<DryDay>,
    constraints: Vec<Constraint>,
    edits: Vec<Edit>,
    /// What the last plan of the day before was to run.
    before: Option<Programme>,
    /// What people did since.
    deeds: Vec<Deed>,
    /// What they did since the week was published.
    deeds_since_published: Vec<Deed>,
}

/// What was planned; `None` without weather.
fn planned<T>(plan: Result<T, Error>) -> Result<Option<T>, Failure> {
    match plan {
        Ok(plan) => Ok(Some(plan)),
        Err(Error::NoWeather { .. }) => Ok(None),
        Err(error @ Error::Site(_)) => Err(Failure::Stored(error.to_string())),
    }
}

/// What became of a published week, as it is stored with a plan.
#[derive(Serialize, Deserialize)]
pub struct Since {
    /// The publication.
    pub publication: i64,
    /// What became of it.
    #[serde(flatten)]
    pub since: SincePublished,
}

impl Facts {
    /// The week, with what is worth measuring where that is known; `None` while there is nothing to plan from.
    fn week(&self, worth: Option<&[WorthMeasuring]>) -> Result<Option<Plan>, Failure> {
        self.known(|known| planned(plan_with(known, &self.kept.past, worth)))
    }

    /// Hands over what is known.
    fn known<R>(&self, then: impl FnOnce(&Known) -> R) -> R {
        let (moment, observed) = (&self.moment, &self.kept.observed);
        then(&Known {
            document: &moment.document,
            observed,
            forecast: &daily(&moment.document, observed, &self.forecast),
            runs: &self.kept.runs,
            holds: &self.holds,
            dry_days: &self.dry_days,
            constraints: &self.constraints,
            edits: &self.edits,
            published: moment.published.as_ref().map(|p| &p.week),
            today: moment.today,
            now: Some(moment.now),
            committed: (moment.from > moment.now).then_some(moment.from),
        })
    }

    /// The plan and what it changes; `None` while there is nothing to plan from.
    fn plan(&self) -> Result<Option<NewPlan>, Failure> {
        let moment = &self.moment;
        let inputs = self.inputs()?;
        let worth_by = worth_key(&inputs, moment.today);
        let known = WORTH.get(&worth_by);
        let Some(plan) = self.week(known.as_deref())? else {
            return Ok(None);
        };
        if known.is_none() {
            WORTH.insert(worth_by, plan.week.worth_measuring.as_slice().into());
        }
        let changes = match &self.before {
            Some(before) => changes_with_causes(before, &plan, &self.deeds),
            None => Vec::new(),
        };
        let text =
            |json: serde_json::Result<String>| json.map_err(|e| Failure::Stored(e.to_string()));
        Ok(Some(NewPlan {
            site: moment.id,
            made_at: moment.now,
            today: plan.week.today,
            result: text(serde_json::to_string(&plan.week))?,
            changes: text(serde_json::to_string(&changes))?,
            since_published: match self.since_published(&plan) {
                Some(since) => Some(text(serde_json::to_string(&since))?),
                None => None,
            },
            version: PLAN_VERSION,
            programme: plan.programme,
            inputs,
        }))
    }

    /// What a plan changes of the published week; `None`: none is published.
    fn since_published(&self, plan: &Plan) -> Option<Since> {
        let published = self.moment.published.as_ref()?;
        Some(Since {
            publication: published.id,
            since: since_published(&published.week, plan, &self.deeds_since_published)?,
        })
    }

    /// What was known, each part by its hash: two plans with the same were made from the same.
    fn inputs(&self) -> Result<Value, Failure> {
        let mut site = SiteDocument::clone(&self.moment.document);
        let zones = site.zones.iter_mut();
        let tests: Vec<_> = zones
            .map(|zone| {
                let soil_tests = std::mem::take(&mut zone.soil_tests);
                let seen = std::mem::take(&mut zone.seen);
                (std::mem::take(&mut zone.tests), soil_tests, seen)
            })
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
            "constraints": hash(&self.constraints)?,
            "edits": hash(&self.edits)?,
            "publication": hash(&self.moment.published.as_ref().map(|p| p.id))?,
        }))
    }
}

/// What was found worth measuring of late: a person who changes a day, or tries to, changes nothing of it, and it takes a fifth of a plan's time.
static WORTH: LazyLock<Cache<String, Arc<[WorthMeasuring]>>> = LazyLock::new(|| Cache::new(500));

/// What decides what is worth measuring.
fn worth_key(inputs: &Value, today: Date) -> String {
    let parts = ["site", "tests", "weather", "forecast", "ledger"].map(|part| &inputs[part]);
    format!("{today} {parts:?}")
}

/// Daily weather that goes on from earlier days, gaps filled by the stated policy; empty where no day has temperatures.
pub(crate) fn daily(
    document: &SiteDocument,
    before: &[DailyWeather],
    days: &[WeatherDay],
) -> Vec<DailyWeather> {
    let site = &document.site;
    weather::continued(&weather::place(site), before, days, Gaps::filled(site)).unwrap_or_default()
}
