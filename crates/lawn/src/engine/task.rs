//! What the clock places: a zone's passes, and the least time that some take.

use crate::engine::reserve::Reserve;
use crate::quantity::RunTime;

/// All of what may run at a time.
pub const WHOLE: u32 = 1000;

/// A zone's passes.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Task {
    /// The zone's place in the site's list.
    pub zone: usize,
    /// Number of passes.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Least rest after each but the last, s.
    pub soak_s: i64,
    /// What it takes of [`WHOLE`], 1 to all: where one zone runs at a time, all.
    pub takes: u32,
    /// Its flow, L/s.
    pub flow_l_s: f64,
}

impl Task {
    fn volume_l(&self) -> f64 {
        f64::from(self.passes) * self.flow_l_s * RunTime::from_whole_s(self.pass_s).s()
    }

    pub(crate) fn chain_s(&self, passes_left: u32) -> i64 {
        let n = i64::from(passes_left);
        n * self.pass_s + (n - 1).max(0) * self.soak_s
    }
}

/// When the passes of a zone start, in seconds since 1970-01-01 UTC.
#[derive(Debug, Clone, PartialEq)]
pub struct Placed {
    /// The task.
    pub task: Task,
    /// Start of each pass.
    pub starts_s: Vec<i64>,
}

/// The least time that the tasks can take, s.
#[must_use]
pub fn lower_bound_s(tasks: &[Task], reserve: Option<&Reserve>) -> i64 {
    let shared: i64 = tasks
        .iter()
        .map(|t| i64::from(t.passes) * t.pass_s * i64::from(t.takes))
        .sum();
    let running = (shared + i64::from(WHOLE) - 1) / i64::from(WHOLE);
    let chain = tasks.iter().map(|t| t.chain_s(t.passes)).max().unwrap_or(0);
    let drawn = reserve.map_or(0, |r| r.least_s(tasks.iter().map(Task::volume_l).sum()));
    running.max(chain).max(drawn)
}
