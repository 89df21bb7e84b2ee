//! The clock: one zone at a time, or several as far as the supply's flow allows; soaks used by others, ending near a target, never outside a window.
//!
//! Passes are placed by a list rule: of the zones that are ready, the one with the longest chain of passes and soaks left goes first; a pass that a
//! tank or well cannot carry yet waits for it. Of small nights the orders are searched.
//! Lower bound of the length: the greatest of the sum of all passes, each by its share of the supply, of each zone's chain, and of what runs back into
//! a store.

use crate::engine::reserve::{Draw, Reserve};
use crate::engine::small_night;
pub use crate::engine::task::{Placed, Task, WHOLE, lower_bound_s};
use crate::site::calendar::Interval;

/// Ends that a clock is told to be done by.
const ENDS: i64 = 12;
/// Steps of the search of a small night, at most, where it is placed.
const SEARCHED_STEPS: u32 = 4000;
/// The same where it is only asked whether a night holds something.
const ASKED_STEPS: u32 = 400;

/// Whether tasks fit one window of so many seconds; `reserve`: the store as it stands when that opens. It is asked often and tries less than [`place`]: of a
/// window that is no longer than the shortest night that [`length_s`] knows it may say no.
#[must_use]
pub fn fits(tasks: &[Task], window_s: i64, reserve: Option<&Reserve>) -> bool {
    // One chain after the other is enough, and the lower bound necessary; between them the clock is tried.
    let in_series: i64 = tasks.iter().map(|t| t.chain_s(t.passes)).sum();
    (reserve.is_none() && in_series <= window_s)
        || (lower_bound_s(tasks, reserve) <= window_s
            && [i64::MAX, window_s].into_iter().any(|limit_s| {
                list_schedule(tasks, limit_s, reserve, |_, _| ())
                    .is_some_and(|length| length <= window_s)
            }))
        || small_night::shorter(tasks, window_s + 1, reserve, ASKED_STEPS).is_some()
}

/// How long the tasks take on one clock, s; of what a store can never carry at once as if there were none.
#[must_use]
pub fn length_s(tasks: &[Task], reserve: Option<&Reserve>) -> i64 {
    sequence(tasks, None, reserve).1
}

/// How long the tasks take on a clock that is told nothing of the end, s: the first of those that [`length_s`] tries.
#[must_use]
pub(crate) fn quick_length_s(tasks: &[Task], reserve: Option<&Reserve>) -> i64 {
    list_schedule(tasks, i64::MAX, reserve, |_, _| ()).unwrap_or(i64::MAX)
}

/// Places tasks that fit a window together so that they end near `target_s` (the end of the window without one).
#[must_use]
pub fn place(
    tasks: &[Task],
    window: Interval,
    target_s: Option<i64>,
    reserve: Option<&Reserve>,
) -> Vec<Placed> {
    // Later in the window a store holds no less: what is found from its start on holds whenever it begins.
    let (starts, length) = sequence(tasks, Some(window.length_s()), reserve);
    let from = start(window, target_s.unwrap_or(window.end_s), length);
    tasks
        .iter()
        .zip(starts)
        .map(|(task, starts)| Placed {
            task: *task,
            starts_s: starts.into_iter().map(|s| from + s).collect(),
        })
        .collect()
}

/// Start of a sequence in a window so that its end comes as near to the target as the window allows, on a whole minute.
fn start(window: Interval, target_s: i64, length_s: i64) -> i64 {
    let wanted = (target_s - length_s).min(window.end_s - length_s);
    let whole_minute = wanted - wanted.rem_euclid(60);
    whole_minute.max(window.start_s)
}

/// Starts of each task's passes from 0 on, and the length of it all: the shortest found with the clock told to be done by several ends between the
/// lower bound and what it takes untold, the window's among them.
fn sequence(
    tasks: &[Task],
    window_s: Option<i64>,
    reserve: Option<&Reserve>,
) -> (Vec<Vec<i64>>, i64) {
    let by = |limit_s: i64, reserve: Option<&Reserve>| {
        let mut starts: Vec<Vec<i64>> = vec![Vec::new(); tasks.len()];
        let length = list_schedule(tasks, limit_s, reserve, |i, start| starts[i].push(start));
        length.map(|length| (starts, length))
    };
    let untold = by(i64::MAX, reserve)
        .or_else(|| by(i64::MAX, None))
        .unwrap_or((vec![Vec::new(); tasks.len()], i64::MAX));
    let least = lower_bound_s(tasks, reserve);
    let spread = untold.1 - least;
    (0..ENDS)
        .map(|k| least + spread * k / ENDS)
        .chain(window_s)
        .filter_map(|limit_s| by(limit_s, reserve))
        .chain([untold])
        .min_by_key(|(_, length)| *length)
        .map(
            |found| match small_night::shorter(tasks, found.1, reserve, SEARCHED_STEPS) {
                Some(shorter) => shorter,
                None => found,
            },
        )
        .unwrap_or_default()
}

/// What runs: when it ends, what it takes, its flow.
struct Running {
    ends: i64,
    takes: u32,
    flow_l_s: f64,
}

/// Places every pass, the longest chain left among the ready first, ties to the longer pass, then to the first in the list; tells `place` each task's index and
/// start from 0 on, and returns the length of it all; `None` as soon as it is longer than the limit, or if a store can never carry a pass.
fn list_schedule(
    tasks: &[Task],
    limit_s: i64,
    reserve: Option<&Reserve>,
    mut place: impl FnMut(usize, i64),
) -> Option<i64> {
    // Passes left and when the next may begin.
    let mut state: Vec<(u32, i64)> = tasks.iter().map(|t| (t.passes, 0)).collect();
    let mut running: Vec<Running> = Vec::new();
    let mut store = reserve.map(Reserve::timed_from_now);
    let mut now = 0;
    let mut end = 0;
    loop {
        running.retain(|r| r.ends > now);
        let free = WHOLE - running.iter().map(|r| r.takes).sum::<u32>();
        let frees = running.iter().map(|r| r.ends).min();
        // Nothing that runs ends before the instant that is gone to.
        let go_to = |to: i64, store: &mut Option<Reserve>| {
            if let Some(store) = store {
                *store = store.after(running.iter().map(|r| r.flow_l_s).sum(), to);
            }
            to
        };
        if let Some(frees) = frees.filter(|_| free == 0) {
            now = go_to(frees, &mut store);
            continue;
        }
        let mut best: Option<(usize, (i64, i64))> = None;
        let mut next = i64::MAX;
        let mut waits = false;
        // The latest at which the most urgent zone must start its chain, and the next most urgent.
        let (mut most_urgent, mut next_urgent) = ((i64::MAX, usize::MAX), i64::MAX);
        if limit_s < i64::MAX {
            for (i, (left, _)) in state.iter().enumerate().filter(|(_, s)| s.0 > 0) {
                let start_by = limit_s - tasks[i].chain_s(*left);
                if start_by < most_urgent.0 {
                    next_urgent = most_urgent.0;
                    most_urgent = (start_by, i);
                } else {
                    next_urgent = next_urgent.min(start_by);
                }
            }
        }
        for (i, (left, ready)) in state.iter().enumerate() {
            if *left == 0 {
                continue;
            }
            if *ready > now {
                next = next.min(*ready);
                continue;
            }
            if tasks[i].takes > free {
                continue;
            }
            if let Some(store) = &store {
                let draws: Vec<Draw> = running
                    .iter()
                    .map(|r| Draw {
                        flow_l_s: r.flow_l_s,
                        left_s: r.ends - now,
                    })
                    .collect();
                let more = Draw {
                    flow_l_s: tasks[i].flow_l_s,
                    left_s: tasks[i].pass_s,
                };
                let wait_s = store.wait_s(&draws, more)?;
                if wait_s > 0 {
                    next = next.min(now + wait_s);
                    continue;
                }
            }
            let rank = (tasks[i].chain_s(*left), tasks[i].pass_s);
            // A pass so long that another zone's chain would no longer end in time must wait.
            let ends = now + tasks[i].pass_s;
            let others_start_by = if i == most_urgent.1 {
                next_urgent
            } else {
                most_urgent.0
            };
            let beside = |urgent: &Task| tasks[i].takes + urgent.takes <= free;
            let in_its_way = i == most_urgent.1 || !tasks.get(most_urgent.1).is_some_and(beside);
            if ends > others_start_by && in_its_way {
                waits = true;
                continue;
            }
            if best.is_none_or(|(_, other)| rank > other) {
                best = Some((i, rank));
            }
        }
        if let Some((i, _)) = best {
            place(i, now);
            let ends = now + tasks[i].pass_s;
            if ends > limit_s {
                return None;
            }
            end = end.max(ends);
            running.push(Running {
                ends,
                takes: tasks[i].takes,
                flow_l_s: tasks[i].flow_l_s,
            });
            state[i].0 -= 1;
            state[i].1 = ends + tasks[i].soak_s;
        } else {
            let next = frees.map_or(next, |frees| frees.min(next));
            if next == i64::MAX {
                return (!waits).then_some(end);
            }
            now = go_to(next, &mut store);
        }
    }
}

/// A store after what was placed of some tasks has run.
#[must_use]
pub(crate) fn drawn(reserve: &Reserve, placed: &[Placed]) -> Reserve {
    let runs: Vec<(Interval, f64)> = placed
        .iter()
        .flat_map(|p| {
            p.starts_s.iter().map(|&start_s| {
                let run = Interval {
                    start_s,
                    end_s: start_s + p.task.pass_s,
                };
                (run, p.task.flow_l_s)
            })
        })
        .collect();
    reserve.after_runs(&runs)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::{RunTime, Volume};
    use crate::site::supply::Store;
    use proptest::prelude::*;

    fn task(zone: usize, passes: u32, pass_s: i64, soak_s: i64) -> Task {
        Task {
            zone,
            passes,
            pass_s,
            soak_s,
            takes: WHOLE,
            flow_l_s: 0.5,
        }
    }

    const WINDOW: Interval = Interval {
        start_s: 0,
        end_s: 18_000,
    };

    #[test]
    fn soaks_are_used_by_others() {
        let tasks = [task(0, 3, 600, 600), task(1, 3, 600, 600)];
        let placed = place(&tasks, WINDOW, Some(9000), None);
        assert_eq!(lower_bound_s(&tasks, None), 3600);
        let last = placed.iter().flat_map(|p| &p.starts_s).max().unwrap();
        assert_eq!(last + 600, 9000);
        let first = placed.iter().flat_map(|p| &p.starts_s).min().unwrap();
        assert_eq!(9000 - first, 3600);
    }

    #[test]
    fn zones_run_together_as_far_as_the_flow_allows() {
        let takes = |takes: u32, zone: usize| Task {
            takes,
            ..task(zone, 2, 600, 300)
        };
        // Two of 400 beside each other, the third of 400 after them.
        let tasks = [takes(400, 0), takes(400, 1), takes(400, 2)];
        let placed = place(&tasks, WINDOW, None, None);
        for at in (0..18_000).step_by(60) {
            let running = placed
                .iter()
                .filter(|p| p.starts_s.iter().any(|s| (*s..*s + 600).contains(&at)));
            assert!(running.map(|p| p.task.takes).sum::<u32>() <= WHOLE);
        }
        assert_eq!(lower_bound_s(&tasks, None), 1500);
        assert!(length_s(&tasks, None) <= 2100, "{}", length_s(&tasks, None));
        assert!(length_s(&[takes(500, 0), takes(500, 1)], None) == 1500);
        assert!(length_s(&[takes(501, 0), takes(500, 1)], None) > 1500);
    }

    #[test]
    fn ends_at_the_window_when_the_target_lies_beyond() {
        let placed = place(&[task(0, 1, 600, 0)], WINDOW, Some(99_999), None);
        assert_eq!(placed[0].starts_s, [17_400]);
        let placed = place(&[task(0, 1, 600, 0)], WINDOW, Some(-500), None);
        assert_eq!(placed[0].starts_s, [0]);
    }

    /// The shortest length of all orders of the passes, each started as soon as its soak and the clock allow.
    fn exact(tasks: &[Task]) -> i64 {
        fn go(tasks: &[Task], state: &mut Vec<(u32, i64)>, now: i64, best: &mut i64) {
            if state.iter().all(|(left, _)| *left == 0) {
                *best = now.min(*best);
                return;
            }
            let least: i64 = state
                .iter()
                .zip(tasks)
                .map(|((left, _), t)| i64::from(*left) * t.pass_s)
                .sum();
            if now + least >= *best {
                return;
            }
            for i in 0..tasks.len() {
                let (left, ready) = state[i];
                if left == 0 {
                    continue;
                }
                let ends = now.max(ready) + tasks[i].pass_s;
                state[i] = (left - 1, ends + tasks[i].soak_s);
                go(tasks, state, ends, best);
                state[i] = (left, ready);
            }
        }
        let mut best = i64::MAX;
        go(
            tasks,
            &mut tasks.iter().map(|t| (t.passes, 0)).collect(),
            0,
            &mut best,
        );
        best
    }

    /// Against an exact search: every site of up to four zones of up to three passes out of a grid of lengths and soaks.
    #[test]
    fn small_nights_are_near_the_shortest() {
        let kinds: Vec<Task> = [
            (1, 900, 0),
            (2, 600, 300),
            (2, 300, 900),
            (3, 240, 720),
            (3, 420, 420),
            (3, 600, 1500),
        ]
        .map(|(passes, pass_s, soak_s)| task(0, passes, pass_s, soak_s))
        .to_vec();
        let n = kinds.len();
        let (mut worst, mut sites): (f64, u32) = (1.0, 0);
        for code in 0..(n + 1).pow(4) {
            let picked: Vec<usize> = (0u32..4).map(|k| code / (n + 1).pow(k) % (n + 1)).collect();
            // Sites that differ in the order of their zones alone are tried once.
            if picked.windows(2).any(|w| w[0] < w[1]) || picked[0] == 0 {
                continue;
            }
            let tasks: Vec<Task> = picked
                .iter()
                .filter(|&&k| k > 0)
                .map(|&k| kinds[k - 1])
                .collect();
            let (ours, shortest) = (length_s(&tasks, None), exact(&tasks));
            let ratio = RunTime::from_whole_s(ours).s() / RunTime::from_whole_s(shortest).s();
            assert!(ratio >= 1.0 && shortest >= lower_bound_s(&tasks, None));
            worst = worst.max(ratio);
            sites += 1;
        }
        println!("{sites} sites, worst {worst:.3}");
        assert!(sites > 200 && worst <= 1.05, "{worst}");
    }

    /// A small generator of numbers, so that the sites are the same everywhere (Knuth's MMIX constants, from memory).
    struct Numbers(u64);

    impl Numbers {
        fn below(&mut self, n: u64) -> i64 {
            self.0 = self
                .0
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            i64::try_from((self.0 >> 33) % n).unwrap()
        }
    }

    /// Two hundred nights of 8 to 40 zones with passes, lengths and soaks of all kinds, beside their lower bound: which no clock may reach.
    #[test]
    fn larger_nights_are_near_their_lower_bound() {
        let mut numbers = Numbers(20_260_618);
        let mut ratios = Vec::new();
        for _ in 0..200 {
            let zones = 8 + usize::try_from(numbers.below(33)).unwrap();
            let tasks: Vec<Task> = (0..zones)
                .map(|zone| {
                    let passes = u32::try_from(1 + numbers.below(6)).unwrap();
                    let pass_s = 60 * (2 + numbers.below(20));
                    let soak_s = match numbers.below(3) {
                        0 => 0,
                        _ => 60 * numbers.below(90),
                    };
                    task(zone, passes, pass_s, soak_s)
                })
                .collect();
            let length = length_s(&tasks, None);
            let window = Interval {
                start_s: 0,
                end_s: length,
            };
            assert!(fits(&tasks, length, None));
            // What is placed keeps its soaks, its window and the clock to itself.
            let placed = place(&tasks, window, None, None);
            let mut runs: Vec<(i64, i64)> = Vec::new();
            for p in &placed {
                assert_eq!(u32::try_from(p.starts_s.len()).unwrap(), p.task.passes);
                for pair in p.starts_s.windows(2) {
                    assert!(pair[1] - pair[0] >= p.task.pass_s + p.task.soak_s);
                }
                runs.extend(p.starts_s.iter().map(|s| (*s, *s + p.task.pass_s)));
            }
            runs.sort_unstable();
            assert!(runs.windows(2).all(|w| w[0].1 <= w[1].0));
            assert!(runs[0].0 >= 0 && runs[runs.len() - 1].1 <= length);
            let ratio = RunTime::from_whole_s(length).s()
                / RunTime::from_whole_s(lower_bound_s(&tasks, None)).s();
            assert!(ratio >= 1.0);
            ratios.push(ratio);
        }
        ratios.sort_by(f64::total_cmp);
        println!(
            "200 sites: median {:.3}, worst {:.3}",
            ratios[100], ratios[199]
        );
        assert!(ratios[100] < 1.02, "{}", ratios[100]);
    }

    #[test]
    fn a_long_pass_waits_where_it_would_delay_a_chain_that_fills_the_window() {
        // Four passes with soaks fill the window; the long one of the other zone fits after no pass but in no soak.
        let chain = task(0, 3, 600, 1200);
        let parts = task(1, 4, 600, 0);
        let window = Interval {
            start_s: 0,
            end_s: 4200,
        };
        assert!(fits(&[chain, parts], 4200, None));
        let placed = place(&[chain, parts], window, None, None);
        assert_eq!(placed[0].starts_s, [0, 1800, 3600]);
        assert!(!fits(&[chain, task(1, 1, 2400, 0)], 4200, None));
    }

    proptest! {
        /// Whatever a tank holds: what is placed in a window never draws it below nothing, litre by litre over each minute, and takes no less time than
        /// the lower bound.
        #[test]
        fn a_tank_never_runs_dry(
            zones in prop::collection::vec((1..4u32, 2..16i64, 0..30i64, 0.1..1.5f64, 200..=1000u32), 1..6),
            tank in (100.0..4000.0f64, 1.0..40.0f64, 0.0..1.0f64),
            target in prop::option::of(0..80_000i64),
        ) {
            let store = Store { holds_l: tank.0, refill_l_min: tank.1 };
            let reserve = Reserve::drawn(&store, Volume::from_l(tank.0 * tank.2), 0);
            let tasks: Vec<Task> = zones.iter().enumerate().map(|(zone, z)| Task {
                flow_l_s: z.3,
                takes: z.4,
                ..task(zone, z.0, 60 * z.1, 60 * z.2)
            }).collect();
            let carried = tasks.iter().all(|t| t.pass_s <= reserve.longest_s(t.flow_l_s));
            let length = length_s(&tasks, Some(&reserve));
            prop_assume!(carried && length < 80_000);
            prop_assert!(length >= lower_bound_s(&tasks, Some(&reserve)));
            let window = Interval { start_s: 0, end_s: 80_000 };
            let quick = quick_length_s(&tasks, Some(&reserve));
            prop_assert!(length <= quick && fits(&tasks, quick, Some(&reserve)));
            let placed = place(&tasks, window, target, Some(&reserve));
            let mut level = store.holds_l * (1.0 - tank.2);
            for second in 0..80_000 {
                let runs = |p: &&Placed| p.starts_s.iter().any(|s| (*s..*s + p.task.pass_s).contains(&second));
                let flow: f64 = placed.iter().filter(runs).map(|p| p.task.flow_l_s).sum();
                level = (level + store.refill_l_min / 60.0 - flow).min(store.holds_l);
                prop_assert!(level > -1e-3, "{level} L at {second}");
            }
            let after = drawn(&reserve, &placed).at(80_000);
            let left = after.gives(Interval { start_s: 80_000, end_s: 80_000 }).l();
            prop_assert!((left - level).abs() < 0.01, "{left} L, not {level}");
        }
    }
}
