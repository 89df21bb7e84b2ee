//! What would make a night shorter on which not all fits: the zone whose evener sprinklers, or whose ground that needs no rest, would take most off it.

use crate::engine::dose::{self, Dose};
use crate::engine::night::{Night, Wish};
use crate::engine::timetable::{self, Task};

/// Less than this off a night is not worth saying, s (no source).
const WORTH_SAYING_S: i64 = 5 * 60;

/// What would shorten a night.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum By {
    /// Sprinklers as even as good ones of the kind.
    Evenness {
        /// What they have.
        from: f64,
        /// What good ones have.
        to: f64,
    },
    /// Ground that takes the water without a rest between passes: opened, or under slower nozzles.
    NoSoak,
}

/// What would make an opening shorter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Remedy {
    /// The opening.
    pub opening: usize,
    /// The zone, by its place.
    pub zone: usize,
    /// What is done there.
    pub by: By,
    /// What it takes off the night in which all would fit, s.
    pub saves_s: i64,
}

/// Zones of each kind that are tried: those that could take most off by themselves.
const TRIED: usize = 3;

/// The best of each kind, if it takes off anything worth saying.
pub(crate) fn remedies(wishes: &[Wish], night: Night, opening: usize) -> Vec<Remedy> {
    let tasks: Vec<Task> = wishes.iter().map(|w| w.task(&w.dose)).collect();
    let length_s = timetable::quick_length_s(&tasks, night.reserve);
    let best = |mut of: Vec<(usize, By, Dose)>| {
        let off_s = |i: usize, dose: &Dose| wishes[i].dose.span_s() - dose.span_s();
        of.sort_by_key(|(i, _, dose)| std::cmp::Reverse(off_s(*i, dose)));
        of.truncate(TRIED);
        let each = of.into_iter().map(|(i, by, dose)| {
            let mut tasks = tasks.clone();
            tasks[i] = wishes[i].task(&dose);
            Remedy {
                opening,
                zone: wishes[i].zone,
                by,
                saves_s: length_s - timetable::quick_length_s(&tasks, night.reserve),
            }
        });
        let best = each.max_by(|a, b| a.saves_s.cmp(&b.saves_s).then(b.zone.cmp(&a.zone)));
        best.filter(|remedy| remedy.saves_s >= WORTH_SAYING_S)
    };
    let all = || wishes.iter().enumerate();
    let evener = all().filter_map(|(i, wish)| {
        let (from, to) = (wish.model.evenness.value, wish.model.good_evenness);
        let even = (to > from).then(|| wish.model.as_even_as(to))?;
        let dose = dose::dose(&even, wish.dose.wanted, wish.window_s)?;
        Some((i, By::Evenness { from, to }, dose))
    });
    let unrested = all().filter(|(_, wish)| wish.dose.soak_s > 0 && wish.dose.passes > 1);
    let unrested = unrested.map(|(i, wish)| {
        let dose = Dose {
            soak_s: 0,
            ..wish.dose
        };
        (i, By::NoSoak, dose)
    });
    [best(evener.collect()), best(unrested.collect())]
        .into_iter()
        .flatten()
        .collect()
}
