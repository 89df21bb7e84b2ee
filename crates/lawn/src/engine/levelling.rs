//! Levelling: what a site must start tonight so that the nights ahead hold the rest, without rain.
//!
//! From the last night of the look-ahead to the first: what must have been given by a night and does not have to be given before goes there as far as
//! the night, the zone's window and the water that it has used by then allow; what a night does not hold moves to the night before. Moved are the zones whose
//! need comes first, so that as few as possible start early. What reaches tonight must start tonight; what tonight does not hold either falls short.

use crate::engine::schools::Needs;

/// A night with less than this to spare is full, min.
const SPARE_MIN: f64 = 0.5;

/// What a zone asks of the nights ahead, mm net by night.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Load {
    /// Valve minutes for a mm net.
    pub minutes_a_mm: f64,
    /// What its school asks by the end of each night.
    pub needs: Needs,
    /// The most that each night's window carries.
    pub carries_mm: Vec<f64>,
}

impl Load {
    /// What is needed of the nights ahead, as a share of what they could carry for the zone alone, 0 to 1: at 1 it cannot catch up.
    pub fn tightness(&self) -> f64 {
        let mut could: f64 = 0.0;
        let needs = self.needs.by_then_mm.iter().zip(&self.carries_mm);
        needs
            .map(|(needed, carries)| {
                could += carries;
                if could > 0.0 { needed / could } else { 0.0 }
            })
            .fold(0.0, f64::max)
            .min(1.0)
    }
}

/// The nights ahead, levelled.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Levelled {
    /// By zone and night, mm net.
    pub given_mm: Vec<Vec<f64>>,
    /// Minutes that nobody needs, by night.
    pub spare_min: Vec<f64>,
}

impl Levelled {
    /// How many of the nights after the first are full, from the second on.
    pub fn full_after_first(&self) -> usize {
        let later = self.spare_min.iter().skip(1);
        later.take_while(|spare| **spare < SPARE_MIN).count()
    }

    /// What a night carries for a zone beside the others, mm net.
    pub fn left_mm(&self, zone: usize, night: usize, load: &Load) -> f64 {
        let left = self.given_mm[zone][night] + self.spare_min[night] / load.minutes_a_mm;
        left.min(load.carries_mm[night])
    }
}

/// Levels loads over nights of so many minutes.
pub(crate) fn level(nights_min: &[f64], loads: &[Load]) -> Levelled {
    let nights = nights_min.len();
    let mut levelled = Levelled {
        given_mm: vec![vec![0.0; nights]; loads.len()],
        spare_min: nights_min.to_vec(),
    };
    // What is still to be given of each zone's water, counted from the first mm on.
    let mut top: Vec<f64> = loads
        .iter()
        .map(|l| l.needs.by_then_mm.last().copied().unwrap_or(0.0))
        .collect();
    // Zones whose need comes last stay on the later nights.
    let mut order: Vec<usize> = (0..loads.len()).collect();
    let first_need = |z: usize| loads[z].needs.by_then_mm.partition_point(|mm| *mm <= 0.0);
    order.sort_by_key(|&z| std::cmp::Reverse(first_need(z)));
    for night in (0..nights).rev() {
        let mut left_min = nights_min[night];
        // First what cannot be given earlier, then the rest.
        for stays in [true, false] {
            for &z in &order {
                let load = &loads[z];
                top[z] = top[z].min(load.needs.room_mm[night]);
                let before = match night {
                    0 => 0.0,
                    _ if stays => {
                        load.needs.by_then_mm[night - 1].max(load.needs.room_mm[night - 1])
                    }
                    _ => load.needs.by_then_mm[night - 1],
                };
                let given = &mut levelled.given_mm[z][night];
                let here = (top[z] - before)
                    .min(load.carries_mm[night] - *given)
                    .min(left_min / load.minutes_a_mm)
                    .max(0.0);
                *given += here;
                top[z] -= here;
                left_min -= here * load.minutes_a_mm;
            }
        }
        levelled.spare_min[night] = left_min.max(0.0);
    }
    levelled
}

#[cfg(test)]
mod tests {
    use proptest::prelude::*;

    use super::*;

    fn load(by_then_mm: &[f64], room_mm: &[f64], carries_mm: f64) -> Load {
        Load {
            minutes_a_mm: 10.0,
            needs: Needs {
                by_then_mm: by_then_mm.to_vec(),
                room_mm: room_mm.to_vec(),
            },
            carries_mm: vec![carries_mm; by_then_mm.len()],
        }
    }

    #[test]
    fn what_a_night_does_not_hold_starts_the_night_before() {
        // Two zones need 12 mm each by the second night, 240 min of its 150: the one whose need comes first starts tonight.
        let first = load(&[2.0, 12.0], &[30.0, 30.0], 20.0);
        let second = load(&[0.0, 12.0], &[30.0, 30.0], 20.0);
        let levelled = level(&[150.0, 150.0], &[first.clone(), second.clone()]);
        assert_eq!(levelled.given_mm, [[9.0, 3.0], [0.0, 12.0]]);
        assert_eq!(levelled.spare_min, [60.0, 0.0]);
        assert_eq!(levelled.full_after_first(), 1);
        assert!((levelled.left_mm(0, 1, &first) - 3.0).abs() < 1e-12);
        assert!((levelled.left_mm(1, 0, &second) - 6.0).abs() < 1e-12);
    }

    #[test]
    fn what_has_not_been_used_yet_cannot_be_given() {
        // Nothing has been used tonight: what the second night does not hold falls short.
        let levelled = level(&[150.0, 50.0], &[load(&[0.0, 12.0], &[0.0, 20.0], 20.0)]);
        assert_eq!(levelled.given_mm, [[0.0, 5.0]]);
    }

    #[test]
    fn a_zone_that_needs_all_its_nights_cannot_catch_up() {
        assert!((load(&[0.0, 10.0], &[9.0, 9.0], 5.0).tightness() - 1.0).abs() < 1e-12);
        assert!((load(&[0.0, 10.0], &[9.0, 9.0], 20.0).tightness() - 0.25).abs() < 1e-12);
    }

    proptest! {
        /// No night is overfilled, no zone gets more than its window carries, than it needs or than it has used; and where one zone is alone,
        /// tonight gets what the backward pass says.
        #[test]
        fn nights_hold_what_they_are_given(
            nights in prop::collection::vec(0.0..300.0f64, 2..8),
            zones in prop::collection::vec((0.0..6.0f64, 0.0..9.0f64, 1.0..30.0f64, 2.0..20.0f64), 1..6),
        ) {
            let loads: Vec<Load> = zones.iter().map(|&(start, use_mm, carries, minutes_a_mm)| {
                let n = |i: usize| f64::from(u8::try_from(i).unwrap());
                Load {
                    minutes_a_mm,
                    needs: Needs {
                        by_then_mm: (0..nights.len()).map(|i| (start + use_mm * n(i + 1) - 12.0).max(0.0)).collect(),
                        room_mm: (0..nights.len()).map(|i| start + use_mm * n(i)).collect(),
                    },
                    carries_mm: vec![carries; nights.len()],
                }
            }).collect();
            let levelled = level(&nights, &loads);
            for (night, minutes) in nights.iter().enumerate() {
                let used: f64 = loads.iter().zip(&levelled.given_mm).map(|(l, g)| g[night] * l.minutes_a_mm).sum();
                prop_assert!((used + levelled.spare_min[night] - minutes).abs() < 1e-6);
            }
            for (load, given) in loads.iter().zip(&levelled.given_mm) {
                let mut sum = 0.0;
                for (night, mm) in given.iter().enumerate() {
                    sum += mm;
                    prop_assert!(*mm >= 0.0 && *mm <= load.carries_mm[night] + 1e-9);
                    prop_assert!(sum <= load.needs.room_mm[night] + 1e-9);
                }
                prop_assert!(sum <= load.needs.by_then_mm[nights.len() - 1] + 1e-9);
            }
            if loads.len() == 1 {
                let load = &loads[0];
                // The least tonight, so that later nights carry the rest, as far as there is room.
                let most = |night: usize| load.carries_mm[night].min(nights[night] / load.minutes_a_mm);
                let mut later = 0.0;
                let mut must: f64 = 0.0;
                for night in 0..nights.len() {
                    if night > 0 {
                        later += most(night);
                    }
                    must = must.max(load.needs.by_then_mm[night] - later);
                }
                let tonight = must.min(most(0)).min(load.needs.room_mm[0]);
                prop_assert!(levelled.given_mm[0][0] <= tonight + 1e-9);
            }
        }
    }
}
