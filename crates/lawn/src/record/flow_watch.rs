//! Watching a flow meter day by day: what is normal for each zone is learned, and what departs from it is named with its evidence.
//! The chart is published (`science::cusum`); the thresholds beside it are ours (no source), tried on made-up seasons (`examples/faults`).

use jiff::Timestamp;
use science::cusum::{Cusum, Shift};
use science::robust::{median, median_and_spread};
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::record::flow::{Attributed, BLOCK_H, HEARD, Minutes, Pass, Taken, attribute};

/// Slack and limit of the charts, in standard deviations: a false alarm in some 9500 passes by Siegmund's formula, a shift of five standard deviations told
/// after two.
pub const CHART: (f64, f64) = (0.5, 8.0);
/// Passes from which a zone's normal flow is learned.
const LEARNED_FROM: usize = 5;
/// Passes that it is learned from at most: the last ones.
const REMEMBERED: usize = 30;
/// Least standard deviation of a zone's flow that is believed, share: pressure is not steadier (no source).
const LEAST_SIGMA: f64 = 0.015;
/// How far one pass counts, in standard deviations: a single night of odd pressure is no broken head.
const MOST_Z: f64 = 6.0;
/// Passes running that must be off, and by how much, share, before heads are spoken of.
const OFF: (u32, f64) = (2, 0.06);
/// A pass that took less of its normal, share, did not happen.
const NOTHING: f64 = 0.1;
/// Fewest pulses that a pass must come to, for it to say anything: a pulse at either end is the next one's (no source).
const LEAST_PULSES: f64 = 3.0;
/// Days of idle flow by which the chart of a leak is set.
const IDLE_REMEMBERED: usize = 30;
/// Rate that is off by more than this is told, share.
const RATE_OFF: f64 = 0.1;
/// What a hose takes at least, L/min: water that runs slower with nothing on is no watering.
const HOSE_L_MIN: f64 = 5.0;
/// A valve that stays open takes at least this share of its zone's flow.
const STAYS_OPEN: f64 = 0.5;

/// What is named.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Named {
    /// Water flows with nothing on, day and night.
    Leak {
        /// How much, L/h.
        litres_an_hour: f64,
    },
    /// A zone takes more than it used to: a head is gone or broken.
    MoreThanNormal {
        /// The zone, by its place in the site's list.
        zone: usize,
        /// What it used to take, L/min.
        normal_l_min: f64,
        /// What it takes now, L/min.
        now_l_min: f64,
    },
    /// A zone takes less than it used to: heads are clogged, or its valve does not open fully.
    LessThanNormal {
        /// The zone, by its place in the site's list.
        zone: usize,
        /// What it used to take, L/min.
        normal_l_min: f64,
        /// What it takes now, L/min.
        now_l_min: f64,
    },
    /// A pass of a zone took next to nothing.
    DidNotRun {
        /// The zone, by its place in the site's list.
        zone: usize,
    },
    /// Water went on after a zone's pass.
    StaysOpen {
        /// The zone, by its place in the site's list.
        zone: usize,
        /// For how long, min.
        minutes: u32,
    },
    /// Water flowed for a while with nothing on: somebody watered by hand.
    ByHand {
        /// For how long, min.
        minutes: u32,
    },
    /// A zone takes steadily another flow than its rate and area say.
    WrongRate {
        /// The zone, by its place in the site's list.
        zone: usize,
        /// What it should take, L/min.
        rated_l_min: f64,
        /// What it takes, L/min.
        now_l_min: f64,
    },
}

/// A finding.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[schema(as = FlowFinding)]
pub struct FlowFinding {
    /// What.
    pub named: Named,
    /// Since when, as far as it can be told.
    pub since: Timestamp,
    /// Water of the day that nothing else explains, L; below 0: what is missing.
    pub litres: Volume,
}

/// What is known of a zone's flow.
#[derive(Debug, Clone)]
struct ZoneWatch {
    /// Flows of its last passes that were as usual, L/min.
    usual: Vec<f64>,
    chart: Cusum,
    /// Passes running that were off, to which side, and when the first was.
    off: Option<(Shift, u32, Timestamp)>,
}

/// What has been learned so far; a day is added once it is over.
#[derive(Debug, Clone)]
pub struct Watch {
    zones: Vec<ZoneWatch>,
    /// Idle flow of the last days without a leak, L/h.
    idle: Vec<f64>,
    leak: Cusum,
    /// Since when more flows than used to.
    leaking: Option<Timestamp>,
}

impl ZoneWatch {
    fn new() -> Self {
        Self {
            usual: Vec::new(),
            chart: Cusum::new(CHART.0, CHART.1),
            off: None,
        }
    }

    fn learn(&mut self, flow: f64) {
        if self.usual.len() == REMEMBERED {
            self.usual.remove(0);
        }
        self.usual.push(flow);
    }

    /// Judges a pass of a flow, known to within so much of it, share.
    fn pass(
        &mut self,
        zone: usize,
        at: Timestamp,
        flow: f64,
        doubt: f64,
    ) -> Option<(Named, Timestamp)> {
        if self.usual.len() < LEARNED_FROM {
            self.learn(flow);
            return None;
        }
        let (normal_l_min, spread) = median_and_spread(&self.usual)?;
        let sigma = (spread / normal_l_min).max(LEAST_SIGMA).hypot(doubt);
        let by = flow / normal_l_min - 1.0;
        let shifted = self.chart.add((by / sigma).clamp(-MOST_Z, MOST_Z));
        let side = if by > 0.0 { Shift::Up } else { Shift::Down };
        let is_off = by.abs() > OFF.1.max(3.0 * sigma);
        self.off = match self.off {
            _ if !is_off => None,
            Some((before, count, since)) if before == side => Some((side, count + 1, since)),
            _ => Some((side, 1, at)),
        };
        if !is_off {
            self.learn(flow);
        }
        let (side, count, since) = self.off?;
        if shifted != Some(side) || count < OFF.0 {
            return None;
        }
        let named = match side {
            Shift::Up => Named::MoreThanNormal {
                zone,
                normal_l_min,
                now_l_min: flow,
            },
            Shift::Down => Named::LessThanNormal {
                zone,
                normal_l_min,
                now_l_min: flow,
            },
        };
        Some((named, since))
    }
}

impl Watch {
    /// Nothing is known yet of so many zones.
    #[must_use]
    pub fn new(zones: usize) -> Self {
        Self {
            zones: vec![ZoneWatch::new(); zones],
            idle: Vec::new(),
            leak: Cusum::new(CHART.0, CHART.1),
            leaking: None,
        }
    }

    /// What a zone usually takes, L/min; `None`: it is still being learned.
    #[must_use]
    pub fn normal_l_min(&self, zone: usize) -> Option<f64> {
        let usual = &self.zones.get(zone)?.usual;
        (usual.len() >= LEARNED_FROM)
            .then(|| median(&mut usual.clone()))
            .flatten()
    }

    /// A repaired zone, or one with other nozzles, is learned anew.
    pub fn forget(&mut self, zone: usize) {
        if let Some(watch) = self.zones.get_mut(zone) {
            *watch = ZoneWatch::new();
        }
    }

    /// Looks at a day that is over, with its passes in time order: whose water it was, and what is named, the most water first.
    pub fn day(&mut self, minutes: &Minutes, passes: &[Pass]) -> (Attributed, Vec<FlowFinding>) {
        let whose = attribute(minutes, passes);
        let mut found = Vec::new();
        self.leak_of(minutes, &whose, &mut found);
        for (pass, taken) in passes.iter().zip(&whose.passes) {
            found.extend(self.pass_of(minutes, pass, taken, whose.idle_l_h));
        }
        self.bursts_of(passes, &whose, &mut found);
        found.sort_by(|a, b| b.litres.l().abs().total_cmp(&a.litres.l().abs()));
        (whose, found)
    }

    /// Whether more flows with nothing on than used to.
    fn leak_of(&mut self, minutes: &Minutes, whose: &Attributed, found: &mut Vec<FlowFinding>) {
        let heard = (whose.idle.iter()).any(|idle| idle.litres_an_hour(minutes.pulse).is_some());
        if !heard {
            return;
        }
        let now = whose.idle_l_h;
        // One pulse of a stretch says nothing by itself.
        #[allow(clippy::cast_precision_loss)] // three
        let step = minutes.pulse.l() / BLOCK_H as f64;
        let (usual, spread) = median_and_spread(&self.idle).unwrap_or((0.0, 0.0));
        let sigma = spread.max(0.4 * step);
        let shifted = self
            .leak
            .add(((now - usual) / sigma).clamp(-MOST_Z * 2.0, MOST_Z * 2.0));
        let flows = now > usual + 2.0 * sigma;
        self.leaking = match self.leaking {
            _ if !flows => None,
            Some(since) => Some(since),
            None => Some(minutes.from),
        };
        if let Some(since) = self.leaking
            && shifted == Some(Shift::Up)
        {
            found.push(FlowFinding {
                named: Named::Leak {
                    litres_an_hour: now - usual,
                },
                since,
                litres: Volume::from_l((now - usual) * 24.0),
            });
        } else if !flows {
            if self.idle.len() == IDLE_REMEMBERED {
                self.idle.remove(0);
            }
            self.idle.push(now);
        }
    }

    /// What a pass says, without what leaks all the time.
    fn pass_of(
        &mut self,
        minutes: &Minutes,
        pass: &Pass,
        taken: &Taken,
        idle_l_h: f64,
    ) -> Option<FlowFinding> {
        if !pass.judged || taken.heard_min < HEARD * taken.length_min || taken.heard_min <= 0.0 {
            return None;
        }
        let flow = taken.litres.l() / taken.heard_min - idle_l_h / 60.0;
        let watch = self.zones.get_mut(pass.zone)?;
        let normal = if watch.usual.len() >= LEARNED_FROM {
            median(&mut watch.usual.clone())?
        } else {
            pass.rated_l_min
        };
        if normal * taken.heard_min < LEAST_PULSES * minutes.pulse.l() {
            return None;
        }
        let over = |normal: f64| Volume::from_l((flow - normal) * taken.length_min);
        if flow < NOTHING * normal {
            return Some(FlowFinding {
                named: Named::DidNotRun { zone: pass.zone },
                since: pass.from,
                litres: over(normal),
            });
        }
        // A pulse at each end, and a minute that is counted to the whole pass.
        let doubt = minutes.pulse.l() / taken.litres.l().max(minutes.pulse.l());
        let learned_before = watch.usual.len();
        let named = watch.pass(pass.zone, pass.from, flow, doubt);
        if let Some((named, since)) = named {
            return Some(FlowFinding {
                named,
                since,
                litres: over(normal),
            });
        }
        let now = median(&mut watch.usual.clone())?;
        let is_learned = learned_before < LEARNED_FROM && watch.usual.len() == LEARNED_FROM;
        let wrong = (now / pass.rated_l_min - 1.0).abs() > RATE_OFF.max(2.0 * doubt);
        (is_learned && wrong).then_some(FlowFinding {
            named: Named::WrongRate {
                zone: pass.zone,
                rated_l_min: pass.rated_l_min,
                now_l_min: now,
            },
            since: pass.from,
            litres: over(pass.rated_l_min),
        })
    }

    /// Water for a while with nothing on: of a valve that stayed open, or of a hose.
    fn bursts_of(&self, passes: &[Pass], whose: &Attributed, found: &mut Vec<FlowFinding>) {
        for burst in &whose.bursts {
            let flow = burst.litres.l() / f64::from(burst.minutes);
            let after = burst.after.and_then(|i| passes.get(i));
            let stays_open = after.filter(|pass| {
                if !pass.judged {
                    return false;
                }
                let normal = self.normal_l_min(pass.zone).unwrap_or(pass.rated_l_min);
                flow >= STAYS_OPEN * normal
            });
            let named = match stays_open {
                Some(pass) => Named::StaysOpen {
                    zone: pass.zone,
                    minutes: burst.minutes,
                },
                None if flow >= HOSE_L_MIN => Named::ByHand {
                    minutes: burst.minutes,
                },
                None => continue,
            };
            found.push(FlowFinding {
                named,
                since: burst.from,
                litres: burst.litres,
            });
        }
    }
}
