//! A tank, or a well that recovers slowly: what it holds, what runs back in, and what is left of it over the nights.

use jiff::civil::Date;

use crate::quantity::{RunTime, Volume};
use crate::site::Supply;
use crate::site::calendar::{CalendarDay, Interval, unix_day};
use crate::site::supply::Store;

/// Litres below this are none: sums of floats miss by less.
const EPSILON_L: f64 = 1e-6;

const DAY_S: i64 = 86_400;

/// A store as it stands at an instant.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reserve {
    /// What it holds when full, L.
    holds_l: f64,
    /// What runs back in, L/s.
    refill_l_s: f64,
    /// What is in it, L.
    level_l: f64,
    /// When, seconds since 1970-01-01 UTC.
    at_s: i64,
}

/// Water that is being drawn, or would be, from now on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Draw {
    /// Flow, L/s.
    pub flow_l_s: f64,
    /// How much longer, s.
    pub left_s: i64,
}

fn seconds(s: i64) -> f64 {
    RunTime::from_whole_s(s).s()
}

impl Reserve {
    /// A store from which so much was drawn by an instant since it was full.
    #[must_use]
    pub fn drawn(store: &Store, drawn: Volume, at_s: i64) -> Self {
        Self {
            holds_l: store.holds_l,
            refill_l_s: store.refill_l_min / 60.0,
            level_l: (store.holds_l - drawn.l()).max(0.0),
            at_s,
        }
    }

    /// The same with time counted from now on.
    pub(crate) const fn timed_from_now(&self) -> Self {
        Self { at_s: 0, ..*self }
    }

    /// The same at a later instant, if nothing is drawn.
    #[must_use]
    pub fn at(&self, at_s: i64) -> Self {
        self.after(0.0, at_s)
    }

    /// The same at a later instant, with a flow drawn meanwhile, L/s.
    pub(crate) fn after(&self, flow_l_s: f64, at_s: i64) -> Self {
        let passed = seconds((at_s - self.at_s).max(0));
        let level = self.level_l + (self.refill_l_s - flow_l_s) * passed;
        Self {
            level_l: level.clamp(0.0, self.holds_l),
            at_s: at_s.max(self.at_s),
            ..*self
        }
    }

    /// The same after runs, each from a start to an end at a flow.
    pub(crate) fn after_runs(&self, runs: &[(Interval, f64)]) -> Self {
        let mut turns: Vec<i64> = runs
            .iter()
            .flat_map(|(run, _)| [run.start_s, run.end_s])
            .collect();
        turns.sort_unstable();
        turns.iter().fold(*self, |reserve, &turn| {
            let running = |run: &Interval| run.start_s < turn && turn <= run.end_s;
            let of = runs.iter().filter(|(run, _)| running(run));
            reserve.after(of.map(|(_, flow)| flow).sum(), turn)
        })
    }

    /// The same with a volume drawn at once.
    #[must_use]
    pub fn less(&self, volume: Volume) -> Self {
        Self {
            level_l: (self.level_l - volume.l()).max(0.0),
            ..*self
        }
    }

    /// What it can give within a window: what is in it when that opens, and what runs back in until it ends.
    #[must_use]
    pub fn gives(&self, window: Interval) -> Volume {
        let opens = self.at(window.start_s);
        Volume::from_l(opens.level_l + self.refill_l_s * seconds(window.length_s()))
    }

    /// What it can give from now to an instant if it never overflows.
    #[must_use]
    pub fn gives_by(&self, at_s: i64) -> Volume {
        Volume::from_l(self.level_l + self.refill_l_s * seconds((at_s - self.at_s).max(0)))
    }

    /// The longest run at a flow that it can give when full, s.
    #[must_use]
    pub fn longest_s(&self, flow_l_s: f64) -> i64 {
        let net = flow_l_s - self.refill_l_s;
        if net <= 0.0 {
            return i64::MAX;
        }
        RunTime::from_s(self.holds_l / net).floor_s()
    }

    /// The least time in which a volume can be drawn from now on, s.
    pub(crate) fn least_s(&self, volume_l: f64) -> i64 {
        RunTime::from_s(((volume_l - self.level_l) / self.refill_l_s).max(0.0)).ceil_s()
    }

    /// How long one more draw must wait so that the store does not run dry under all of them, s; `None`: for ever.
    pub(crate) fn wait_s(&self, running: &[Draw], more: Draw) -> Option<i64> {
        let draws = || running.iter().chain([&more]);
        let level = |after_s: i64| {
            let drawn: f64 = draws()
                .map(|d| d.flow_l_s * seconds(d.left_s.min(after_s)))
                .sum();
            self.level_l + self.refill_l_s * seconds(after_s) - drawn
        };
        let least = draws().map(|d| level(d.left_s)).fold(0.0, f64::min);
        if least >= -EPSILON_L {
            return Some(0);
        }
        if running.is_empty() && self.level_l >= self.holds_l - EPSILON_L {
            return None;
        }
        Some(RunTime::from_s(-least / self.refill_l_s).ceil_s().max(1))
    }
}

/// The store of a site before the first opening of a day, from what was drawn on the days before, which are in order, and on the day itself: full before
/// the first of them, each day's water as if drawn at noon (no source; what a gauge in the tank says is not known).
#[must_use]
pub fn of_site(
    supply: &Supply,
    drawn: impl IntoIterator<Item = (Date, Volume)>,
    day: &CalendarDay,
) -> Option<Reserve> {
    let store = supply.store.as_ref()?;
    let first = day.windows.first().map_or(day.noon_s, |w| w.start_s);
    let mut reserve = Reserve::drawn(store, Volume::default(), i64::MIN / 2);
    for (date, volume) in drawn {
        let back = unix_day(day.date) - unix_day(date);
        let at_s = if back > 0 {
            day.noon_s - back * DAY_S
        } else {
            first
        };
        reserve = reserve.at(at_s).less(volume);
    }
    Some(reserve.at(first))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// 600 L, 6 L/min back.
    fn tank(drawn_l: f64) -> Reserve {
        let store = Store {
            holds_l: 600.0,
            refill_l_min: 6.0,
        };
        Reserve::drawn(&store, Volume::from_l(drawn_l), 0)
    }

    #[test]
    fn a_tank_fills_again_and_no_further() {
        assert_eq!(tank(300.0).at(1800).level_l, 480.0);
        assert_eq!(tank(300.0).at(90_000).level_l, 600.0);
        let window = Interval {
            start_s: 600,
            end_s: 4200,
        };
        // 60 L by its start, 360 L during it.
        assert_eq!(tank(300.0).gives(window).l(), 720.0);
        // 26 L/min for ten minutes, then nothing for ten.
        let run = Interval {
            start_s: 0,
            end_s: 600,
        };
        let after = tank(0.0).after_runs(&[(run, 26.0 / 60.0)]);
        assert!((after.level_l - 400.0).abs() < 1e-9);
    }

    #[test]
    fn a_draw_waits_until_the_tank_carries_it() {
        let draw = |l_min: f64, left_s: i64| Draw {
            flow_l_s: l_min / 60.0,
            left_s,
        };
        // 20 min at 36 L/min take 30 L/min net: 600 L.
        assert_eq!(tank(0.0).wait_s(&[], draw(36.0, 1200)), Some(0));
        assert_eq!(tank(60.0).wait_s(&[], draw(36.0, 1200)), Some(600));
        assert_eq!(tank(0.0).wait_s(&[], draw(36.0, 1260)), None);
        assert_eq!(tank(0.0).longest_s(0.6), 1200);
        // Beside another that still runs for ten minutes.
        let beside = tank(0.0).wait_s(&[draw(30.0, 600)], draw(36.0, 1200));
        assert_eq!(beside, Some(3000));
    }
}
