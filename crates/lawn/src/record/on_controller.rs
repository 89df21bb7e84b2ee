//! Whether a week's programme can be set on the site's controller by its own programmes: zones with the same days and passes share one, each with its
//! own minutes.

use std::collections::{BTreeMap, BTreeSet};

use jiff::civil::Date;

use crate::record::programme::Programme;
use crate::site::Controller;
use crate::site::calendar::unix_day;
use crate::site::supply::DayPattern;

/// What a week asks of a controller.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Needs {
    /// Programmes that it takes.
    pub programmes: usize,
    /// Zones whose days no pattern of the controller makes.
    pub no_pattern: Vec<String>,
}

impl Needs {
    /// Whether the controller can hold it.
    #[must_use]
    pub fn fits(&self, controller: &Controller) -> bool {
        let enough = |has: u8| self.programmes <= usize::from(has);
        controller.programmes.is_none_or(enough) && self.no_pattern.is_empty()
    }
}

/// What the runs of a programme on the clock ask of a controller.
#[must_use]
pub fn needs(programme: &Programme, controller: &Controller) -> Needs {
    let week: Vec<Date> = programme.days.iter().map(|d| d.date).collect();
    // A zone has one run time in a programme: other minutes, or passes, take another.
    let mut of_zone: BTreeMap<(&str, u32, i64), BTreeSet<Date>> = BTreeMap::new();
    for run in programme.runs.iter().filter(|r| !r.starts.is_empty()) {
        let key = (run.zone.as_str(), run.passes, run.pass_s);
        of_zone.entry(key).or_default().insert(run.date);
    }
    let programmes: BTreeSet<(&BTreeSet<Date>, u32)> = of_zone
        .iter()
        .map(|((_, passes, _), days)| (days, *passes))
        .collect();
    let makes = |pattern: &DayPattern, days: &BTreeSet<Date>| match pattern {
        DayPattern::Weekdays => true,
        DayPattern::OddEven => [0, 1].into_iter().any(|odd| {
            let of_it = week.iter().filter(|date| date.day() % 2 == odd);
            of_it.copied().eq(days.iter().copied())
        }),
        DayPattern::EveryNth => (1..=7).any(|n| {
            let Some(first) = days.first() else {
                return true;
            };
            let nth = |date: &&Date| (unix_day(**date) - unix_day(*first)).rem_euclid(n) == 0;
            week.iter().filter(nth).copied().eq(days.iter().copied())
        }),
    };
    let mut no_pattern: Vec<String> = of_zone
        .iter()
        .filter(|(_, days)| {
            let known = &controller.patterns;
            !known.is_empty() && !known.iter().any(|pattern| makes(pattern, days))
        })
        .map(|((zone, ..), _)| (*zone).to_owned())
        .collect();
    no_pattern.dedup();
    Needs {
        programmes: programmes.len(),
        no_pattern,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::Depth;
    use crate::record::programme::{Expected, Hours, ProgrammeRun};
    use jiff::Timestamp;
    use jiff::civil::date;

    /// Runs by zone, day of June, passes and minutes; the week of Monday 15 June 2026.
    fn programme(runs: &[(&str, i8, u32, i64)]) -> Programme {
        let hours = Hours {
            opens: Timestamp::UNIX_EPOCH,
            closes: Timestamp::UNIX_EPOCH,
        };
        Programme {
            days: (15..22)
                .map(|day| Expected {
                    date: date(2026, 6, day),
                    et0: Depth::ZERO,
                    rain: Depth::ZERO,
                })
                .collect(),
            runs: runs
                .iter()
                .map(|(zone, day, passes, min)| ProgrammeRun {
                    zone: (*zone).to_owned(),
                    date: date(2026, 6, *day),
                    window: hours,
                    passes: *passes,
                    pass_s: min * 60,
                    starts: vec![Timestamp::UNIX_EPOCH],
                })
                .collect(),
            ..Programme::default()
        }
    }

    #[test]
    fn zones_with_the_same_days_and_passes_share_a_programme() {
        let week = programme(&[
            ("a", 15, 2, 10),
            ("a", 18, 2, 10),
            ("b", 15, 2, 25),
            ("b", 18, 2, 25),
            // Other minutes on another day, and other passes.
            ("c", 15, 2, 10),
            ("c", 18, 2, 12),
            ("d", 15, 1, 30),
            ("d", 18, 1, 30),
        ]);
        let holds = |programmes: u8| Controller {
            programmes: Some(programmes),
            ..Controller::default()
        };
        let needs = needs(&week, &holds(3));
        assert_eq!((needs.programmes, needs.no_pattern.len()), (4, 0));
        assert!(!needs.fits(&holds(3)) && needs.fits(&holds(4)));
        assert!(needs.fits(&Controller::default()));
    }

    #[test]
    fn days_are_made_by_the_patterns_that_the_controller_knows() {
        let week = programme(&[
            ("odd", 15, 1, 10),
            ("odd", 17, 1, 10),
            ("odd", 19, 1, 10),
            ("odd", 21, 1, 10),
            ("third", 16, 1, 10),
            ("third", 19, 1, 10),
            ("any", 15, 1, 10),
            ("any", 16, 1, 10),
        ]);
        let no_pattern = |patterns: &[DayPattern]| {
            let controller = Controller {
                patterns: patterns.to_vec(),
                ..Controller::default()
            };
            needs(&week, &controller).no_pattern
        };
        assert_eq!(no_pattern(&[DayPattern::OddEven]), ["any", "third"]);
        assert_eq!(no_pattern(&[DayPattern::EveryNth]), ["any"]);
        assert!(no_pattern(&[DayPattern::OddEven, DayPattern::Weekdays]).is_empty());
        assert!(no_pattern(&[]).is_empty());
    }
}
