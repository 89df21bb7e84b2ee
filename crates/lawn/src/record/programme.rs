//! The programme: what a plan runs and when, and where it holds for rain. It is data, kept as rows; what people read about it is
//! in [`crate::view`] and is never read back.

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};

use crate::engine::schools::{Act, Why};
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::Opening;
use crate::quantity::Depth;
use crate::site::calendar::Interval;
use crate::weather::AheadDay;

/// Hours in which watering is allowed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Hours {
    /// They begin.
    pub opens: Timestamp,
    /// They end.
    pub closes: Timestamp,
}

impl Hours {
    /// Of a window of the calendar.
    #[must_use]
    pub fn of(window: Interval) -> Self {
        Self {
            opens: instant(window.start_s),
            closes: instant(window.end_s),
        }
    }
}

/// A run that is to be.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct ProgrammeRun {
    /// The zone's identifier.
    pub zone: String,
    /// The local day of its window.
    pub date: Date,
    /// Its window.
    pub window: Hours,
    /// Number of passes.
    pub passes: u32,
    /// Length of each, s.
    pub pass_s: i64,
    /// Start of each; none where a person waters at any hour of the window.
    pub starts: Vec<Timestamp>,
}

/// A zone that waits for rain.
#[derive(Debug, Clone, PartialEq)]
pub struct ProgrammeHold {
    /// The zone's identifier.
    pub zone: String,
    /// The local day of its window.
    pub date: Date,
    /// When the window is over.
    pub closes: Timestamp,
    /// Probability that rain brings it back within RAW by the day by which it should have come, %.
    pub probability_pct: f64,
    /// Rain expected by then.
    pub expected: Depth,
    /// What holding keeps from draining below the roots, against the refill.
    pub saves: Depth,
    /// mm beyond RAW over the days compared, more than after the refill.
    pub stress: Depth,
}

/// What a zone is expected to use on a day.
#[derive(Debug, Clone, PartialEq)]
pub struct Use {
    /// The zone's identifier.
    pub zone: String,
    /// The day.
    pub date: Date,
    /// Crop ET as it will be, by the plan.
    pub eta: Depth,
}

/// What a plan expects of a day's weather.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    /// The day.
    pub date: Date,
    /// Reference ET.
    pub et0: Depth,
    /// Rain: the mean amount with its probability.
    pub rain: Depth,
}

/// What a plan runs.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Programme {
    /// The allowed hours from now on, in time order.
    pub windows: Vec<Hours>,
    /// What is to run.
    pub runs: Vec<ProgrammeRun>,
    /// Who waits for rain.
    pub holds: Vec<ProgrammeHold>,
    /// What each zone is expected to use.
    pub uses: Vec<Use>,
    /// What the weather is expected to bring, from its day on.
    pub days: Vec<Expected>,
}

impl Programme {
    /// The first instant after another at which hours begin or end.
    #[must_use]
    pub fn next_edge(&self, after: Timestamp) -> Option<Timestamp> {
        let edges = self.windows.iter().flat_map(|w| [w.opens, w.closes]);
        edges.filter(|at| *at > after).min()
    }

    /// Whether a zone was planned with.
    #[must_use]
    pub fn knows(&self, zone: &str) -> bool {
        self.uses.iter().any(|u| u.zone == zone)
    }

    /// All that runs in a zone on a day: the time, s, and the passes; `None`: nothing.
    #[must_use]
    pub fn runs_on(&self, zone: &str, date: Date) -> Option<(i64, u32)> {
        self.runs
            .iter()
            .filter(|r| r.zone == zone && r.date == date)
            .map(|r| (i64::from(r.passes) * r.pass_s, r.passes))
            .reduce(|sum, run| (sum.0 + run.0, sum.1 + run.1))
    }

    /// The part of it whose windows, each of a day and an end, are kept: what runs and what is held in them.
    #[must_use]
    pub fn part(&self, keep: impl Fn(Date, Timestamp) -> bool) -> Self {
        let mut part = self.clone();
        part.runs.retain(|r| keep(r.date, r.window.closes));
        part.holds.retain(|h| keep(h.date, h.closes));
        part
    }

    /// What a zone is expected to use from a day on that sprinklers have to give; nothing where none of its days is watered.
    #[must_use]
    pub fn uses_from(&self, zone: &str, date: Date) -> Option<Depth> {
        let mut of_zone = self.uses.iter().filter(|u| u.zone == zone).peekable();
        of_zone.peek()?;
        let mut runs = self.runs.iter().filter(|run| run.zone == zone);
        if !runs.any(|run| run.date >= date) {
            return Some(Depth::ZERO);
        }
        Some(of_zone.filter(|u| u.date >= date).map(|u| u.eta).sum())
    }
}

/// What a programme has begun by an instant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Begun {
    /// The run.
    pub run: ProgrammeRun,
    /// When it began; of what a person waters, when its window opened.
    pub started_at: Timestamp,
    /// Passes that have begun.
    pub passes: u32,
}

impl Begun {
    /// When the last of all its passes ends.
    #[must_use]
    pub fn planned_end(&self) -> Timestamp {
        let last = self.run.starts.last().copied().unwrap_or(self.started_at);
        last.saturating_add(self.run.pass_s.seconds())
            .unwrap_or(last)
    }
}

/// How a programme stands at an instant.
#[derive(Debug, Clone, PartialEq)]
pub struct Settled {
    /// Up to when it is left as it was planned: the end of a window that is open, or the instant itself.
    pub until: Timestamp,
    /// What has run, or will have by then: controllers run their programme unless a person says otherwise.
    pub begun: Vec<Begun>,
    /// Holds whose window is over.
    pub held: Vec<ProgrammeHold>,
}

fn instant(s: i64) -> Timestamp {
    // Civil days of a plan lie far within what a timestamp can say.
    Timestamp::from_second(s).unwrap_or(Timestamp::UNIX_EPOCH)
}

impl Programme {
    /// Of a site's week: `zones` are the identifiers of its zones, `days` its horizon, `windows` its hours that are not over, each from its own beginning.
    #[must_use]
    pub fn new(
        zones: &[&str],
        days: &[AheadDay],
        windows: Vec<Hours>,
        openings: &[Opening],
        week: &SiteWeek,
    ) -> Self {
        let dates: Vec<Date> = days.iter().map(|day| day.weather.date).collect();
        let hours = |o: &Opening| Hours::of(o.window);
        let mut programme = Self {
            windows,
            days: days
                .iter()
                .map(|day| Expected {
                    date: day.weather.date,
                    et0: day.weather.et0,
                    rain: day.expected_rain(),
                })
                .collect(),
            ..Self::default()
        };
        for (index, (zone, of_zone)) in zones.iter().zip(&week.zones).enumerate() {
            let days = dates.iter().zip(&of_zone.balances);
            programme.uses.extend(days.map(|(date, balance)| Use {
                zone: (*zone).to_owned(),
                date: *date,
                eta: balance.eta,
            }));
            for proposal in &of_zone.proposals {
                let slot = &proposal.slot;
                let placed = week.placed[slot.opening].iter();
                let placed = placed.clone().find(|p| p.task.zone == index);
                // New grass that a person waters is reminded of, and counts when they note it.
                if placed.is_none() && matches!(proposal.why, Why::NewGrass(_)) {
                    continue;
                }
                let (date, window) = (dates[slot.day], hours(&openings[slot.opening]));
                match &proposal.act {
                    Act::Water(dose) => programme.runs.push(ProgrammeRun {
                        zone: (*zone).to_owned(),
                        date,
                        window,
                        passes: dose.passes,
                        pass_s: dose.pass_s,
                        starts: placed
                            .map(|p| p.starts_s.iter().copied().map(instant).collect())
                            .unwrap_or_default(),
                    }),
                    Act::WaitForRain => {
                        let Some(compared) = proposal.why.compared() else {
                            continue;
                        };
                        programme.holds.push(ProgrammeHold {
                            zone: (*zone).to_owned(),
                            date,
                            closes: window.closes,
                            probability_pct: 100.0 * compared.comparison.relief,
                            expected: compared.expected,
                            saves: compared.saves(),
                            stress: compared.stress(),
                        });
                    }
                    Act::Wait | Act::NoRoom | Act::Skip(_) => {}
                }
            }
        }
        programme
    }

    /// How it stands at an instant.
    #[must_use]
    pub fn settle(&self, now: Timestamp) -> Settled {
        let until = self
            .windows
            .iter()
            .find(|w| w.opens < now && now < w.closes)
            .map_or(now, |w| w.closes);
        let begun = self.runs.iter().filter_map(|run| {
            let (started_at, passes) = match run.starts.first() {
                // By hand, at any allowed hour: counted once the window is over.
                None => (
                    run.window.opens,
                    if run.window.closes <= now {
                        run.passes
                    } else {
                        0
                    },
                ),
                Some(&first) => {
                    let passes = run.starts.iter().filter(|s| **s < until).count();
                    (first, u32::try_from(passes).unwrap_or(u32::MAX))
                }
            };
            (passes > 0).then(|| Begun {
                run: run.clone(),
                started_at,
                passes,
            })
        });
        Settled {
            until,
            begun: begun.collect(),
            held: self
                .holds
                .iter()
                .filter(|h| h.closes <= now)
                .cloned()
                .collect(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    fn at(text: &str) -> Timestamp {
        format!("2026-06-18T{text}:00Z").parse().unwrap()
    }

    fn hours(opens: &str, closes: &str) -> Hours {
        Hours {
            opens: at(opens),
            closes: at(closes),
        }
    }

    fn run(zone: &str, window: Hours, starts: &[&str]) -> ProgrammeRun {
        ProgrammeRun {
            zone: zone.to_owned(),
            date: date(2026, 6, 18),
            window,
            passes: 2,
            pass_s: 600,
            starts: starts.iter().map(|s| at(s)).collect(),
        }
    }

    /// Two windows a day; a zone runs in both.
    fn programme() -> Programme {
        let (dawn, evening) = (hours("04:00", "06:00"), hours("19:00", "20:00"));
        Programme {
            windows: vec![dawn, evening],
            runs: vec![
                run("a", dawn, &["04:10", "04:40"]),
                run("a", evening, &["19:00", "19:30"]),
                run("hose", dawn, &[]),
            ],
            holds: vec![ProgrammeHold {
                zone: "b".to_owned(),
                date: date(2026, 6, 18),
                closes: dawn.closes,
                probability_pct: 60.0,
                expected: Depth::from_mm(4.0),
                saves: Depth::from_mm(2.0),
                stress: Depth::ZERO,
            }],
            uses: Vec::new(),
            days: Vec::new(),
        }
    }

    fn passes(settled: &Settled) -> Vec<(String, Timestamp, u32)> {
        let begun = settled.begun.iter();
        begun
            .map(|b| (b.run.zone.clone(), b.started_at, b.passes))
            .collect()
    }

    #[test]
    fn nothing_has_begun_before_the_first_window() {
        let settled = programme().settle(at("03:00"));
        assert_eq!(settled.until, at("03:00"));
        assert!(settled.begun.is_empty() && settled.held.is_empty());
    }

    #[test]
    fn a_window_that_is_open_counts_as_it_was_planned() {
        let settled = programme().settle(at("04:20"));
        assert_eq!(settled.until, at("06:00"));
        // All of the clock's passes of that window; not yet what a person waters, nor the hold, nor the evening.
        assert_eq!(passes(&settled), [("a".to_owned(), at("04:10"), 2)]);
        assert_eq!(settled.begun[0].planned_end(), at("04:50"));
        assert!(settled.held.is_empty());
    }

    #[test]
    fn each_window_settles_by_itself() {
        let dawn = programme().settle(at("06:00"));
        let begun = [
            ("a".to_owned(), at("04:10"), 2),
            ("hose".to_owned(), at("04:00"), 2),
        ];
        assert_eq!(passes(&dawn), begun);
        assert_eq!((dawn.until, dawn.held.len()), (at("06:00"), 1));
        let evening = programme().settle(at("21:00"));
        assert_eq!(evening.begun.len(), 3);
    }

    #[test]
    fn settling_twice_is_settling_once() {
        let p = programme();
        assert_eq!(p.settle(at("19:10")), p.settle(at("19:10")));
        assert_eq!(p.settle(at("19:10")).begun.len(), 3);
    }
}
