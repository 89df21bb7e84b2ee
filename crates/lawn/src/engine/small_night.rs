//! Small nights: the orders of their passes are searched for a shorter one than the list rule found.

use crate::engine::reserve::Reserve;
use crate::engine::task::{Task, WHOLE, lower_bound_s};

/// Nights of at most so many passes, one zone at a time, are searched.
const MOST_PASSES: u32 = 12;

/// Starts of each task's passes and the length of it all, shorter than `length_s`, where the night is small, one zone runs at a time and nothing else binds:
/// what at most so many steps of the search find.
pub(crate) fn shorter(
    tasks: &[Task],
    length_s: i64,
    reserve: Option<&Reserve>,
    steps: u32,
) -> Option<(Vec<Vec<i64>>, i64)> {
    let passes: u32 = tasks.iter().map(|t| t.passes).sum();
    let least = lower_bound_s(tasks, None);
    let alone = tasks.iter().all(|t| t.takes == WHOLE) && reserve.is_none();
    if !alone || passes > MOST_PASSES || length_s <= least {
        return None;
    }
    let mut search = Search {
        tasks,
        state: tasks.iter().map(|t| (t.passes, 0)).collect(),
        starts: vec![Vec::new(); tasks.len()],
        least,
        best: length_s,
        found: None,
        steps,
    };
    search.go(0);
    search.found.map(|starts| (starts, search.best))
}

/// A search through the orders of a small night's passes for a shorter one.
struct Search<'a> {
    tasks: &'a [Task],
    /// Passes left of each and when the next may begin.
    state: Vec<(u32, i64)>,
    starts: Vec<Vec<i64>>,
    least: i64,
    best: i64,
    found: Option<Vec<Vec<i64>>>,
    /// Steps that are left.
    steps: u32,
}

impl Search<'_> {
    fn go(&mut self, now: i64) {
        self.steps = self.steps.saturating_sub(1);
        let left = || self.state.iter().zip(self.tasks).filter(|(s, _)| s.0 > 0);
        if left().next().is_none() {
            self.best = now;
            self.found = Some(self.starts.clone());
            return;
        }
        let all: i64 = left().map(|(s, t)| i64::from(s.0) * t.pass_s).sum();
        let chain = left().map(|(s, t)| now.max(s.1) + t.chain_s(s.0)).max();
        let at_least = (now + all).max(chain.unwrap_or(now));
        let over = self.steps == 0 || self.best <= self.least;
        if over || at_least >= self.best {
            return;
        }
        // What can begin first, the longest chain before others.
        let mut order: Vec<usize> = (0..self.tasks.len())
            .filter(|&i| self.state[i].0 > 0)
            .collect();
        order.sort_by_key(|&i| {
            let (left, ready) = self.state[i];
            (now.max(ready), -self.tasks[i].chain_s(left))
        });
        for i in order {
            let before = self.state[i];
            let start = now.max(before.1);
            let ends = start + self.tasks[i].pass_s;
            self.state[i] = (before.0 - 1, ends + self.tasks[i].soak_s);
            self.starts[i].push(start);
            self.go(ends);
            self.starts[i].pop();
            self.state[i] = before;
        }
    }
}
