//! Places for what takes much memory or much time: so many at once, so many of one account and one site, and a queue in which accounts take turns, so that who asks a
//! hundred times waits behind who asks once.

use std::collections::{HashMap, VecDeque};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;

use thiserror::Error;
use tokio::sync::oneshot;

use crate::db::{AccountId, SiteId};

/// How many, and how patient.
#[derive(Debug, Clone, Copy)]
pub struct Rules {
    /// Places that are taken at once.
    pub at_once: usize,
    /// Of these, of one account.
    pub of_account: usize,
    /// Of these, of one site.
    pub of_site: usize,
    /// How many may wait.
    pub waiting: usize,
    /// Of these, of one account.
    pub waiting_of_account: usize,
    /// Longest wait.
    pub patience: Duration,
}

/// Why there is no place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum Full {
    /// The account waits already.
    #[error("you have asked for this several times already; wait until that is done")]
    OfAccount,
    /// The account has asked for another of the kind since.
    #[error(
        "you have asked for another of these since, and that one is computed; try again after it"
    )]
    AskedAnew,
    /// Too many wait, or none became free in time.
    #[error("others ask for the same at the moment; try again soon")]
    OfAll,
}

/// Places.
#[derive(Debug)]
pub struct Places {
    rules: Rules,
    state: Mutex<State>,
}

#[derive(Debug, Default)]
struct State {
    taken: usize,
    of_account: HashMap<i64, usize>,
    of_site: HashMap<i64, usize>,
    /// Who waits, by account; the account whose turn is next first.
    queue: VecDeque<(i64, VecDeque<Waiter>)>,
}

#[derive(Debug)]
struct Waiter {
    site: i64,
    called: oneshot::Sender<Place>,
}

/// A place that is taken; dropped, it is the next one's.
#[derive(Debug)]
pub struct Place {
    places: Arc<Places>,
    account: i64,
    site: i64,
}

impl Drop for Place {
    fn drop(&mut self) {
        let called = {
            let mut state = self.places.state();
            state.taken -= 1;
            let State {
                of_account,
                of_site,
                ..
            } = &mut *state;
            for (counts, id) in [(of_account, self.account), (of_site, self.site)] {
                if let Some(count) = counts.get_mut(&id) {
                    *count -= 1;
                    if *count == 0 {
                        counts.remove(&id);
                    }
                }
            }
            self.places.next(&mut state)
        };
        Places::call(called);
    }
}

impl Places {
    /// Free places.
    #[must_use]
    pub fn new(rules: Rules) -> Arc<Self> {
        Arc::new(Self {
            rules,
            state: Mutex::default(),
        })
    }

    fn state(&self) -> MutexGuard<'_, State> {
        self.state.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Waits for a place for an account on a site.
    ///
    /// # Errors
    /// [`Full`].
    pub async fn take(self: &Arc<Self>, account: AccountId, site: SiteId) -> Result<Place, Full> {
        let (called, mut hears) = oneshot::channel();
        let waiter = Waiter {
            site: site.0,
            called,
        };
        let called = {
            let mut state = self.state();
            state.leave();
            self.queue(&mut state, account.0, waiter)?;
            self.next(&mut state)
        };
        Self::call(called);
        if let Ok(place) = hears.try_recv() {
            return Ok(place);
        }
        match tokio::time::timeout(self.rules.patience, hears).await {
            Ok(Ok(place)) => Ok(place),
            _ => Err(Full::OfAll),
        }
    }

    /// Queues who waits at the end of its account's queue.
    fn queue(&self, state: &mut State, account: i64, waiter: Waiter) -> Result<(), Full> {
        let waiting: usize = state.queue.iter().map(|(_, of)| of.len()).sum();
        let own = state.queue.iter_mut().find(|(id, _)| *id == account);
        if own
            .as_ref()
            .is_some_and(|(_, own)| own.len() >= self.rules.waiting_of_account)
        {
            return Err(Full::OfAccount);
        }
        if waiting >= self.rules.waiting {
            return Err(Full::OfAll);
        }
        match own {
            Some((_, own)) => own.push_back(waiter),
            None => state.queue.push_back((account, VecDeque::from([waiter]))),
        }
        Ok(())
    }

    /// Takes all places that are free for those whose turn it is.
    fn next(self: &Arc<Self>, state: &mut State) -> Vec<(oneshot::Sender<Place>, Place)> {
        let mut called = Vec::new();
        while state.taken < self.rules.at_once {
            let may = |(account, waiters): &(i64, VecDeque<Waiter>)| {
                let site = waiters.front().map_or(0, |waiter| waiter.site);
                let taken =
                    |counts: &HashMap<i64, usize>, id| counts.get(id).copied().unwrap_or_default();
                taken(&state.of_account, account) < self.rules.of_account
                    && taken(&state.of_site, &site) < self.rules.of_site
            };
            let Some((account, mut waiters)) = state
                .queue
                .iter()
                .position(may)
                .and_then(|at| state.queue.remove(at))
            else {
                break;
            };
            if let Some(waiter) = waiters.pop_front() {
                state.taken += 1;
                *state.of_account.entry(account).or_default() += 1;
                *state.of_site.entry(waiter.site).or_default() += 1;
                let place = Place {
                    places: self.clone(),
                    account,
                    site: waiter.site,
                };
                called.push((waiter.called, place));
            }
            // The account's next turn comes after all others'.
            if !waiters.is_empty() {
                state.queue.push_back((account, waiters));
            }
        }
        called
    }

    /// Hands places over, while nothing is locked: a place whose asker has gone is dropped, and the next one's.
    fn call(called: Vec<(oneshot::Sender<Place>, Place)>) {
        for (asker, place) in called {
            drop(asker.send(place));
        }
    }
}

impl State {
    /// Forgets who has gone without a place.
    fn leave(&mut self) {
        for (_, waiters) in &mut self.queue {
            waiters.retain(|waiter| !waiter.called.is_closed());
        }
        self.queue.retain(|(_, waiters)| !waiters.is_empty());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const RULES: Rules = Rules {
        at_once: 2,
        of_account: 1,
        of_site: 2,
        waiting: 4,
        waiting_of_account: 3,
        patience: Duration::from_secs(30),
    };
    const SITE: SiteId = SiteId(1);

    fn asks(places: &Arc<Places>, account: i64) -> tokio::task::JoinHandle<Result<Place, Full>> {
        let places = places.clone();
        tokio::spawn(async move { places.take(AccountId(account), SITE).await })
    }

    #[tokio::test(start_paused = true)]
    async fn accounts_take_turns_and_one_never_has_more_than_its_share() {
        let places = Places::new(RULES);
        let first = places.take(AccountId(1), SITE).await.unwrap();
        // A second place is free, and not for the same account.
        let again: Vec<_> = (0..3).map(|_| asks(&places, 1)).collect();
        tokio::task::yield_now().await;
        assert!(!again[0].is_finished());
        assert_eq!(
            places.take(AccountId(1), SITE).await.unwrap_err(),
            Full::OfAccount
        );
        let other = places.take(AccountId(2), SITE).await.unwrap();
        let third = asks(&places, 3);
        tokio::task::yield_now().await;
        assert_eq!(
            places.take(AccountId(4), SITE).await.unwrap_err(),
            Full::OfAll
        );
        // Who asked once does not wait for all who asked before.
        drop(other);
        let third = third.await.unwrap().unwrap();
        drop(first);
        for one in again {
            drop(one.await.unwrap().unwrap());
        }
        drop(third);
        let state = places.state();
        assert_eq!((state.taken, state.queue.len()), (0, 0));
        assert!(state.of_account.is_empty() && state.of_site.is_empty());
    }

    #[tokio::test(start_paused = true)]
    async fn a_site_has_its_share_and_who_has_gone_or_waited_long_enough_takes_no_place() {
        let places = Places::new(Rules {
            of_site: 1,
            ..RULES
        });
        let first = places.take(AccountId(1), SITE).await.unwrap();
        assert_eq!(
            places.take(AccountId(2), SITE).await.unwrap_err(),
            Full::OfAll,
            "after half a minute"
        );
        let elsewhere = places.take(AccountId(2), SiteId(2)).await.unwrap();
        let gone = asks(&places, 3);
        tokio::task::yield_now().await;
        gone.abort();
        tokio::task::yield_now().await;
        drop((first, elsewhere));
        assert!(places.take(AccountId(4), SITE).await.is_ok());
        assert_eq!(places.state().taken, 0);
    }
}
