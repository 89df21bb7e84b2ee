//! The clock: one zone at a time, soaks used by others, ending near a target, never outside a window.
//!
//! Passes are placed by two list rules (the zone with the longest chain of passes and soaks left first; the zone with the most water
//! left first); the shorter result counts. Lower bound of the length: the greatest of the sum of all passes and of each zone's chain.

use crate::calendar::Interval;

/// A zone's passes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Task {
    /// The zone's place in the site's list.
    pub zone: usize,
    /// Number of passes.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Least rest after each but the last, s.
    pub soak_s: i64,
}

impl Task {
    fn chain_s(&self, passes_left: u32) -> i64 {
        let n = i64::from(passes_left);
        n * self.pass_s + (n - 1).max(0) * self.soak_s
    }
}

/// When the passes of a zone start, in seconds since 1970-01-01 UTC.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Placed {
    /// The task.
    pub task: Task,
    /// Start of each pass.
    pub starts_s: Vec<i64>,
}

/// A day's timetable.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Timetable {
    /// What runs, in the order given.
    pub placed: Vec<Placed>,
    /// What does not fit.
    pub left_out: Vec<Task>,
    /// Lower bound of the length of all tasks together, s.
    pub lower_bound_s: i64,
}

/// Whether tasks run one chain after the other fit a window: enough, not necessary.
#[must_use]
pub fn surely_fits(tasks: &[Task], window_s: i64) -> bool {
    tasks.iter().map(|t| t.chain_s(t.passes)).sum::<i64>() <= window_s
}

/// The least time that the tasks can take, s.
#[must_use]
pub fn lower_bound_s(tasks: &[Task]) -> i64 {
    let running: i64 = tasks.iter().map(|t| i64::from(t.passes) * t.pass_s).sum();
    let chain = tasks.iter().map(|t| t.chain_s(t.passes)).max().unwrap_or(0);
    running.max(chain)
}

/// How long the tasks take on one clock, s.
#[must_use]
pub fn length_s(tasks: &[Task]) -> i64 {
    sequence(tasks).1
}

/// Places tasks, the more urgent first, in the windows of a day so that they end near `target_s` (the end of the window without one).
/// Each zone keeps to one window; what fits none is left out.
#[must_use]
pub fn place(tasks: &[Task], windows: &[Interval], target_s: Option<i64>) -> Timetable {
    let mut timetable = Timetable {
        lower_bound_s: lower_bound_s(tasks),
        ..Timetable::default()
    };
    let mut left: Vec<Task> = tasks.to_vec();
    let mut order: Vec<Interval> = windows.to_vec();
    order.sort_by_key(|w| target_s.map_or(-w.end_s, |t| distance(*w, t)));
    for window in order {
        let mut taken: Vec<Task> = Vec::new();
        let mut best = None;
        // All at once first: adding one by one only pays where they do not fit.
        let all = sequence(&left);
        if all.1 <= window.length_s() {
            taken.append(&mut left);
            best = Some(all);
        } else {
            let mut later = Vec::new();
            for task in left {
                taken.push(task);
                let with = sequence(&taken);
                if with.1 <= window.length_s() {
                    best = Some(with);
                } else {
                    taken.pop();
                    later.push(task);
                }
            }
            left = later;
        }
        if let Some((starts, length)) = best {
            let from = start(window, target_s.unwrap_or(window.end_s), length);
            timetable
                .placed
                .extend(taken.into_iter().zip(starts).map(|(task, starts)| Placed {
                    task,
                    starts_s: starts.into_iter().map(|s| from + s).collect(),
                }));
        }
        if left.is_empty() {
            break;
        }
    }
    timetable.left_out = left;
    timetable
}

/// How far a target lies outside a window, s.
fn distance(window: Interval, target_s: i64) -> i64 {
    (window.start_s - target_s)
        .max(target_s - window.end_s)
        .max(0)
}

/// Start of a sequence in a window so that its end comes as near to the target as the window allows, on a whole minute.
fn start(window: Interval, target_s: i64, length_s: i64) -> i64 {
    let wanted = (target_s - length_s).min(window.end_s - length_s);
    let whole_minute = wanted - wanted.rem_euclid(60);
    whole_minute.max(window.start_s)
}

/// Starts of each task's passes from 0 on, and the length of it all, by the better of the two rules.
fn sequence(tasks: &[Task]) -> (Vec<Vec<i64>>, i64) {
    let by_chain = list_schedule(tasks, |task, left| (task.chain_s(left), task.pass_s));
    if by_chain.1 == lower_bound_s(tasks) {
        return by_chain;
    }
    let by_water = list_schedule(tasks, |task, left| {
        (i64::from(left) * task.pass_s, task.chain_s(left))
    });
    if by_water.1 < by_chain.1 {
        by_water
    } else {
        by_chain
    }
}

fn list_schedule(tasks: &[Task], rank: impl Fn(&Task, u32) -> (i64, i64)) -> (Vec<Vec<i64>>, i64) {
    let mut starts: Vec<Vec<i64>> = tasks
        .iter()
        .map(|t| Vec::with_capacity(usize::try_from(t.passes).unwrap_or(0)))
        .collect();
    let mut left: Vec<u32> = tasks.iter().map(|t| t.passes).collect();
    let mut ready: Vec<i64> = vec![0; tasks.len()];
    let mut now = 0;
    let mut end = 0;
    loop {
        let waiting = (0..tasks.len()).filter(|&i| left[i] > 0);
        // The highest rank among the ready; ties to the first in the list.
        let choice = waiting
            .clone()
            .filter(|&i| ready[i] <= now)
            .max_by_key(|&i| (rank(&tasks[i], left[i]), std::cmp::Reverse(i)));
        match choice {
            Some(i) => {
                starts[i].push(now);
                now += tasks[i].pass_s;
                end = now;
                ready[i] = now + tasks[i].soak_s;
                left[i] -= 1;
            }
            None => match waiting.map(|i| ready[i]).min() {
                Some(next) => now = next,
                None => return (starts, end),
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn task(zone: usize, passes: u32, pass_s: i64, soak_s: i64) -> Task {
        Task {
            zone,
            passes,
            pass_s,
            soak_s,
        }
    }

    const WINDOW: Interval = Interval {
        start_s: 0,
        end_s: 18_000,
    };

    #[test]
    fn soaks_are_used_by_others() {
        let tasks = [task(0, 3, 600, 600), task(1, 3, 600, 600)];
        let t = place(&tasks, &[WINDOW], Some(9000));
        assert_eq!(t.lower_bound_s, 3600);
        let last = t.placed.iter().flat_map(|p| &p.starts_s).max().unwrap();
        assert_eq!(last + 600, 9000);
        let first = t.placed.iter().flat_map(|p| &p.starts_s).min().unwrap();
        assert_eq!(9000 - first, 3600);
    }

    #[test]
    fn ends_at_the_window_when_the_target_lies_beyond() {
        let t = place(&[task(0, 1, 600, 0)], &[WINDOW], Some(99_999));
        assert_eq!(t.placed[0].starts_s, [17_400]);
        let t = place(&[task(0, 1, 600, 0)], &[WINDOW], Some(-500));
        assert_eq!(t.placed[0].starts_s, [0]);
    }

    #[test]
    fn what_does_not_fit_goes_to_another_window_or_is_left_out() {
        let small = Interval {
            start_s: 0,
            end_s: 1000,
        };
        let evening = Interval {
            start_s: 50_000,
            end_s: 50_900,
        };
        let tasks = [task(0, 1, 900, 0), task(1, 1, 800, 0), task(2, 1, 700, 0)];
        let t = place(&tasks, &[small, evening], Some(500));
        assert_eq!(t.placed.len(), 2);
        assert_eq!(t.placed[1].task.zone, 1);
        assert!(t.placed[1].starts_s[0] >= 50_000);
        assert_eq!(t.left_out, [tasks[2]]);
    }
}
