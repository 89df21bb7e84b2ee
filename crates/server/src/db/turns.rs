//! Who may write when. The writes of a site follow one another: they wait for their turn here, in memory, where waiting costs nothing,
//! instead of at the site's row, where each waiter would hold a connection that another site needs.

use std::collections::HashMap;
use std::ops::{Deref, DerefMut};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use sqlx::postgres::PgConnection;
use sqlx::{PgPool, Postgres, Transaction};
use tokio::sync::{OwnedSemaphorePermit, Semaphore};

use super::{SiteId, sites};

/// Longest wait for a site's turn.
const PATIENCE: Duration = Duration::from_secs(5);
/// Most that wait for one site; who comes after them is refused at once.
const MOST_WAITING: usize = 32;

/// The database, and the turns of its writers in this process.
#[derive(Debug, Clone)]
pub struct Db {
    pool: PgPool,
    sites: Arc<Mutex<HashMap<i64, Arc<Semaphore>>>>,
    writers: Arc<Semaphore>,
}

impl Db {
    /// A database; of its pool's connections at most two thirds write at once, so that readers find one.
    #[must_use]
    pub fn new(pool: PgPool) -> Self {
        let most = pool.options().get_max_connections();
        let writers = usize::try_from(most * 2 / 3).unwrap_or(1).max(1);
        Self {
            pool,
            sites: Arc::default(),
            writers: Arc::new(Semaphore::new(writers)),
        }
    }

    /// For what only reads, and for writes that touch no site.
    #[must_use]
    pub const fn pool(&self) -> &PgPool {
        &self.pool
    }

    /// Begins a transaction that changes a site: waits for its turn, then locks the site's row. Everything that changes a site or what
    /// belongs to it begins here, so that the row is always the first lock, and no two wait for each other.
    ///
    /// # Errors
    /// The database; no turn in time counts as no connection in time. No such site: `RowNotFound`.
    pub async fn write(&self, site: SiteId) -> sqlx::Result<SiteWrite> {
        let turn = self.turn(site).await?;
        let mut tx = self.pool.begin().await?;
        let (version, weather_version) = sites::lock(&mut *tx, site).await?;
        Ok(SiteWrite {
            site,
            tx,
            version,
            weather_version,
            _turn: turn,
        })
    }

    /// A writer's turn of a site, and of the process. Whoever holds none may not keep a connection for writing.
    pub(crate) async fn turn(&self, site: SiteId) -> sqlx::Result<Turn> {
        let queue = {
            let mut sites = self.sites.lock().unwrap_or_else(PoisonError::into_inner);
            // Sites that nobody writes to are forgotten.
            sites.retain(|_, queue| Arc::strong_count(queue) > 1);
            sites
                .entry(site.0)
                .or_insert_with(|| Arc::new(Semaphore::new(1)))
                .clone()
        };
        // One reference in the map, one for each that waits or writes.
        if Arc::strong_count(&queue) > MOST_WAITING + 2 {
            return Err(sqlx::Error::PoolTimedOut);
        }
        let wait = async {
            let site = queue.acquire_owned().await;
            let writer = self.writers.clone().acquire_owned().await;
            Some(Turn {
                _site: site.ok()?,
                _writer: writer.ok()?,
            })
        };
        match tokio::time::timeout(PATIENCE, wait).await {
            Ok(Some(turn)) => Ok(turn),
            Ok(None) => Err(sqlx::Error::PoolClosed),
            Err(_) => Err(sqlx::Error::PoolTimedOut),
        }
    }
}

/// A turn; dropped, it is the next one's.
#[derive(Debug)]
pub(crate) struct Turn {
    _site: OwnedSemaphorePermit,
    _writer: OwnedSemaphorePermit,
}

/// A transaction that changes one site, whose row it has locked. Dropped without [`SiteWrite::commit`] it changes nothing.
#[derive(Debug)]
pub struct SiteWrite {
    site: SiteId,
    tx: Transaction<'static, Postgres>,
    /// The site's version when it was locked.
    pub version: i64,
    /// The version of its weather.
    pub weather_version: i64,
    // After the transaction, so that it ends first.
    _turn: Turn,
}

impl SiteWrite {
    /// Makes the changes count.
    ///
    /// # Errors
    /// The database; nothing was changed, or nobody knows.
    pub async fn commit(mut self) -> sqlx::Result<()> {
        sites::count_written(&mut *self.tx, self.site).await?;
        self.tx.commit().await
    }
}

impl Deref for SiteWrite {
    type Target = PgConnection;

    fn deref(&self) -> &PgConnection {
        &self.tx
    }
}

impl DerefMut for SiteWrite {
    fn deref_mut(&mut self) -> &mut PgConnection {
        &mut self.tx
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use sqlx::postgres::PgPoolOptions;

    fn db() -> Db {
        // Never connects: turns need no database.
        Db::new(
            PgPoolOptions::new()
                .max_connections(3)
                .connect_lazy("postgres://nobody@127.0.0.1:1/none")
                .unwrap(),
        )
    }

    #[tokio::test]
    async fn one_writes_to_a_site_while_another_site_goes_on() {
        let db = db();
        let first = db.turn(SiteId(1)).await.unwrap();
        let other = db.turn(SiteId(2)).await.unwrap();
        drop(other);
        let waiting = tokio::spawn({
            let db = db.clone();
            async move { db.turn(SiteId(1)).await.map(|_| ()) }
        });
        tokio::task::yield_now().await;
        assert!(!waiting.is_finished());
        drop(first);
        waiting.await.unwrap().unwrap();
        assert_eq!(db.sites.lock().unwrap().len(), 1);
        let _third = db.turn(SiteId(3)).await.unwrap();
        assert_eq!(
            db.sites.lock().unwrap().len(),
            1,
            "sites without writers are forgotten"
        );
    }

    #[tokio::test(start_paused = true)]
    async fn who_waits_too_long_and_who_comes_after_too_many_is_refused() {
        let db = db();
        let _held = db.turn(SiteId(1)).await.unwrap();
        assert!(matches!(
            db.turn(SiteId(1)).await,
            Err(sqlx::Error::PoolTimedOut)
        ));
        let waiting: Vec<_> = (0..MOST_WAITING)
            .map(|_| {
                let db = db.clone();
                tokio::spawn(async move { db.turn(SiteId(1)).await.is_ok() })
            })
            .collect();
        tokio::task::yield_now().await;
        let before = tokio::time::Instant::now();
        assert!(db.turn(SiteId(1)).await.is_err());
        assert_eq!(before.elapsed(), Duration::ZERO, "refused at once");
        drop(waiting);
    }
}
