//! What a flow meter counts by the minute, and whose water it was: a pass that was open, or nobody's.

use jiff::{SignedDuration, Timestamp};
use science::robust::median;

use crate::quantity::Volume;

/// Seconds of a minute.
const MINUTE_S: i64 = 60;
/// Minutes around a pass whose water is the pass's: valves and clocks are not exact (no source).
const MARGIN: i64 = 1;
/// Hours over which water that flows with nothing on is told from a hose: a leak goes on through most such stretches of a day, a hose does not (no source).
pub const BLOCK_H: usize = 3;
/// Share of a pass that must be heard for it to say anything.
pub const HEARD: f64 = 0.8;
/// Fewest minutes of a stretch that were heard and idle, for it to say anything.
const LEAST_IDLE_MIN: u32 = 45;

/// Counts of a meter by the minute, without a gap in time; a minute of which nothing was heard is `None`.
#[derive(Debug, Clone, Copy)]
pub struct Minutes<'a> {
    /// The first minute.
    pub from: Timestamp,
    /// Pulses of each minute.
    pub counts: &'a [Option<u16>],
    /// What a pulse stands for.
    pub pulse: Volume,
    /// How many of them are looked at; those after them are there for passes that go on.
    pub day: usize,
}

/// A pass of a zone: from when to when its valve was open.
#[derive(Debug, Clone, PartialEq)]
pub struct Pass {
    /// Which zone, by its place in the site's list.
    pub zone: usize,
    /// It opened.
    pub from: Timestamp,
    /// It closed.
    pub to: Timestamp,
    /// What its zone takes by its rate and area, L/min.
    pub rated_l_min: f64,
    /// Whether it says what its zone takes: all of its own sprinklers were on, and it began in the minutes that are looked at. One that does not explains its
    /// water all the same.
    pub judged: bool,
}

/// What a pass took.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Taken {
    /// What flowed, by the minutes that were heard.
    pub litres: Volume,
    /// Minutes that were heard, of its length.
    pub heard_min: f64,
    /// Its length, min.
    pub length_min: f64,
}

/// What flowed with nothing on, in a stretch of [`BLOCK_H`] hours.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Idle {
    /// Pulses.
    pub pulses: u32,
    /// Minutes that were heard, and in which nothing was on.
    pub minutes: u32,
}

/// Water that flowed with nothing on, without a break.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Burst {
    /// When it began.
    pub from: Timestamp,
    /// How long, min.
    pub minutes: u32,
    /// How much, without what flows all the time.
    pub litres: Volume,
    /// The pass that had just ended, by its place in the list, where it began as that ended.
    pub after: Option<usize>,
}

/// Whose water it was.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Attributed {
    /// Of each pass what it took.
    pub passes: Vec<Taken>,
    /// What flowed with nothing on, by stretches from the first minute on.
    pub idle: Vec<Idle>,
    /// Water without a break, of at least [`BURST_MIN`] minutes.
    pub bursts: Vec<Burst>,
    /// What flows with nothing on, L/h: the middle of its stretches, so that a hose in one of them is no leak; 0 where nothing is known.
    pub idle_l_h: f64,
    /// Everything that was counted in the minutes that are looked at.
    pub metered: Volume,
    /// How many of them were heard.
    pub heard_min: u32,
}

/// Fewest minutes running with water that are told as one.
pub const BURST_MIN: u32 = 4;

impl Idle {
    /// What flowed an hour, L/h; `None`: too little was heard of it.
    #[must_use]
    pub fn litres_an_hour(&self, pulse: Volume) -> Option<f64> {
        (self.minutes >= LEAST_IDLE_MIN)
            .then(|| f64::from(self.pulses) * pulse.l() / f64::from(self.minutes) * 60.0)
    }
}

/// Whose water each minute's was. Of passes that run together each gets its share by rate; a minute next to a pass is the pass's.
#[must_use]
pub fn attribute(minutes: &Minutes, passes: &[Pass]) -> Attributed {
    let first = minutes.from.as_second();
    let count = minutes.counts.len();
    let minute_of = |at: i64| (at - first).div_euclid(MINUTE_S);
    let index = |minute: i64| usize::try_from(minute).ok().filter(|i| *i < count);
    // Of each minute the passes in it, with their seconds and what they should take.
    let mut open: Vec<Vec<(usize, f64)>> = vec![Vec::new(); count];
    let mut taken: Vec<Taken> = Vec::with_capacity(passes.len());
    for (i, pass) in passes.iter().enumerate() {
        let (from, to) = (pass.from.as_second(), pass.to.as_second());
        let mut heard_s = 0;
        for minute in (minute_of(from) - MARGIN)..=(minute_of(to - 1) + MARGIN) {
            let Some(at) = index(minute) else { continue };
            let begins = first + minute * MINUTE_S;
            let within = (to.min(begins + MINUTE_S) - from.max(begins)).max(0);
            if minutes.counts[at].is_some() {
                heard_s += within;
            }
            // In a minute beside it the pass has a little of a claim, and the less one where another is open.
            #[allow(clippy::cast_precision_loss)] // at most sixty seconds
            let weight = (within as f64).max(1e-3) * pass.rated_l_min.max(1e-3);
            open[at].push((i, weight));
        }
        #[allow(clippy::cast_precision_loss)] // at most a day of seconds
        taken.push(Taken {
            litres: Volume::default(),
            heard_min: heard_s as f64 / 60.0,
            length_min: (to - from) as f64 / 60.0,
        });
    }
    let per_block = BLOCK_H * 60;
    let mut idle = vec![Idle::default(); minutes.day.min(count).div_ceil(per_block)];
    let (mut metered, mut heard_min) = (0_u64, 0);
    for (at, counted) in minutes.counts.iter().enumerate() {
        let Some(pulses) = counted.map(u32::from) else {
            continue;
        };
        let is_looked_at = at < minutes.day;
        if is_looked_at {
            metered += u64::from(pulses);
            heard_min += 1;
        }
        let claims = &open[at];
        if claims.is_empty() {
            if !is_looked_at {
                continue;
            }
            let block = &mut idle[at / per_block];
            block.minutes += 1;
            block.pulses += pulses;
            continue;
        }
        let litres = f64::from(pulses) * minutes.pulse.l();
        let all: f64 = claims.iter().map(|(_, weight)| weight).sum();
        for (pass, weight) in claims {
            let share = Volume::from_l(litres * weight / all);
            taken[*pass].litres = taken[*pass].litres + share;
        }
    }
    let mut rates: Vec<f64> = (idle.iter())
        .filter_map(|idle| idle.litres_an_hour(minutes.pulse))
        .collect();
    let idle_l_h = median(&mut rates).unwrap_or(0.0);
    #[allow(clippy::cast_precision_loss)] // pulses of some days
    let metered = Volume::from_l(metered as f64 * minutes.pulse.l());
    Attributed {
        bursts: bursts(minutes, &open, idle_l_h),
        passes: taken,
        idle,
        idle_l_h,
        metered,
        heard_min,
    }
}

/// Water without a break with nothing on, well above what flows all the time.
fn bursts(minutes: &Minutes, open: &[Vec<(usize, f64)>], idle_l_h: f64) -> Vec<Burst> {
    let leaks = idle_l_h / 60.0;
    let least = 2.0 * leaks + 0.5 * minutes.pulse.l();
    let mut bursts: Vec<Burst> = Vec::new();
    let mut running: Option<Burst> = None;
    let mut last_open: Option<usize> = None;
    for (at, counted) in minutes.counts.iter().take(minutes.day).enumerate() {
        let litres = counted.map(|pulses| f64::from(pulses) * minutes.pulse.l());
        let claims = &open[at];
        if let Some(litres) = litres.filter(|l| claims.is_empty() && *l > least) {
            let offset = i64::try_from(at).unwrap_or(0) * MINUTE_S;
            let burst = running.get_or_insert(Burst {
                from: minutes.from + SignedDuration::from_secs(offset),
                minutes: 0,
                litres: Volume::default(),
                after: last_open,
            });
            burst.minutes += 1;
            burst.litres = burst.litres + Volume::from_l(litres - leaks);
        } else {
            bursts.extend(running.take());
        }
        last_open = claims.last().map(|(pass, _)| *pass);
    }
    bursts.extend(running);
    bursts.retain(|burst| burst.minutes >= BURST_MIN);
    bursts
}
