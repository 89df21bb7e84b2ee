//! How many requests an account and a peer may send: so many a second in the long run, ten times as many at once. Counted in this
//! process, in memory: what it protects is this process.

use std::hash::Hash;
use std::num::NonZeroU32;
use std::sync::atomic::{AtomicU32, Ordering};

use governor::clock::{Clock, DefaultClock};
use governor::state::keyed::HashMapStateStore;
use governor::{Quota, RateLimiter};

use super::error::ApiError;
use super::peer::Peer;
use crate::db::AccountId;
use crate::settings::Settings;

/// Requests at once, of those of a second.
const BURST: u32 = 10;
/// Requests between two looks for keys that nobody uses any more.
const SWEEP_EVERY: u32 = 10_000;

struct Keyed<K: Clone + Hash + Eq> {
    limiter: RateLimiter<K, HashMapStateStore<K>, DefaultClock>,
    seen: AtomicU32,
}

impl<K: Clone + Hash + Eq> Keyed<K> {
    fn new(per_s: u32) -> Option<Self> {
        let rate = NonZeroU32::new(per_s)?;
        let burst = NonZeroU32::new(per_s.saturating_mul(BURST))?;
        Some(Self {
            limiter: RateLimiter::hashmap(Quota::per_second(rate).allow_burst(burst)),
            seen: AtomicU32::new(0),
        })
    }

    fn check(&self, key: &K) -> Result<(), ApiError> {
        if self
            .seen
            .fetch_add(1, Ordering::Relaxed)
            .is_multiple_of(SWEEP_EVERY)
        {
            self.limiter.retain_recent();
        }
        self.limiter.check_key(key).map_err(|later| {
            let wait = later.wait_time_from(DefaultClock::default().now());
            ApiError::TooMany(wait.as_secs_f64().ceil().max(1.0))
        })
    }
}

/// The limits of this process.
pub struct Limits {
    accounts: Option<Keyed<i64>>,
    devices: Option<Keyed<i64>>,
    peers: Option<Keyed<Peer>>,
}

impl Limits {
    /// As the settings have them.
    #[must_use]
    pub fn new(settings: &Settings) -> Self {
        Self {
            accounts: Keyed::new(settings.account_requests_per_s),
            devices: Keyed::new(settings.account_requests_per_s),
            peers: Keyed::new(settings.peer_requests_per_s),
        }
    }

    /// Counts a request of an account.
    ///
    /// # Errors
    /// [`ApiError::TooMany`].
    pub fn account(&self, account: AccountId) -> Result<(), ApiError> {
        self.accounts
            .as_ref()
            .map_or(Ok(()), |limit| limit.check(&account.0))
    }

    /// Counts a request of a device: it may send as many as an account.
    ///
    /// # Errors
    /// [`ApiError::TooMany`].
    pub fn device(&self, device: i64) -> Result<(), ApiError> {
        self.devices
            .as_ref()
            .map_or(Ok(()), |limit| limit.check(&device))
    }

    /// Counts a request of a peer.
    ///
    /// # Errors
    /// [`ApiError::TooMany`].
    pub fn peer(&self, peer: &Peer) -> Result<(), ApiError> {
        self.peers
            .as_ref()
            .map_or(Ok(()), |limit| limit.check(peer))
    }
}
