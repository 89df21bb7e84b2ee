//! The rounds of a site's day: 03:00 (or the first window's opening, if earlier), and the opening and the end of each window, so that a window is planned by what is known when
//! it opens. Workers claim due sites; stepping a simulated clock drains them.
//!
//! A round locks the site's row, settles, replans and sets the next event in one transaction, several sites together. Whoever dies in the middle
//! leaves nothing; the rows stay due for the next. A site whose round fails is put off, and nobody else. `site_day` has one row a site and day, so the replan of 03:00 happens once.

use std::sync::Arc;
use std::time::Duration;

use jiff::civil::Weekday;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};
use lawn::site::calendar;
use lawn::site::events::day_begins;
use sqlx::PgConnection;
use tokio::sync::Semaphore;
use tokio::task::JoinSet;

use crate::clock;
use crate::controller_service::ControllerService;
use crate::controlling;
use crate::db::sites::BegunDay;
use crate::db::{self, Db, SiteId};
use crate::planning::{self, Failure, Stored};
use crate::publishing;
use crate::settings::Settings;
use crate::weather_service::{self, WeatherService};

/// What a round did.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Round {
    /// Whether it began the site's day.
    pub began_day: bool,
    /// The plan that it made.
    pub plan: Option<i64>,
}

/// One round of a site at its own instant, in the caller's transaction; its row must be locked.
///
/// # Errors
/// [`Failure`].
pub async fn round(db: &mut PgConnection, id: SiteId) -> Result<Round, Failure> {
    let done = rounds(db, &[id]).await?;
    let round = done.into_iter().next();
    Ok(round.ok_or(sqlx::Error::RowNotFound)?)
}

/// Rounds of several sites, in the order of their identifiers.
async fn rounds(db: &mut PgConnection, ids: &[SiteId]) -> Result<Vec<Round>, Failure> {
    let stored = planning::read(&mut *db, ids).await?;
    let mut begun = Vec::new();
    let mut troubled = Vec::new();
    let mut by_rule = Vec::new();
    for Stored { site, zones } in &stored {
        let now = clock::now(site.simulated_now);
        let zone = TimeZone::get(&site.site.time_zone).unwrap_or(TimeZone::UTC);
        let today = now.to_zoned(zone.clone()).date();
        let day = calendar::days(&db::zones::document(site, zones), &zone, today, 1);
        let begins = day.first().and_then(|day| day_begins(day, &zone));
        if begins.is_some_and(|at| at <= now) {
            begun.push((site.id, today));
        }
        if site.trouble.is_some() {
            troubled.push(site.id);
        }
        if site.publishes_each_morning {
            by_rule.push(site.id);
        }
    }
    let sites: Vec<SiteId> = stored.iter().map(|s| s.site.id).collect();
    let plans = planning::replan_all(&mut *db, stored, true).await?;
    for id in troubled {
        db::sites::recovered(&mut *db, id).await?;
    }
    let days: Vec<BegunDay> = begun
        .iter()
        .map(|(site, day)| BegunDay {
            site: *site,
            day: *day,
            plan: plans.get(site).map(|made| made.number),
        })
        .collect();
    let anew = db::sites::begin_days(&mut *db, &days).await?;
    for id in by_rule.iter().filter(|id| anew.contains(id)) {
        publishing::by_rule(&mut *db, *id).await?;
    }
    for (id, today) in begun {
        // Once a week is often enough for what is kept for months.
        if today.weekday() == Weekday::Monday && anew.contains(&id) {
            db::plans::thin(&mut *db, id, today).await?;
        }
    }
    let rounds = sites.into_iter().map(|id| Round {
        began_day: anew.contains(&id),
        plan: plans.get(&id).map(|made| made.number),
    });
    Ok(rounds.collect())
}

/// How long a site is put off whose record does not plan.
const PUT_OFF: SignedDuration = SignedDuration::from_mins(10);
/// How long it is put off where the database was too busy for it.
const PUT_OFF_BUSY: SignedDuration = SignedDuration::from_mins(1);

/// Sites whose rounds are done together, in one transaction: enough that the database is asked seldom, so few that nobody waits long for one of them.
const TOGETHER: i64 = 8;

/// Does due rounds of real-clock sites; `false` where none is due. Where one of several fails, each is tried alone, so that the rest goes on.
///
/// # Errors
/// The database is away.
pub async fn some(db: &Db) -> Result<bool, sqlx::Error> {
    let mut tx = db.pool().begin().await?;
    let sites = db::sites::claim_due(&mut *tx, clock::real(), TOGETHER).await?;
    if sites.is_empty() {
        return Ok(false);
    }
    match rounds(&mut tx, &sites).await {
        Ok(done) => {
            tx.commit().await?;
            tracing::debug!(?sites, ?done, "rounds");
        }
        Err(failure) => {
            // What the transaction was at is void; a connection that is broken goes with it.
            drop(tx);
            tracing::debug!(?sites, error = %failure, "rounds, each alone");
            for site in sites {
                alone(db, site).await?;
            }
        }
    }
    Ok(true)
}

/// Does the round of one site if it is still due. Where it fails the site is put off; where that is its record's fault, its managers are told.
async fn alone(db: &Db, site: SiteId) -> Result<(), sqlx::Error> {
    let mut tx = db.pool().begin().await?;
    if !db::sites::claim_if_due(&mut *tx, site, clock::real()).await? {
        return Ok(());
    }
    let failure = match round(&mut tx, site).await {
        Ok(_) => return tx.commit().await,
        Err(failure) => failure,
    };
    drop(tx);
    let after = |wait| clock::real().checked_add(wait).unwrap_or(Timestamp::MAX);
    if matches!(&failure, Failure::Database(error) if db::is_away(error)) {
        tracing::warn!(site = site.0, error = %failure, "round put off");
        return db::sites::set_next_events(db.pool(), &[(site, after(PUT_OFF_BUSY))]).await;
    }
    let trouble = "its record cannot be read";
    if db::sites::put_off(db.pool(), site, after(PUT_OFF), trouble).await? {
        tracing::error!(site = site.0, error = %failure, "round failed; it is tried again every ten minutes, and not told again");
    }
    Ok(())
}

/// Most feeds, and most controllers, that are asked at the same time: one that hangs holds up nobody.
const AT_ONCE: usize = 8;

/// Works until it is aborted, each in a task of its own: rounds that are due, weather that is due, controllers.
pub async fn work(
    db: Db,
    settings: Settings,
    service: Option<WeatherService>,
    controllers: Option<ControllerService>,
) {
    let rest = Duration::from_secs_f64(settings.work_every_s.clamp(0.05, 3600.0));
    let mut tasks = JoinSet::new();
    tasks.spawn({
        let db = db.clone();
        async move { make_anew(&db).await }
    });
    tasks.spawn({
        let db = db.clone();
        async move {
            loop {
                let done = some(&db).await;
                pause(done, rest, "rounds").await;
            }
        }
    });
    if let Some(controllers) = controllers {
        let db = db.clone();
        let free = Arc::new(Semaphore::new(AT_ONCE));
        tasks.spawn(async move {
            loop {
                let claim = db::controllers::claim(db.pool());
                let attend = |site| controller(db.clone(), controllers.clone(), site);
                let done = begin(&free, claim, attend).await;
                pause(done, rest, "controllers").await;
            }
        });
    }
    if let Some(service) = service {
        let free = Arc::new(Semaphore::new(AT_ONCE));
        tasks.spawn(async move {
            loop {
                let claim = db::feeds::claim(db.pool());
                let ask = |site| feed(db.clone(), service.clone(), site);
                let done = begin(&free, claim, ask).await;
                pause(done, rest, "weather").await;
            }
        });
    }
    while tasks.join_next().await.is_some() {}
}

/// Makes plans of an older form anew, once, after a start of a newer version.
async fn make_anew(db: &Db) {
    let mut after = SiteId(0);
    loop {
        match make_next_anew(db, after).await {
            Ok(Some(site)) => after = site,
            Ok(None) => return,
            Err(error) => {
                tracing::warn!(%error, "plans of an older form");
                tokio::time::sleep(Duration::from_secs(1)).await;
            }
        }
    }
}

async fn make_next_anew(db: &Db, after: SiteId) -> Result<Option<SiteId>, sqlx::Error> {
    let mut tx = db.pool().begin().await?;
    let version = planning::PLAN_VERSION;
    let Some(site) = db::plans::claim_outdated(&mut *tx, version, after).await? else {
        return Ok(None);
    };
    match planning::replan(&mut tx, site).await {
        Ok(_) => tx.commit().await?,
        Err(Failure::Database(error)) if db::is_away(&error) => return Err(error),
        // Its next round tries again and tells its managers.
        Err(failure) => tracing::error!(site = site.0, error = %failure, "plan of an older form"),
    }
    Ok(Some(site))
}

/// Goes on at once where there was something to do, rests where not, and longer while the database is away.
async fn pause(done: Result<bool, sqlx::Error>, rest: Duration, what: &str) {
    match done {
        Ok(true) => {}
        Ok(false) => tokio::time::sleep(rest).await,
        Err(error) => {
            tracing::warn!(%error, what, "work");
            tokio::time::sleep(rest.max(Duration::from_secs(1))).await;
        }
    }
}

/// Begins on a site that is claimed, as soon as fewer than [`AT_ONCE`] are under way; `false` where none is due.
async fn begin<W: Future<Output = ()> + Send + 'static>(
    free: &Arc<Semaphore>,
    claim: impl Future<Output = sqlx::Result<Option<SiteId>>>,
    work: impl FnOnce(SiteId) -> W,
) -> Result<bool, sqlx::Error> {
    let place = free.clone().acquire_owned().await;
    let place = place.map_err(|_| sqlx::Error::PoolClosed)?;
    let Some(site) = claim.await? else {
        return Ok(false);
    };
    let work = work(site);
    tokio::spawn(async move {
        let _place = place;
        work.await;
    });
    Ok(true)
}

/// Attends to a site's controller. It is claimed for two minutes: what went wrong is tried again then.
async fn controller(db: Db, service: ControllerService, site: SiteId) {
    match controlling::attend(&db, &service, site).await {
        Ok(_) => {}
        Err(Failure::Database(error)) if db::is_away(&error) => {
            tracing::warn!(site = site.0, %error, "controller");
        }
        Err(failure) => {
            tracing::error!(site = site.0, error = %failure, "controller");
            // Its managers see that, and it is tried again less often.
            let trouble = "what it told could not be kept";
            if let Err(error) = db::controllers::failed(db.pool(), site, trouble).await {
                tracing::warn!(site = site.0, %error, "controller");
            }
        }
    }
}

/// Asks for a site's feed.
async fn feed(db: Db, service: WeatherService, site: SiteId) {
    match weather_service::fetch(&db, &service, site, true).await {
        Ok(_) => {}
        // Claimed for two minutes: then it is asked again.
        Err(Failure::Database(error)) if db::is_away(&error) => {
            tracing::warn!(site = site.0, %error, "weather");
        }
        Err(failure) => {
            let trouble = "what it brought cannot be planned with";
            match db::feeds::failed(db.pool(), site, trouble).await {
                Ok(true) => tracing::error!(site = site.0, error = %failure, "weather"),
                Ok(false) => {}
                Err(error) => tracing::warn!(site = site.0, %error, "weather"),
            }
        }
    }
}
