//! A week that somebody published: it is in force for its days, whatever the newest plan says; after them the newest plan is.

use jiff::Timestamp;
use jiff::civil::Date;

use crate::record::edit::{Becomes, Edit};
use crate::record::programme::{Programme, ProgrammeRun};

/// A published week.
#[derive(Debug, Clone, PartialEq)]
pub struct Published {
    /// What the plan runs that was published.
    pub programme: Programme,
    /// It is in force in windows that end after this.
    pub from: Timestamp,
    /// Its last day.
    pub last: Date,
}

impl Published {
    /// Whether it, and not the newest plan, is in force in a window of a day that ends then.
    #[must_use]
    pub fn is_in_force(&self, date: Date, closes: Timestamp) -> bool {
        closes > self.from && date <= self.last
    }

    /// What is in force of it.
    #[must_use]
    pub fn in_force(&self) -> Programme {
        self.programme
            .part(|date, closes| self.is_in_force(date, closes))
    }

    /// What is in force of the newest plan beside it.
    #[must_use]
    pub fn leaves(&self, newest: &Programme) -> Programme {
        newest.part(|date, closes| !self.is_in_force(date, closes))
    }

    /// What still runs of it, from an instant on, as a person's changes of the plan: the days of the site's zones up to the last, set or taken out; of a zone
    /// that it does not know nothing runs. Several runs of a day are one.
    #[must_use]
    pub fn as_edits<'a>(
        &self,
        zones: impl Iterator<Item = &'a str>,
        today: Date,
        from: Timestamp,
    ) -> Vec<Edit> {
        let days = |date: &Date| today <= *date && *date <= self.last;
        zones
            .flat_map(|zone| {
                let dates = self.programme.days.iter().map(|d| d.date);
                dates.filter(days).map(move |date| {
                    let runs = self.programme.runs.iter().filter(|r| {
                        r.zone == zone
                            && r.date == date
                            && r.window.closes > from
                            && self.is_in_force(date, r.window.closes)
                    });
                    Edit {
                        zone: zone.to_owned(),
                        date,
                        becomes: together(runs),
                    }
                })
            })
            .collect()
    }
}

/// Runs of a day as one; none: taken out.
fn together<'a>(runs: impl Iterator<Item = &'a ProgrammeRun>) -> Becomes {
    let (passes, run_s) = runs.fold((0, 0), |(passes, run_s), r| {
        (passes + r.passes, run_s + i64::from(r.passes) * r.pass_s)
    });
    match passes {
        0 => Becomes::TakenOut,
        _ => Becomes::Set {
            passes,
            pass_s: run_s / i64::from(passes),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::quantity::Depth;
    use crate::record::programme::{Expected, Hours, Use};
    use jiff::ToSpan;
    use jiff::civil::date;

    const FIRST: Date = date(2026, 6, 18);

    fn on(day: i64) -> Date {
        FIRST.checked_add(day.days()).unwrap()
    }

    fn at(day: i64, hour: i64) -> Timestamp {
        let midnight: Timestamp = "2026-06-18T00:00:00Z".parse().unwrap();
        midnight.checked_add((24 * day + hour).hours()).unwrap()
    }

    /// Waters two passes of ten minutes from 04:00 on the days named, windows from 04:00 to 07:00.
    fn programme(watered: &[i64]) -> Programme {
        let window = |day| Hours {
            opens: at(day, 4),
            closes: at(day, 7),
        };
        Programme {
            windows: (0..7).map(window).collect(),
            runs: watered
                .iter()
                .map(|&day| ProgrammeRun {
                    zone: "a".to_owned(),
                    date: on(day),
                    window: window(day),
                    passes: 2,
                    pass_s: 600,
                    starts: vec![at(day, 4), at(day, 5)],
                })
                .collect(),
            holds: Vec::new(),
            uses: vec![Use {
                zone: "a".to_owned(),
                date: FIRST,
                eta: Depth::ZERO,
            }],
            days: (0..7)
                .map(|day| Expected {
                    date: on(day),
                    et0: Depth::ZERO,
                    rain: Depth::ZERO,
                })
                .collect(),
        }
    }

    fn dates(programme: &Programme) -> Vec<Date> {
        programme.runs.iter().map(|r| r.date).collect()
    }

    #[test]
    fn each_window_is_in_force_of_one_of_both() {
        // Published while the first window was open: that one stays with the plan that opened it.
        let published = Published {
            programme: programme(&[0, 2, 4]),
            from: at(0, 7),
            last: on(4),
        };
        assert_eq!(dates(&published.in_force()), [on(2), on(4)]);
        let newest = programme(&[0, 1, 3, 5, 6]);
        assert_eq!(dates(&published.leaves(&newest)), [on(0), on(5), on(6)]);
    }

    #[test]
    fn what_still_runs_is_set_and_the_other_days_are_taken_out() {
        let published = Published {
            programme: programme(&[0, 2, 4]),
            from: at(-1, 0),
            last: on(4),
        };
        let edits = published.as_edits(["a"].into_iter(), on(2), at(2, 3));
        let dates: Vec<Date> = edits.iter().map(|e| e.date).collect();
        assert_eq!(dates, [on(2), on(3), on(4)]);
        let set = Becomes::Set {
            passes: 2,
            pass_s: 600,
        };
        let becomes: Vec<Becomes> = edits.iter().map(|e| e.becomes).collect();
        assert_eq!(becomes, [set, Becomes::TakenOut, set]);
        // Once the window is over its run has run: nothing of the day is left to set.
        assert_eq!(
            published.as_edits(["a"].into_iter(), on(2), at(2, 7))[0].becomes,
            Becomes::TakenOut
        );
    }
}
