//! A flow meter on a site's supply: what its controller's valves take, and what leaks, counted by the minute and sent in batches that may be sent twice.

use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};

/// Seconds of a minute.
const MINUTE_S: i64 = 60;
/// Most minutes of a batch.
const BATCH: usize = 1440;

/// Where its batches go.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Sink {
    /// The address that takes minutes (docs/formats/flow.md).
    pub url: String,
    /// The token of a device of the site.
    pub token: String,
}

/// How it misbehaves.
#[derive(Debug, Clone, Copy, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields, default)]
pub struct Quirks {
    /// What leaks all the time, L/h.
    pub leak_l_h: f64,
    /// Every so many hours one is not counted; 0: none.
    pub unheard_every_h: i64,
    /// Its newest batch comes with the next one, and after it.
    pub late: bool,
}

/// Minutes that were counted.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Batch {
    /// The first.
    pub from: Timestamp,
    /// Pulses of each; none: it was not counted.
    pub counts: Vec<Option<u16>>,
}

/// Water that flowed for a while.
#[derive(Debug, Clone, Copy)]
pub struct Flowing {
    /// From when.
    pub from: Timestamp,
    /// Until when.
    pub to: Timestamp,
    /// How much, L/min.
    pub l_min: f64,
}

/// A flow meter.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct FlowMeter {
    /// Where it sends what it counts.
    pub sink: Sink,
    /// Litres of a pulse.
    pub pulse_l: f64,
    /// How it misbehaves.
    pub quirks: Quirks,
    /// The minute that it counts next.
    next: Timestamp,
    /// What has flowed since its last pulse, L.
    rest: f64,
    /// What it has counted and nobody has acknowledged.
    pub waiting: Vec<Batch>,
}

impl FlowMeter {
    /// One that begins to count with the next full minute.
    #[must_use]
    pub fn new(sink: Sink, pulse_l: f64, now: Timestamp) -> Self {
        let minute = (now.as_second() + MINUTE_S - 1).div_euclid(MINUTE_S) * MINUTE_S;
        Self {
            sink,
            pulse_l,
            quirks: Quirks::default(),
            next: Timestamp::from_second(minute).unwrap_or(now),
            rest: 0.0,
            waiting: Vec::new(),
        }
    }

    /// Counts the full minutes up to an instant, by what flowed in them.
    pub fn count(&mut self, as_of: Timestamp, flows: &[Flowing]) {
        let first = self.next.as_second();
        let minutes = (as_of.as_second() - first).div_euclid(MINUTE_S);
        let Ok(minutes) = usize::try_from(minutes) else {
            return;
        };
        let mut litres = vec![self.quirks.leak_l_h / 60.0; minutes];
        for flowing in flows {
            let (from, to) = (flowing.from.as_second(), flowing.to.as_second());
            for (place, minute) in litres.iter_mut().enumerate() {
                let begins = first + i64::try_from(place).unwrap_or(0) * MINUTE_S;
                let within = to.min(begins + MINUTE_S) - from.max(begins);
                #[allow(clippy::cast_precision_loss)] // at most sixty seconds
                if within > 0 {
                    *minute += flowing.l_min * within as f64 / 60.0;
                }
            }
        }
        let mut counts = Vec::with_capacity(minutes);
        for (place, litres) in litres.into_iter().enumerate() {
            self.rest += litres;
            // A pulse comes with the drop that completes it; a hair of slack keeps sums of floats from holding it back.
            let pulses = (self.rest / self.pulse_l + 1e-9).floor();
            self.rest -= pulses * self.pulse_l;
            let hour = (first + i64::try_from(place).unwrap_or(0) * MINUTE_S).div_euclid(3600);
            let every = self.quirks.unheard_every_h;
            let unheard = every > 0 && hour.rem_euclid(every) == 0;
            #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // a minute's pulses
            counts.push((!unheard).then_some(pulses as u16));
        }
        for (n, chunk) in (0_i64..).zip(counts.chunks(BATCH)) {
            let minutes = n * i64::try_from(BATCH).unwrap_or(0);
            self.waiting.push(Batch {
                from: self.next + SignedDuration::from_mins(minutes),
                counts: chunk.to_vec(),
            });
        }
        let counted = i64::try_from(minutes).unwrap_or(0);
        self.next += SignedDuration::from_mins(counted);
    }

    /// What it sends now; of one whose batches come late all but the newest, the newest of them first.
    #[must_use]
    pub fn sends(&self) -> Vec<Batch> {
        let mut sends = self.waiting.clone();
        if self.quirks.late {
            sends.pop();
            sends.reverse();
        }
        sends
    }

    /// A batch was acknowledged.
    pub fn acknowledged(&mut self, batch: &Batch) {
        self.waiting.retain(|waiting| waiting.from != batch.from);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(second: i64) -> Timestamp {
        let four: Timestamp = "2026-06-18T04:00:00Z".parse().unwrap();
        four + SignedDuration::from_secs(second)
    }

    fn meter(pulse_l: f64) -> FlowMeter {
        let sink = Sink {
            url: "http://127.0.0.1:1".to_owned(),
            token: "t".to_owned(),
        };
        FlowMeter::new(sink, pulse_l, at(-30))
    }

    fn pulses(meter: &FlowMeter) -> u32 {
        let batches = meter.waiting.iter().flat_map(|b| &b.counts);
        batches.flatten().map(|n| u32::from(*n)).sum()
    }

    #[test]
    fn every_drop_is_counted_once_however_time_is_cut() {
        let flows = [
            Flowing {
                from: at(90),
                to: at(690),
                l_min: 43.7,
            },
            Flowing {
                from: at(600),
                to: at(900),
                l_min: 12.0,
            },
        ];
        let mut whole = meter(10.0);
        whole.count(at(3600), &flows);
        // 437 and 60 L in pulses of 10.
        assert_eq!(pulses(&whole), 49);
        let mut cut = meter(10.0);
        for second in (0..=3600).step_by(140) {
            cut.count(at(second), &flows);
        }
        cut.count(at(3600), &flows);
        assert_eq!(pulses(&cut), 49);
        let minutes: usize = cut.waiting.iter().map(|b| b.counts.len()).sum();
        assert_eq!(minutes, 60);
        assert_eq!(cut.waiting[0].from, at(0));
        let starts: Vec<Timestamp> = cut.waiting.iter().map(|b| b.from).collect();
        assert!(starts.is_sorted());
    }

    #[test]
    fn leaks_gaps_and_late_batches() {
        let mut meter = meter(1.0);
        meter.quirks = Quirks {
            leak_l_h: 30.0,
            unheard_every_h: 2,
            late: true,
        };
        meter.count(at(4 * 3600), &[]);
        meter.count(at(5 * 3600), &[]);
        let heard = meter
            .waiting
            .iter()
            .flat_map(|b| &b.counts)
            .flatten()
            .count();
        assert!(heard == 120 || heard == 180, "{heard}");
        let sent = meter.sends();
        assert_eq!(sent.len(), 1, "the newest waits");
        meter.acknowledged(&sent[0]);
        assert_eq!(meter.waiting.len(), 1);
    }
}
