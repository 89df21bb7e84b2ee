//! One night of a site: the doses that its window holds.
//!
//! Where all that is wanted does not fit, everything that must be given comes before what is only better given now; where not even that fits, the zones get the
//! same share of it, weighted by rank, and more of it the less they can catch up on later nights, so that none starves behind another. What is left goes pass by pass
//! to those whose need is first.

use crate::engine::dose::{self, Dose};
use crate::engine::reserve::Reserve;
use crate::engine::timetable::{self, Task};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::{Depth, RunTime};

/// Halvings in the search for a share or a dose that fits.
const HALVINGS: u32 = 7;

/// From so many zones on a night is not searched to the last minute.
const MANY: usize = 60;
/// Length of the parts into which long passes are cut on a night that is full, s (found by trying; no source).
const PART_S: i64 = 900;
/// How much of its share a zone that cannot catch up is spared (found by trying; no source).
const CATCHES_UP: f64 = 0.7;

/// What a zone wants of a night.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Wish<'a> {
    /// The zone's place in the list.
    pub zone: usize,
    /// What it takes of what may run at a time.
    pub takes: u32,
    /// Longest pass that a store can give it, s.
    pub most_s: i64,
    /// Its figures.
    pub model: &'a ZoneModel,
    /// What the window is for it, s.
    pub window_s: i64,
    /// What it wants.
    pub dose: Dose,
    /// The least net of it that it must have.
    pub must: Depth,
    /// Rank when water is short, 1 first; 0: fixed by a person.
    pub rank: u8,
    /// How far it passes its limit without water.
    pub urgency: Depth,
    /// What it needs of the nights ahead, as a share of what they could carry for it alone, 0 to 1: at 1 it cannot catch up.
    pub tight: f64,
}

impl Wish<'_> {
    /// The dose in parts.
    fn whole(&self) -> Dose {
        self.parts(self.dose)
    }

    fn of(&self, net: Depth) -> Option<Dose> {
        if net >= self.dose.irrigation.net {
            return Some(self.whole());
        }
        let dose = dose::dose(self.model, net, self.window_s)?;
        Some(self.parts(dose)).filter(|d| d.irrigation.net > Depth::ZERO)
    }

    fn parts(&self, dose: Dose) -> Dose {
        self.in_parts_of(dose, PART_S)
    }

    /// A dose in passes no longer than a length, nor than what a store can give.
    fn in_parts_of(&self, dose: Dose, part_s: i64) -> Dose {
        let dose = dose::in_parts(self.model, dose, part_s);
        dose::cut(self.model, dose, self.most_s)
    }

    pub fn task(&self, dose: &Dose) -> Task {
        task(self.zone, self.takes, self.model, dose)
    }
}

/// Weight of what a zone of a rank misses (common practice, no source).
pub(crate) fn weight(rank: u8) -> f64 {
    (10.0 - f64::from(rank.min(9))) / 5.0
}

/// The passes of a dose.
pub(crate) fn task(zone: usize, takes: u32, model: &ZoneModel, dose: &Dose) -> Task {
    Task {
        takes,
        zone,
        flow_l_s: model.flow_l_min / 60.0,
        passes: dose.passes,
        pass_s: dose.pass_s,
        soak_s: dose.soak_s,
    }
}

/// A night on the clock.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Night<'a> {
    /// How long it is, s.
    pub window_s: i64,
    /// The store as it stands when it begins.
    pub reserve: Option<&'a Reserve>,
}

/// How much longer a night would have to be for all wishes, s.
pub(crate) fn more_s(wishes: &[Wish], night: Night) -> i64 {
    let tasks: Vec<Task> = wishes.iter().map(|w| w.task(&w.whole())).collect();
    (timetable::length_s(&tasks, night.reserve) - night.window_s).max(0)
}

/// What each wish gets of a night; `None`: all of it.
pub(crate) fn fit(wishes: &[Wish], night: Night) -> Option<Vec<Option<Dose>>> {
    let mut given: Vec<Option<Dose>> = wishes.iter().map(|w| Some(w.dose)).collect();
    if fits(wishes, &given, night) {
        return None;
    }
    // What people have fixed comes first, but not out of the window: where it does not fit by itself it is shared like the rest.
    let is_fixed = |w: &Wish| w.rank == 0;
    let fixed: Vec<Option<Dose>> = wishes
        .iter()
        .map(|w| is_fixed(w).then_some(w.dose))
        .collect();
    if wishes.iter().any(is_fixed) && !fits(wishes, &fixed, night) {
        let eased = wishes.iter().map(|w| Wish {
            rank: w.rank.max(1),
            must: if is_fixed(w) {
                w.dose.irrigation.net
            } else {
                w.must
            },
            ..*w
        });
        return fit(&eased.collect::<Vec<_>>(), night);
    }
    given = wishes
        .iter()
        .map(|w| Some(if w.rank == 0 { w.dose } else { w.whole() }))
        .collect();
    if fits(wishes, &given, night) {
        join(wishes, &mut given, night);
        return Some(given);
    }
    let shared = |share: f64| -> Vec<Option<Dose>> {
        wishes
            .iter()
            .map(|w| match w.rank {
                0 => Some(w.dose),
                _ => w.of(w.must.min(w.dose.irrigation.net)
                    * (share * weight(w.rank))
                        .min(1.0)
                        .powf(1.0 - CATCHES_UP * w.tight)),
            })
            .collect()
    };
    // At the lightest weight a share of 5 is all of it.
    let (mut low, mut high) = (0.0, 5.0);
    given = shared(high);
    if !fits(wishes, &given, night) {
        given = shared(low);
        for _ in 0..HALVINGS + 2 {
            let middle = f64::midpoint(low, high);
            let tried = shared(middle);
            if fits(wishes, &tried, night) {
                (low, given) = (middle, tried);
            } else {
                high = middle;
            }
        }
    }
    let mut order: Vec<usize> = (0..wishes.len()).collect();
    order.sort_by(|&a, &b| {
        let (a, b) = (&wishes[a], &wishes[b]);
        a.rank
            .cmp(&b.rank)
            .then(b.urgency.mm().total_cmp(&a.urgency.mm()))
    });
    for all in [false, true] {
        for &i in &order {
            let wish = &wishes[i];
            let wanted = if all {
                wish.dose.irrigation.net
            } else {
                wish.must.min(wish.dose.irrigation.net)
            };
            raise(wishes, &mut given, i, wanted, night);
        }
    }
    join(wishes, &mut given, night);
    Some(given)
}

/// Passes that were cut to fill a night are joined again as far as the night allows: each is a start of a valve, and no zone has more of them than it needs. Those
/// with the most passes first.
fn join(wishes: &[Wish], given: &mut [Option<Dose>], night: Night) {
    let mut cut: Vec<usize> = (0..wishes.len())
        .filter(|&i| wishes[i].rank > 0 && given[i].is_some_and(|d| d.passes > 1))
        .collect();
    cut.sort_by_key(|&i| std::cmp::Reverse(given[i].map(|d| d.passes)));
    for i in cut {
        let (wish, Some(before)) = (&wishes[i], given[i]) else {
            continue;
        };
        // The same minutes: more of them would not fit.
        let run = RunTime::from_whole_s(before.run_s());
        let Some(whole) = dose::of_minutes(wish.model, run) else {
            continue;
        };
        // Of very many zones each is whole or as it was: the search costs more than it finds.
        let lengths: &[i64] = if wishes.len() > MANY {
            &[i64::MAX]
        } else {
            &[i64::MAX, 4 * PART_S, 2 * PART_S]
        };
        let joined = lengths
            .iter()
            .map(|&part_s| wish.in_parts_of(whole, part_s));
        let gives_as_much = |d: &Dose| d.run_s() == before.run_s();
        for joined in joined.filter(|d| d.passes < before.passes && gives_as_much(d)) {
            given[i] = Some(Dose {
                wanted: before.wanted,
                ..joined
            });
            if fits(wishes, given, night) {
                break;
            }
            given[i] = Some(before);
        }
    }
}

/// Raises what a wish gets towards a net depth, as far as the others leave room.
fn raise(wishes: &[Wish], given: &mut [Option<Dose>], i: usize, wanted: Depth, night: Night) {
    let net = |dose: Option<Dose>| dose.map_or(Depth::ZERO, |d| d.irrigation.net);
    let mut low = net(given[i]);
    let mut high = wanted;
    // Of very many zones each gets all of it or what it has: the search costs more than it finds.
    let halvings = if wishes.len() > MANY { 0 } else { HALVINGS };
    for halving in 0..=halvings {
        if high.mm() - low.mm() < 1e-6 {
            return;
        }
        // All of it first.
        let tried = if halving == 0 {
            high
        } else {
            (low + high) / 2.0
        };
        let before = given[i];
        let dose = wishes[i].of(tried);
        if net(dose) <= net(before) {
            low = tried;
            continue;
        }
        given[i] = dose;
        if fits(wishes, given, night) {
            low = tried;
        } else {
            given[i] = before;
            high = tried;
        }
    }
}

fn fits(wishes: &[Wish], given: &[Option<Dose>], night: Night) -> bool {
    let tasks: Vec<Task> = wishes
        .iter()
        .zip(given)
        .filter_map(|(w, dose)| Some(w.task(dose.as_ref()?)))
        .collect();
    timetable::fits(&tasks, night.window_s, night.reserve)
}
