//! The hours of seedbeds: short slots over the day, cut out of the allowed windows, from an hour after sunrise to three hours before sunset.
//!
//! Each slot is a window of its own, in which only seedbeds run: a run that has begun is left, and later ones are planned anew. Of what slots leave of a window its longest stretch is
//! for all others. Where the rules leave nothing of these hours, the last hours before them count, or else the first after: watering at a bad hour beats a dead seedbed (common practice,
//! no source).

use jiff::civil::Date;
use science::sun::share_of_day;

use crate::engine::schools::new_grass;
use crate::engine::seedling::{Seedling, Stage};
use crate::engine::zone_model::ZoneModel;
use crate::quantity::RunTime;
use crate::site::Zone;
use crate::site::calendar::{CalendarDay, Interval};

/// From sunrise to the first slot, and from the last run's end to sunset, s: leaves dry by night.
const AFTER_SUNRISE_S: i64 = 3600;
const BEFORE_SUNSET_S: i64 = 3 * 3600;
/// Most slots of a day.
const MOST_SLOTS: i64 = 6;
/// From one slot to the next at least, s: the surface dries a little in between (common practice, no source).
const LEAST_GAP_S: i64 = 90 * 60;
/// How long a person has for a slot at least, s (common practice, no source).
const BY_HAND_S: i64 = 3600;
/// Shortest slot, s.
const LEAST_ROOM_S: i64 = 5 * 60;

/// A seedbed that asks for slots.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Seedbed {
    /// Its place in the site.
    pub place: usize,
    /// How far its grass has come: six slots a day at most, two once it is up, one when it fills in.
    pub stage: Stage,
    /// The day from which it asks.
    pub from: Date,
    /// How long its longest run takes, s.
    pub room_s: i64,
}

impl Seedbed {
    /// Of a zone with new grass.
    pub fn of(place: usize, zone: &Zone, model: &ZoneModel, seedling: &Seedling) -> Self {
        let longest = new_grass::longest_run_s(zone, model, seedling);
        let longest = if zone.by_hand() {
            longest.max(BY_HAND_S)
        } else {
            longest
        };
        Self {
            place,
            stage: seedling.stage,
            from: seedling.sown_on,
            room_s: longest + (60 - longest.rem_euclid(60)),
        }
    }
}

/// The same days with slots for seedbeds; `zones`: how many the site has; `open`: the hours of a day in which one may be watered.
pub(crate) fn with_slots(
    mut days: Vec<CalendarDay>,
    beds: &[Seedbed],
    zones: usize,
    open: impl Fn(&CalendarDay, usize) -> Vec<Interval>,
) -> Vec<CalendarDay> {
    for day in &mut days {
        let now = beds.iter().filter(|bed| bed.from <= day.date);
        let now: Vec<(Seedbed, Vec<Interval>)> =
            now.map(|bed| (*bed, open(day, bed.place))).collect();
        if !now.is_empty() {
            cut(day, &now, zones);
        }
    }
    days
}

fn cut(day: &mut CalendarDay, beds: &[(Seedbed, Vec<Interval>)], zones: usize) {
    let room_s = beds.iter().map(|(bed, _)| bed.room_s).sum::<i64>();
    let room_s = room_s.max(LEAST_ROOM_S);
    let mut open: Vec<Interval> = beds.iter().flat_map(|(_, open)| open).copied().collect();
    open.sort_by_key(|o| (o.start_s, o.end_s));
    let blocks = blocks(day, &joined(open), room_s);
    let starts = starts(&blocks, room_s, day);
    let slots: Vec<Interval> = starts
        .iter()
        .enumerate()
        .map(|(i, &start_s)| {
            let next_s = starts.get(i + 1).copied().unwrap_or(i64::MAX);
            let block = blocks.iter().rfind(|b| b.start_s <= start_s);
            let end_s = block.map_or(start_s, |b| b.end_s);
            Interval {
                start_s,
                end_s: end_s.min(next_s).min(start_s + room_s),
            }
        })
        .collect();
    let mut parts: Vec<(Interval, Vec<usize>)> = slots
        .iter()
        .enumerate()
        .map(|(k, slot)| {
            let holds = |o: &Interval| o.start_s <= slot.start_s && slot.end_s <= o.end_s;
            let mine = beds.iter().filter(|(bed, open)| {
                takes(bed.stage, k, &slots) && joined(open.clone()).iter().any(holds)
            });
            let mine: Vec<usize> = mine.map(|(bed, _)| bed.place).collect();
            let others = (0..zones).filter(|zone| !mine.contains(zone));
            (*slot, others.collect())
        })
        .collect();
    let places: Vec<usize> = beds.iter().map(|(bed, _)| bed.place).collect();
    for (at, window) in day.windows.iter().enumerate() {
        if let Some(longest) = longest_beside(*window, &slots) {
            let out = (0..zones).filter(|zone| places.contains(zone) || day.bars(at, *zone));
            parts.push((longest, out.collect()));
        }
    }
    parts.retain(|(_, out)| out.len() < zones);
    parts.sort_by_key(|(part, _)| part.start_s);
    (day.windows, day.barred) = parts.into_iter().unzip();
}

/// The longest stretch of a window that slots leave: it is for all others.
fn longest_beside(window: Interval, slots: &[Interval]) -> Option<Interval> {
    let mut rest = Vec::new();
    let mut start_s = window.start_s;
    let within = |s: &&Interval| s.start_s < window.end_s && window.start_s < s.end_s;
    for slot in slots.iter().filter(within) {
        let end_s = slot.start_s;
        rest.push(Interval { start_s, end_s });
        start_s = slot.end_s;
    }
    let end_s = window.end_s;
    rest.push(Interval { start_s, end_s });
    let open = rest.into_iter().filter(|part| part.length_s() > 0);
    open.max_by_key(|part| (part.length_s(), std::cmp::Reverse(part.start_s)))
}

/// Stretches of the day in which some seedbed may be watered, of all that is open to any.
fn blocks(day: &CalendarDay, open: &[Interval], room_s: i64) -> Vec<Interval> {
    let (Some(sunrise_s), Some(sunset_s)) = (day.sunrise_s, day.sunset_s) else {
        return open.to_vec();
    };
    let (from_s, to_s) = (sunrise_s + AFTER_SUNRISE_S, sunset_s - BEFORE_SUNSET_S);
    let by_day: Vec<Interval> = open
        .iter()
        .map(|o| Interval {
            start_s: o.start_s.max(from_s),
            end_s: o.end_s.min(to_s),
        })
        .filter(|o| o.length_s() > 0)
        .collect();
    if !by_day.is_empty() {
        return by_day;
    }
    // Before the hours of the day, as late as may be; else after them, at once.
    let early = open.iter().rev().find(|o| o.end_s <= from_s);
    let early = early.map(|o| Interval {
        start_s: o.end_s - room_s.min(o.length_s()),
        end_s: o.end_s,
    });
    let late = open.iter().find(|o| o.start_s >= to_s);
    let late = late.map(|o| Interval {
        start_s: o.start_s,
        end_s: o.start_s + room_s.min(o.length_s()),
    });
    early.or(late).into_iter().collect()
}

/// Intervals in time order, those that touch as one.
fn joined(intervals: Vec<Interval>) -> Vec<Interval> {
    let mut joined: Vec<Interval> = Vec::with_capacity(intervals.len());
    for next in intervals {
        match joined.last_mut() {
            Some(last) if next.start_s <= last.end_s => last.end_s = last.end_s.max(next.end_s),
            _ => joined.push(next),
        }
    }
    joined
}

/// Starts of the slots, whole minutes: over each stretch from its beginning to as late as a run still ends in it, so that the sun takes as much between any two.
fn starts(blocks: &[Interval], room_s: i64, day: &CalendarDay) -> Vec<i64> {
    let share = |from_s: i64, to_s: i64| {
        let (Some(sunrise_s), Some(sunset_s)) = (day.sunrise_s, day.sunset_s) else {
            return RunTime::from_whole_s(to_s - from_s).s() / 86_400.0;
        };
        let [rise, set, from, to] = [sunrise_s, sunset_s, from_s, to_s]
            .map(|at_s| RunTime::from_whole_s(at_s - sunrise_s).s());
        share_of_day(rise, set, from, to)
    };
    let spans: Vec<(i64, i64)> = blocks
        .iter()
        .map(|b| (b.start_s, (b.end_s - room_s).max(b.start_s)))
        .collect();
    let all: f64 = spans.iter().map(|(from, to)| share(*from, *to)).sum();
    let mut gaps_left = MOST_SLOTS - i64::try_from(blocks.len()).unwrap_or(i64::MAX);
    let mut starts = Vec::new();
    for (from_s, to_s) in spans {
        let part = share(from_s, to_s);
        let by_sun = if all > 0.0 { part / all } else { 0.0 };
        let whole = RunTime::from_s(by_sun * RunTime::from_whole_s(MOST_SLOTS).s()).round_s();
        let gaps = whole
            .min((to_s - from_s) / LEAST_GAP_S)
            .min(gaps_left)
            .max(0);
        gaps_left -= gaps;
        if gaps == 0 {
            // Once: before noon as late as may be, later at once.
            starts.push(if from_s < day.noon_s { to_s } else { from_s });
            continue;
        }
        starts.push(from_s);
        let mut at_s = from_s;
        for gap in 1..gaps {
            // Where the sun has taken its part, to the minute.
            let parts = RunTime::from_whole_s(gap).s() / RunTime::from_whole_s(gaps).s();
            while share(from_s, at_s) < part * parts && at_s < to_s {
                at_s += 60;
            }
            starts.push(at_s);
        }
        starts.push(to_s);
    }
    starts.truncate(usize::try_from(MOST_SLOTS).unwrap_or(0));
    for start in &mut starts {
        *start -= start.rem_euclid(60);
    }
    if let Some((first, block)) = starts.first_mut().zip(blocks.first()) {
        *first = (*first).max(block.start_s);
    }
    starts
}

/// Whether a seedbed takes a slot of the day: all while nothing is up, then the first and the one in the middle, then the first.
fn takes(stage: Stage, slot: usize, slots: &[Interval]) -> bool {
    match stage {
        Stage::NotUp => true,
        Stage::Up => {
            let (Some(first), Some(last)) = (slots.first(), slots.last()) else {
                return false;
            };
            let middle_s = i64::midpoint(first.start_s, last.start_s);
            let nearest = (1..slots.len()).min_by_key(|k| (slots[*k].start_s - middle_s).abs());
            slot == 0 || Some(slot) == nearest
        }
        Stage::FillingIn => slot == 0,
        Stage::Established => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    const H: i64 = 3600;

    /// A day with the sun up from 5 to 21; times from midnight on.
    fn day(windows: &[(i64, i64)]) -> CalendarDay {
        CalendarDay {
            date: date(2026, 6, 18),
            windows: windows
                .iter()
                .map(|(from, to)| Interval {
                    start_s: from * H,
                    end_s: to * H,
                })
                .collect(),
            barred: Vec::new(),
            closed: Vec::new(),
            sunrise_s: Some(5 * H),
            sunset_s: Some(21 * H),
            noon_s: 12 * H,
        }
    }

    fn bed(stage: Stage) -> Seedbed {
        Seedbed {
            place: 1,
            stage,
            from: date(2026, 6, 5),
            room_s: 600,
        }
    }

    /// The windows that are open to a zone.
    fn open(day: &CalendarDay, zone: usize) -> Vec<Interval> {
        let windows = day.windows.iter().enumerate();
        let own = windows.filter(|(at, _)| !day.bars(*at, zone));
        own.map(|(_, window)| *window).collect()
    }

    /// Start and end, min, of the windows in which only zone 1 of two runs, and of those for the other.
    fn cut_up(windows: &[(i64, i64)], stage: Stage) -> [Vec<(i64, i64)>; 2] {
        let cut = with_slots(vec![day(windows)], &[bed(stage)], 2, open);
        let of = |zone: usize| {
            let windows = cut[0].windows.iter().enumerate();
            let own = windows.filter(|(at, _)| !cut[0].bars(*at, zone));
            own.map(|(_, w)| (w.start_s / 60, w.end_s / 60)).collect()
        };
        [of(1), of(0)]
    }

    #[test]
    fn a_day_without_limits_has_six_slots_and_the_night_is_for_all_others() {
        let [slots, others] = cut_up(&[(0, 24)], Stage::NotUp);
        assert_eq!(slots.len(), 6);
        assert_eq!(slots[0], (6 * 60, 6 * 60 + 10));
        // The last run ends three hours before sunset.
        assert_eq!(slots[5].1, 18 * 60);
        // Between any two the sun takes as much: longest in the morning, shortest at noon.
        let gaps: Vec<i64> = slots.windows(2).map(|s| s[1].0 - s[0].0).collect();
        assert!(
            gaps[0] > 180 && gaps[1..].iter().all(|gap| (100..160).contains(gap)),
            "{gaps:?}"
        );
        assert_eq!(others, [(0, 360)]);
    }

    #[test]
    fn a_morning_window_ends_with_a_slot() {
        let [slots, others] = cut_up(&[(3, 9)], Stage::NotUp);
        assert_eq!(slots, [(360, 370), (530, 540)]);
        assert_eq!(others, [(180, 360)]);
        // Two windows, six slots between them.
        let [slots, _] = cut_up(&[(3, 9), (16, 20)], Stage::NotUp);
        assert_eq!(slots, [(360, 370), (530, 540), (960, 970), (1070, 1080)]);
    }

    #[test]
    fn hours_of_its_own_leave_the_others_theirs() {
        let own = |_: &CalendarDay, _: usize| {
            vec![Interval {
                start_s: 6 * H,
                end_s: 18 * H,
            }]
        };
        let cut = with_slots(vec![day(&[(2, 7)])], &[bed(Stage::NotUp)], 2, own);
        assert_eq!(cut[0].windows.len(), 7);
        assert_eq!(open(&cut[0], 1).len(), 6);
        let others = open(&cut[0], 0);
        assert_eq!(
            (others.len(), others[0].start_s, others[0].end_s),
            (1, 2 * H, 6 * H)
        );
    }

    #[test]
    fn grass_that_is_up_has_two_slots_and_what_fills_in_one() {
        let [up, _] = cut_up(&[(0, 24)], Stage::Up);
        assert_eq!(up.len(), 2);
        assert!(up[1].0 > 10 * 60 && up[1].0 < 14 * 60);
        let [filling, others] = cut_up(&[(0, 24)], Stage::FillingIn);
        assert_eq!(filling, [(360, 370)]);
        assert_eq!(others, [(0, 360)]);
    }

    #[test]
    fn without_hours_of_the_day_the_last_before_them_count() {
        assert_eq!(cut_up(&[(0, 5)], Stage::NotUp)[0], [(290, 300)]);
        assert_eq!(cut_up(&[(19, 23)], Stage::NotUp)[0], [(1140, 1150)]);
        assert!(cut_up(&[], Stage::NotUp)[0].is_empty());
    }

    #[test]
    fn hours_from_which_a_rule_bars_the_seedbed_are_none_of_its_own() {
        let mut barred = day(&[(3, 9), (9, 14)]);
        barred.barred = vec![vec![], vec![1]];
        let cut = with_slots(vec![barred], &[bed(Stage::NotUp)], 2, open);
        let own: Vec<i64> = (0..cut[0].windows.len())
            .filter(|at| !cut[0].bars(*at, 1))
            .map(|at| cut[0].windows[at].start_s / 60)
            .collect();
        assert_eq!(own, [360, 530]);
        // The other zone keeps its later hours.
        let windows = cut[0].windows.iter().enumerate();
        let others = windows.filter(|(at, _)| !cut[0].bars(*at, 0));
        assert_eq!(
            others.map(|(_, w)| w.start_s / H).collect::<Vec<_>>(),
            [3, 9]
        );
        // Before it is sown it asks for nothing.
        let later = Seedbed {
            from: date(2026, 7, 1),
            ..bed(Stage::NotUp)
        };
        let before = day(&[(3, 9)]);
        assert_eq!(
            with_slots(vec![before.clone()], &[later], 2, open),
            [before]
        );
    }
}
