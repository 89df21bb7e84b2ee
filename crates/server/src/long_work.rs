//! Computations over years of record, which take seconds on large sites: in places of their own, so that short requests find a core and a connection; one of a kind for
//! a person; ended soon after nobody listens; computed once for all who ask the same of the same facts, and kept.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError, Weak};
use std::time::Duration;

use actix_web::HttpResponse;
use actix_web::http::header::ContentType;
use actix_web::web::Bytes;
use jiff::civil::Date;
use quick_cache::Weighter;
use quick_cache::sync::Cache;
use serde::Serialize;
use sqlx::pool::PoolConnection;
use sqlx::{PgPool, Postgres};
use tokio::sync::watch;
use tokio_util::sync::CancellationToken;

use crate::clock;
use crate::computing::{Failure, cores};
use crate::db::{self, AccountId, SiteId, sites};
use crate::http::asker::Asker;
use crate::http::error::ApiError;
use crate::places::{Full, Places, Rules};

/// Bytes of answers that are kept.
const KEPT_BYTES: u64 = 8 * 1024 * 1024;
/// Longest wait for a place, and longest time for an answer after it.
const WAITS: Duration = Duration::from_secs(60);
const COMPUTES: Duration = Duration::from_secs(60);

/// What is computed: of each a person has one under way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Kind {
    /// Keep green or let go, by past summers.
    Decision,
    /// The last year under each school.
    Schools,
    /// What another school would save.
    Savings,
    /// When to sow, by past years.
    SowingWeeks,
    /// What the month or year comes to, by past years.
    Caps,
}

/// A question: what is asked of which facts.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Question {
    kind: Kind,
    site: SiteId,
    /// What else was said.
    of: String,
    /// How often anything of the site was written.
    written: i64,
    today: Date,
}

/// Who asks what.
pub struct Asked<'a> {
    /// What is computed.
    pub kind: Kind,
    /// The site.
    pub site: SiteId,
    /// Who asks.
    pub account: AccountId,
    /// As long as they listen.
    pub asker: &'a Asker,
    /// What else the answer hangs on, of what the asker said.
    pub of: String,
}

/// How an answer comes about.
#[derive(Debug, Clone)]
pub enum Course {
    /// So much of so much is done; 0 of 0: nobody knows.
    UnderWay(usize, usize),
    /// The answer, JSON.
    Found(Bytes),
    /// There is none.
    Broken(Broken),
}

/// Why there is no answer.
#[derive(Debug, Clone)]
pub enum Broken {
    /// No place for it.
    Full(Full),
    /// The database is away or busy.
    Away,
    /// The asker asked the same kind of something else since.
    AskedAnew,
    /// Nobody listens any more.
    Unwanted,
    /// A defect, which the log has.
    Defect(String),
}

impl From<Broken> for ApiError {
    fn from(broken: Broken) -> Self {
        match broken {
            Broken::Full(full) => Self::Full(full),
            Broken::Away => Self::Database(sqlx::Error::PoolTimedOut),
            Broken::AskedAnew => Self::Full(Full::AskedAnew),
            // Nobody reads it.
            Broken::Unwanted => Self::Full(Full::OfAll),
            Broken::Defect(what) => Self::Internal(what),
        }
    }
}

impl From<Failure> for Broken {
    fn from(failure: Failure) -> Self {
        match failure {
            Failure::Database(error) if db::is_away(&error) => Self::Away,
            failure => Self::Defect(failure.to_string()),
        }
    }
}

/// What a computation is told while it goes on.
pub struct Going {
    wanted: CancellationToken,
    course: watch::Sender<Course>,
}

impl Going {
    /// Whether anybody still listens.
    #[must_use]
    pub fn is_wanted(&self) -> bool {
        !self.wanted.is_cancelled()
    }

    /// Says how far it is.
    pub fn progress(&self, done: usize, of: usize) {
        self.course.send_replace(Course::UnderWay(done, of));
    }
}

/// Those who listen to one computation: it goes on while one of them is left.
#[derive(Debug)]
struct Listeners(CancellationToken);

impl Drop for Listeners {
    fn drop(&mut self) {
        self.0.cancel();
    }
}

struct UnderWay {
    course: watch::Receiver<Course>,
    listeners: Weak<Listeners>,
}

/// The question of a kind that a person has open, perhaps on several pages.
struct Open {
    question: Question,
    /// Ends those pages' waiting; nobody else has it: none waits.
    ended: Arc<CancellationToken>,
}

#[derive(Default)]
struct State {
    under_way: HashMap<Question, UnderWay>,
    open: HashMap<(i64, Kind), Open>,
}

#[derive(Clone)]
struct ByBytes;

impl Weighter<Question, Bytes> for ByBytes {
    fn weight(&self, question: &Question, answer: &Bytes) -> u64 {
        // What the cache takes beside it.
        u64::try_from(answer.len() + question.of.len() + 200).unwrap_or(u64::MAX)
    }
}

/// The answer that a JSON text is.
pub fn json(answer: Bytes) -> HttpResponse {
    HttpResponse::Ok()
        .content_type(ContentType::json())
        .body(answer)
}

/// The long computations of this process.
pub struct LongWork {
    pool: PgPool,
    places: Arc<Places>,
    kept: Cache<Question, Bytes, ByBytes>,
    state: Mutex<State>,
}

/// How many long computations go on at once: a core is left to short requests, and three of four connections.
fn at_once(pool: &PgPool) -> usize {
    let connections = pool.options().get_max_connections() / 4;
    let connections = usize::try_from(connections).unwrap_or(1);
    (cores() - 1).min(connections).max(1)
}

impl LongWork {
    /// None yet.
    #[must_use]
    pub fn new(pool: PgPool) -> Arc<Self> {
        Arc::new(Self {
            places: Places::new(Rules {
                at_once: at_once(&pool),
                of_account: 1,
                of_site: usize::MAX,
                waiting: 100,
                waiting_of_account: 5,
                patience: WAITS,
            }),
            kept: Cache::with_weighter(500, KEPT_BYTES, ByBytes),
            state: Mutex::default(),
            pool,
        })
    }

    fn state(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// The answer to a question, JSON: as [`LongWork::ask`].
    ///
    /// # Errors
    /// [`Broken`], in its own words.
    pub async fn answer<F, R, T>(
        self: &Arc<Self>,
        asked: Asked<'_>,
        read: impl FnOnce(PoolConnection<Postgres>) -> R + Send + 'static,
        compute: impl FnOnce(F, &Going) -> Result<T, Failure> + Send + 'static,
    ) -> Result<Bytes, ApiError>
    where
        F: Send + 'static,
        R: Future<Output = Result<F, Failure>> + Send + 'static,
        T: Serialize,
    {
        asked.asker.takes(WAITS + COMPUTES);
        let mut hears = self.ask(asked, read, compute).await?;
        loop {
            match hears.next().await {
                Course::UnderWay(..) => {}
                Course::Found(answer) => return Ok(answer),
                Course::Broken(broken) => return Err(broken.into()),
            }
        }
    }

    /// Asks a question: once there is a place, `read` reads its facts and `compute` answers. Neither happens where the answer is kept, or under way for others.
    ///
    /// # Errors
    /// No such site, or the database.
    pub async fn ask<F, R, T>(
        self: &Arc<Self>,
        asked: Asked<'_>,
        read: impl FnOnce(PoolConnection<Postgres>) -> R + Send + 'static,
        compute: impl FnOnce(F, &Going) -> Result<T, Failure> + Send + 'static,
    ) -> Result<Hears, ApiError>
    where
        F: Send + 'static,
        R: Future<Output = Result<F, Failure>> + Send + 'static,
        T: Serialize,
    {
        let site = sites::written(&self.pool, asked.site).await?;
        let question = Question {
            kind: asked.kind,
            site: asked.site,
            of: asked.of,
            written: site.written,
            today: clock::local_date(clock::now(site.simulated_now), &site.time_zone),
        };
        let mut state = self.state();
        let ended = state.opened(asked.account, &question);
        let gone = asked.asker.gone().clone();
        let hears = |course, listeners| Hears {
            course,
            is_new: true,
            ended,
            gone,
            _listeners: listeners,
        };
        if let Some(kept) = self.kept.get(&question) {
            return Ok(hears(watch::channel(Course::Found(kept)).1, None));
        }
        let under_way = state.under_way.get(&question);
        let joined = under_way.and_then(|u| Some((u.course.clone(), u.listeners.upgrade()?)));
        if let Some((course, listeners)) = joined {
            return Ok(hears(course, Some(listeners)));
        }
        let wanted = CancellationToken::new();
        let listeners = Arc::new(Listeners(wanted.clone()));
        let (told, course) = watch::channel(Course::UnderWay(0, 0));
        let under_way = UnderWay {
            course: course.clone(),
            listeners: Arc::downgrade(&listeners),
        };
        state.under_way.insert(question.clone(), under_way);
        drop(state);
        let going = Going {
            wanted,
            course: told.clone(),
        };
        let (work, account) = (self.clone(), asked.account);
        tokio::spawn(async move {
            let found = work.found(account, question.site, going, read, compute);
            let found = found.await;
            work.keep(&question, &told, found);
        });
        Ok(hears(course, Some(listeners)))
    }

    /// What is found: facts are read and answered in one place.
    async fn found<F, R, T>(
        &self,
        account: AccountId,
        site: SiteId,
        going: Going,
        read: impl FnOnce(PoolConnection<Postgres>) -> R,
        compute: impl FnOnce(F, &Going) -> Result<T, Failure> + Send + 'static,
    ) -> Result<Bytes, Broken>
    where
        F: Send + 'static,
        R: Future<Output = Result<F, Failure>>,
        T: Serialize,
    {
        let place = tokio::select! {
            place = self.places.take(account, site) => place.map_err(Broken::Full)?,
            () = going.wanted.cancelled() => return Err(Broken::Unwanted),
        };
        let connection = self.pool.acquire().await.map_err(Failure::from)?;
        let facts = read(connection).await?;
        let computed = tokio::task::spawn_blocking(move || {
            let found = compute(facts, &going);
            drop(place);
            if !going.is_wanted() {
                return Err(Broken::Unwanted);
            }
            let json = serde_json::to_vec(&found?);
            json.map_err(|e| Broken::Defect(e.to_string()))
        });
        let json = computed.await;
        let json = json.unwrap_or_else(|e| Err(Broken::Defect(e.to_string())))?;
        Ok(json.into())
    }

    /// Keeps what was found, and says so.
    fn keep(
        &self,
        question: &Question,
        told: &watch::Sender<Course>,
        found: Result<Bytes, Broken>,
    ) {
        let mut state = self.state();
        if let Ok(answer) = &found {
            self.kept.insert(question.clone(), answer.clone());
        }
        // Where all had gone and somebody has asked again, another is under way.
        let own = state.under_way.get(question);
        if own.is_some_and(|own| own.course.same_channel(&told.subscribe())) {
            state.under_way.remove(question);
        }
        drop(state);
        if let Err(Broken::Defect(what)) = &found {
            tracing::error!(?question, what, "a long computation broke off");
        }
        told.send_replace(match found {
            Ok(answer) => Course::Found(answer),
            Err(broken) => Course::Broken(broken),
        });
    }
}

impl State {
    /// Opens a question of a person; what they asked of the kind before, if it was something else, ends.
    fn opened(&mut self, account: AccountId, question: &Question) -> Arc<CancellationToken> {
        self.open
            .retain(|_, open| Arc::strong_count(&open.ended) > 1);
        let key = (account.0, question.kind);
        if let Some(open) = self.open.get(&key) {
            if open.question == *question {
                return open.ended.clone();
            }
            open.ended.cancel();
        }
        let ended = Arc::new(CancellationToken::new());
        let open = Open {
            question: question.clone(),
            ended: ended.clone(),
        };
        self.open.insert(key, open);
        ended
    }
}

/// What somebody hears of a computation; dropped, they listen no more.
pub struct Hears {
    course: watch::Receiver<Course>,
    /// Whether the course was not looked at yet.
    is_new: bool,
    ended: Arc<CancellationToken>,
    gone: CancellationToken,
    /// `None`: there is nothing to wait for.
    _listeners: Option<Arc<Listeners>>,
}

impl Hears {
    /// How it goes on.
    pub async fn next(&mut self) -> Course {
        if !std::mem::take(&mut self.is_new) {
            let changed = tokio::select! {
                biased;
                changed = self.course.changed() => changed,
                () = self.ended.cancelled() => return Course::Broken(Broken::AskedAnew),
                () = self.gone.cancelled() => return Course::Broken(Broken::Unwanted),
            };
            if changed.is_err() {
                let broken = Broken::Defect("nobody computes any more".to_owned());
                return Course::Broken(broken);
            }
        }
        self.course.borrow_and_update().clone()
    }
}
