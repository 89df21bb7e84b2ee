//! One site's controller: what it holds, what it has begun, and the log of what happened, on the clock of whoever asks.

use std::collections::{BTreeMap, BTreeSet};
use std::time::{SystemTime, UNIX_EPOCH};

use jiff::{Timestamp, ToSpan};
use serde::{Deserialize, Serialize};

use super::flow_meter::{FlowMeter, Flowing};

/// Litres of one pulse of its flow meter; made up, as all figures of this device.
pub const LITRES_PER_PULSE: f64 = 10.0;
/// Seconds between counts of pulses.
const COUNTED_EVERY_S: i64 = 300;
/// Seconds after which a flow that is none, or too much, is noticed.
const NOTICED_AFTER_S: i64 = 120;
/// A broken head lets so much more through, clogged ones so much less.
const BROKEN: f64 = 1.4;
const CLOGGED: f64 = 0.7;
/// A pass that came so late still begins, s.
const LATE_S: i64 = 120;
/// Most passes of a programme.
const MOST_PASSES: usize = 5000;

/// A valve.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Valve {
    /// The zone that it waters.
    pub zone: String,
    /// What the zone is called.
    pub name: String,
    /// What flows while it is open and whole, l/min.
    pub flow_l_min: f64,
}

/// A valve that opens once.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Pass {
    /// Its identifier, the sender's.
    pub id: String,
    /// The zone.
    pub zone: String,
    /// When it opens.
    pub starts: Timestamp,
    /// For how long, s.
    pub seconds: i64,
}

impl Pass {
    fn at(&self, after_s: i64) -> Timestamp {
        self.starts
            .checked_add(after_s.seconds())
            .unwrap_or(Timestamp::MAX)
    }
}

/// A whole programme.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Programme {
    /// Passes of the programme before that start before this go on.
    pub from: Timestamp,
    /// The valves.
    pub valves: Vec<Valve>,
    /// What is to run.
    pub passes: Vec<Pass>,
}

/// What is wrong with a valve's flow.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Fault {
    /// It is open and nothing flows.
    NoFlow,
    /// More flows than its sprinklers take.
    HighFlow,
}

/// What happened.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum What {
    /// A pass began.
    Started {
        /// The pass.
        pass: String,
    },
    /// The meter counted during a pass.
    Pulses {
        /// The pass.
        pass: String,
        /// How often, since the last count of it.
        count: u64,
    },
    /// A pass ended.
    Stopped {
        /// The pass.
        pass: String,
        /// For how long it was open, s.
        seconds: i64,
    },
    /// A pass came too late to run.
    Missed {
        /// The pass.
        pass: String,
    },
    /// A valve's flow is wrong.
    Fault {
        /// The pass.
        pass: String,
        /// The zone.
        zone: String,
        /// What.
        fault: Fault,
    },
}

/// A line of the log.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Report {
    /// Counts the lines, from 1.
    pub number: u64,
    /// When.
    pub at: Timestamp,
    /// What.
    #[serde(flatten)]
    pub what: What,
}

/// A pass that has begun.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
struct Begun {
    pass: Pass,
    flow_l_min: f64,
    fault: Option<Fault>,
    /// How long its valve stays open after it was told to close, s.
    #[serde(default)]
    open_s: i64,
}

impl Begun {
    /// Pulses up to so many seconds after its start.
    fn pulses(&self, after_s: i64) -> u64 {
        #[expect(
            clippy::cast_precision_loss,
            clippy::cast_possible_truncation,
            clippy::cast_sign_loss
        )] // at most a day of a valve's flow
        let pulses = (self.flow_l_min * after_s as f64 / 60.0 / LITRES_PER_PULSE) as u64;
        pulses
    }

    /// All that happens after it has started, each with its second.
    fn events(&self) -> Vec<(i64, What)> {
        let (pass, seconds) = (&self.pass.id, self.pass.seconds);
        let mut events = Vec::new();
        let mut counted = 0;
        let mut at = 0;
        while at < seconds {
            let from = at;
            at = (at + COUNTED_EVERY_S).min(seconds);
            if let Some(fault) = self.fault
                && (from..at).contains(&NOTICED_AFTER_S)
            {
                let (pass, zone) = (pass.clone(), self.pass.zone.clone());
                events.push((NOTICED_AFTER_S, What::Fault { pass, zone, fault }));
            }
            let count = self.pulses(at) - counted;
            if count > 0 {
                counted += count;
                let pass = pass.clone();
                events.push((at, What::Pulses { pass, count }));
            }
        }
        let pass = pass.clone();
        events.push((seconds, What::Stopped { pass, seconds }));
        events
    }
}

/// Why a programme is not taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotTaken {
    /// It has taken a newer publication, or has dropped this one.
    Over(Option<i64>),
    /// It does not hold together.
    Unsound(&'static str),
}

/// A site's controller.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
pub struct Device {
    /// The publication that it holds.
    pub holds: Option<i64>,
    /// The newest that it ever took: an older one that comes late is not taken.
    newest: Option<i64>,
    passes: Vec<Pass>,
    begun: Vec<Begun>,
    flows: BTreeMap<String, f64>,
    log: Vec<Report>,
    /// Which log that is; empty where nothing happened yet.
    #[serde(default)]
    log_id: String,
    now: Option<Timestamp>,
    /// Zones whose valve does not open.
    pub stuck: BTreeSet<String>,
    /// Zones with a broken head.
    pub broken: BTreeSet<String>,
    /// Zones with clogged heads.
    #[serde(default)]
    pub clogged: BTreeSet<String>,
    /// Zones whose valve closes late, min.
    #[serde(default)]
    pub stays_open_min: BTreeMap<String, i64>,
    /// A flow meter on the supply.
    #[serde(default)]
    pub flow_meter: Option<FlowMeter>,
}

impl Device {
    /// Which log its log is; `None`: nothing happened yet, or an earlier version wrote it.
    #[must_use]
    pub fn log_id(&self) -> Option<&str> {
        Some(self.log_id.as_str()).filter(|id| !id.is_empty())
    }

    /// Lives on to an instant: what was to start by then has started, and so on. An earlier one changes nothing.
    pub fn advance(&mut self, as_of: Timestamp) {
        let before = self.now.unwrap_or(Timestamp::MIN);
        let mut happened: Vec<(Timestamp, What)> = Vec::new();
        let (begin, later): (Vec<Pass>, Vec<Pass>) =
            self.passes.drain(..).partition(|p| p.starts <= as_of);
        self.passes = later;
        for pass in begin {
            let started = What::Started {
                pass: pass.id.clone(),
            };
            happened.push((pass.starts, started));
            let whole = self.flows.get(&pass.zone).copied().unwrap_or(0.0);
            let (flow_l_min, fault) = if self.stuck.contains(&pass.zone) {
                (0.0, Some(Fault::NoFlow))
            } else if self.broken.contains(&pass.zone) {
                (whole * BROKEN, Some(Fault::HighFlow))
            } else if self.clogged.contains(&pass.zone) {
                (whole * CLOGGED, None)
            } else {
                (whole, None)
            };
            let late_min = self.stays_open_min.get(&pass.zone);
            self.begun.push(Begun {
                open_s: late_min.map_or(0, |min| min * 60),
                pass,
                flow_l_min,
                fault,
            });
        }
        for begun in &self.begun {
            let events = begun.events().into_iter();
            let events = events.map(|(after_s, what)| (begun.pass.at(after_s), what));
            happened.extend(events.filter(|(at, _)| *at > before && *at <= as_of));
        }
        if let Some(meter) = &mut self.flow_meter {
            let flows = self.begun.iter().map(|b| Flowing {
                from: b.pass.starts,
                to: b.pass.at(b.pass.seconds + b.open_s),
                l_min: b.flow_l_min,
            });
            meter.count(as_of, &flows.collect::<Vec<_>>());
        }
        // A minute more: the meter counts full ones.
        self.begun
            .retain(|b| b.pass.at(b.pass.seconds + b.open_s + 60) > as_of);
        happened.sort_by_key(|(at, _)| *at);
        for (at, what) in happened {
            self.note(at, what);
        }
        self.now = Some(before.max(as_of));
    }

    fn note(&mut self, at: Timestamp, what: What) {
        let number = self.log.last().map_or(1, |last| last.number + 1);
        if self.log.is_empty() {
            // Another device, or one that has lost its file, begins another log.
            let now = SystemTime::now().duration_since(UNIX_EPOCH);
            self.log_id = format!("{:x}", now.unwrap_or_default().as_nanos());
        }
        self.log.push(Report { number, at, what });
    }

    /// Takes a programme; `false`: it holds it already, and nothing changes.
    ///
    /// # Errors
    /// [`NotTaken`].
    pub fn put(
        &mut self,
        publication: i64,
        programme: Programme,
        as_of: Timestamp,
    ) -> Result<bool, NotTaken> {
        self.advance(as_of);
        if self.holds == Some(publication) {
            return Ok(false);
        }
        if self.newest >= Some(publication) {
            return Err(NotTaken::Over(self.holds));
        }
        let ids: BTreeSet<&str> = programme.passes.iter().map(|p| p.id.as_str()).collect();
        if ids.len() < programme.passes.len() || ids.contains("") {
            return Err(NotTaken::Unsound("each pass has an identifier of its own"));
        }
        if programme.passes.len() > MOST_PASSES {
            return Err(NotTaken::Unsound("at most 5000 passes"));
        }
        if programme
            .passes
            .iter()
            .any(|p| !(1..=86_400).contains(&p.seconds))
        {
            return Err(NotTaken::Unsound("a pass runs for 1 s to a day"));
        }
        self.passes.retain(|p| p.starts < programme.from);
        for mut pass in programme.passes {
            let late_s = as_of.duration_since(pass.starts).as_secs().max(0);
            // A moment under way is made good by beginning at once and ending in time; what comes later is told, and does not run.
            if late_s >= LATE_S || late_s >= pass.seconds {
                self.note(as_of, What::Missed { pass: pass.id });
                continue;
            }
            pass.starts = pass.at(late_s);
            pass.seconds -= late_s;
            self.passes.push(pass);
        }
        let flows = programme.valves.into_iter();
        self.flows.extend(flows.map(|v| (v.zone, v.flow_l_min)));
        self.holds = Some(publication);
        self.newest = Some(publication);
        Ok(true)
    }

    /// Drops a programme, if it holds it: what has begun goes on to its end.
    pub fn drop_programme(&mut self, publication: i64, as_of: Timestamp) {
        self.advance(as_of);
        if self.holds == Some(publication) {
            self.passes.clear();
            self.holds = None;
        }
    }

    /// The log after a line.
    pub fn log_after(&self, number: u64) -> &[Report] {
        let from = self.log.partition_point(|r| r.number <= number);
        &self.log[from..]
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(minute: i64) -> Timestamp {
        let four: Timestamp = "2026-06-18T04:00:00Z".parse().unwrap();
        four.checked_add(minute.minutes()).unwrap()
    }

    fn programme(from: i64, passes: &[(&str, &str, i64)]) -> Programme {
        Programme {
            from: at(from),
            valves: ["a", "b"]
                .map(|zone| Valve {
                    zone: zone.to_owned(),
                    name: zone.to_owned(),
                    flow_l_min: 50.0,
                })
                .to_vec(),
            passes: passes
                .iter()
                .map(|(id, zone, minute)| Pass {
                    id: (*id).to_owned(),
                    zone: (*zone).to_owned(),
                    starts: at(*minute),
                    seconds: 600,
                })
                .collect(),
        }
    }

    fn starts(device: &Device) -> Vec<&str> {
        let log = device.log_after(0).iter();
        log.filter_map(|r| match &r.what {
            What::Started { pass } => Some(pass.as_str()),
            _ => None,
        })
        .collect()
    }

    fn pulses(device: &Device, of: &str) -> u64 {
        let log = device.log_after(0).iter();
        log.filter_map(|r| match &r.what {
            What::Pulses { pass, count } if pass == of => Some(*count),
            _ => None,
        })
        .sum()
    }

    #[test]
    fn each_pass_runs_once_however_often_it_is_asked() {
        let passes = programme(0, &[("1", "a", 10), ("2", "b", 20)]);
        let mut device = Device::default();
        assert_eq!(device.put(7, passes.clone(), at(0)), Ok(true));
        assert_eq!(device.put(7, passes.clone(), at(0)), Ok(false));
        // Half of the first has run: it is told as far as it has come.
        device.advance(at(15));
        assert_eq!((starts(&device), pulses(&device, "1")), (vec!["1"], 25));
        for minute in [15, 12, 25, 60, 60] {
            device.advance(at(minute));
        }
        assert_eq!(device.put(7, passes, at(61)), Ok(false));
        assert_eq!(starts(&device), ["1", "2"]);
        // Ten minutes of 50 l/min.
        assert_eq!((pulses(&device, "1"), pulses(&device, "2")), (50, 50));
        let numbers: Vec<u64> = device.log_after(0).iter().map(|r| r.number).collect();
        let counted: Vec<u64> = (1..).take(numbers.len()).collect();
        assert_eq!(numbers, counted);
    }

    #[test]
    fn what_comes_late_is_told_and_never_runs() {
        let mut device = Device::default();
        let late = programme(0, &[("1", "a", 10), ("2", "b", 20)]);
        assert_eq!(device.put(7, late, at(15)), Ok(true));
        device.advance(at(60));
        assert_eq!(starts(&device), ["2"]);
        let missed = What::Missed {
            pass: "1".to_owned(),
        };
        assert_eq!(device.log_after(0)[0].what, missed);
    }

    #[test]
    fn a_moment_under_way_is_made_good() {
        let mut device = Device::default();
        let passes = programme(0, &[("1", "a", 10), ("2", "b", 14)]);
        assert_eq!(device.put(7, passes, at(15)), Ok(true));
        device.advance(at(60));
        // The second came a minute late: it began at once and ended when it should have.
        assert_eq!(starts(&device), ["2"]);
        let stopped = device.log_after(0).last().unwrap();
        assert_eq!(stopped.at, at(24));
        let what = What::Stopped {
            pass: "2".to_owned(),
            seconds: 540,
        };
        assert_eq!(stopped.what, what);
    }

    #[test]
    fn a_newer_programme_takes_the_place_of_what_has_not_begun() {
        let mut device = Device::default();
        let first = programme(0, &[("1", "a", 10), ("2", "b", 20), ("3", "a", 40)]);
        device.put(7, first.clone(), at(0)).unwrap();
        // From minute 30 on another: what starts before goes on.
        device
            .put(8, programme(30, &[("4", "b", 50)]), at(15))
            .unwrap();
        assert_eq!(device.put(7, first, at(16)), Err(NotTaken::Over(Some(8))));
        device.advance(at(45));
        device.drop_programme(7, at(45));
        assert_eq!(device.holds, Some(8));
        device.drop_programme(8, at(45));
        // Withdrawn, a copy of it that was under way is not taken.
        let again = device.put(8, programme(30, &[("4", "b", 50)]), at(46));
        assert_eq!(again, Err(NotTaken::Over(None)));
        device.advance(at(90));
        assert_eq!(starts(&device), ["1", "2"]);
        assert_eq!(device.holds, None);
    }

    #[test]
    fn stuck_valves_and_broken_heads_show_in_the_flow() {
        let mut device = Device::default();
        device.stuck.insert("a".to_owned());
        device.broken.insert("b".to_owned());
        let passes = programme(0, &[("1", "a", 10), ("2", "b", 20)]);
        device.put(7, passes, at(0)).unwrap();
        device.advance(at(60));
        assert_eq!((pulses(&device, "1"), pulses(&device, "2")), (0, 70));
        let faults = device.log_after(0).iter().filter_map(|r| match &r.what {
            What::Fault { zone, fault, .. } => Some((zone.as_str(), *fault)),
            _ => None,
        });
        let faults: Vec<_> = faults.collect();
        assert_eq!(faults, [("a", Fault::NoFlow), ("b", Fault::HighFlow)]);
    }

    #[test]
    fn what_does_not_hold_together_is_not_taken() {
        let mut device = Device::default();
        let twice = programme(0, &[("1", "a", 10), ("1", "b", 20)]);
        assert!(matches!(
            device.put(7, twice, at(0)),
            Err(NotTaken::Unsound(_))
        ));
        let mut endless = programme(0, &[("1", "a", 10)]);
        endless.passes[0].seconds = 90_000;
        assert!(matches!(
            device.put(7, endless, at(0)),
            Err(NotTaken::Unsound(_))
        ));
        assert_eq!(device.holds, None);
    }
}
