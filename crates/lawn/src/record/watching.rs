//! The days of a flow meter, watched one after another: whose water each day's was, and what was named.

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};

use crate::measure::quick::QuickTest;
use crate::quantity::{Area, Volume};
use crate::record::flow::{HEARD, Minutes, Pass, Taken};
use crate::record::flow_watch::{FlowFinding, Watch};
use crate::record::watered::Watered;
use crate::record::waterings::histories;
use crate::site::SiteDocument;
use crate::site::meter::Meter;

/// Passes that a quick test by the meter is made of: as many as a zone's flow is learned from.
const TESTED: usize = 5;

/// A valve or a hose that was open.
#[derive(Debug, Clone, PartialEq)]
pub struct Opened {
    /// The zone's identifier.
    pub zone: String,
    /// It opened.
    pub from: Timestamp,
    /// It closed.
    pub to: Timestamp,
    /// Local day of its run, which may have begun on the evening before.
    pub date: Date,
    /// What it watered, and by what.
    pub watered: Watered,
}

/// What is known of a flow meter over some days.
#[derive(Debug, Clone, Copy)]
pub struct Counted<'a> {
    /// The site.
    pub document: &'a SiteDocument,
    /// The meter; without [`Meter::pulse_l`] it counts no water.
    pub meter: &'a Meter,
    /// The first minute that is known.
    pub from: Timestamp,
    /// Pulses of each minute from then on.
    pub counts: &'a [Option<u16>],
    /// What was open, in time order.
    pub opened: &'a [Opened],
    /// First day that is watched; the first some tell what is normal.
    pub first: Date,
    /// Last day that is watched.
    pub last: Date,
}

/// What a pass took.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ZoneTaken {
    /// The zone, by its place in the site's list.
    pub zone: usize,
    /// What it took.
    pub taken: Taken,
    /// Whether it says what the zone takes.
    pub judged: bool,
}

/// A day that was watched: one of which any minute was heard, or on which a zone's rate was told anew.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WatchedDay {
    /// The day.
    pub date: Date,
    /// The zones whose own sprinklers ran, by their places in the site's list.
    pub ran: Vec<usize>,
    /// What was named.
    pub found: Vec<FlowFinding>,
    /// Zones whose rate was told anew on this day: what was named of them before does not stand any more.
    pub told_anew: Vec<usize>,
    /// What each pass of the day's runs took, also after midnight.
    pub taken: Vec<ZoneTaken>,
    /// What flowed with nothing on.
    pub nobody: Volume,
    /// What flowed an hour with nothing on.
    pub idle_l_h: f64,
    /// Minutes of the day that were heard.
    pub heard_min: u32,
}

/// A pass, and whose run it is of.
struct OfRun {
    date: Date,
    pass: Pass,
    own: bool,
}

fn midnight(day: Date, zone: &TimeZone) -> Option<Timestamp> {
    let zoned = day.to_zoned(zone.clone()).ok()?;
    Some(zoned.timestamp())
}

impl Counted<'_> {
    fn passes(&self) -> Vec<OfRun> {
        let histories = histories(self.document);
        let of = |opened: &Opened| {
            let zones = &self.document.zones;
            let zone = zones.iter().position(|zone| zone.id == opened.zone)?;
            if !self.meter.feeds(&opened.zone) {
                return None;
            }
            let rated = histories[zone].on(opened.date).model.flow_l_min;
            let (own, rated_l_min) = match opened.watered {
                Watered::Own { share } => (share >= 1.0, rated),
                Watered::Unmeasured => (false, rated),
                Watered::Hose { flow_l_min, .. } => (false, flow_l_min),
            };
            let (from, to) = (opened.from, opened.to);
            let pass = Pass {
                zone,
                from,
                to,
                rated_l_min,
                judged: false,
            };
            let date = opened.date;
            Some(OfRun { date, pass, own })
        };
        self.opened.iter().filter_map(of).collect()
    }

    /// The place of an instant in the counts.
    fn place(&self, at: Timestamp) -> usize {
        let minute = (at.as_second() - self.from.as_second()).max(0) / 60;
        let place = usize::try_from(minute).unwrap_or(usize::MAX);
        place.min(self.counts.len())
    }
}

/// Watches the days of a meter. Where another rate of a zone is told it has other nozzles: its flow is learned anew.
#[must_use]
pub fn watched(of: &Counted) -> Vec<WatchedDay> {
    let zone = of.document.site.zone().unwrap_or(TimeZone::UTC);
    let pulse = Volume::from_l(of.meter.pulse_l.unwrap_or_default());
    let passes = of.passes();
    let histories = histories(of.document);
    let mut watch = Watch::new(of.document.zones.len());
    let mut days = Vec::new();
    for date in of.first.series(jiff::Span::new().days(1)) {
        if date > of.last {
            break;
        }
        let next = date.tomorrow().unwrap_or(Date::MAX);
        let Some((begins, ends)) = midnight(date, &zone).zip(midnight(next, &zone)) else {
            break;
        };
        let begins = begins.max(of.from);
        let mut told_anew = Vec::new();
        for (place, history) in histories.iter().enumerate() {
            if history.holds_since("rate_mm_h", date) == Some(date) {
                watch.forget(place);
                told_anew.push(place);
            }
        }
        let (first, last) = (of.place(begins), of.place(ends));
        if first >= last || of.counts[first..last].iter().all(Option::is_none) {
            if !told_anew.is_empty() {
                days.push(WatchedDay {
                    date,
                    told_anew,
                    ..WatchedDay::default()
                });
            }
            continue;
        }
        // A run that goes on after midnight is the day's on which it began: its passes are looked at whole, and explain what the next day counted.
        let of_day = passes.iter().filter(|p| p.date == date);
        let goes_on = of_day.map(|p| p.pass.to).max().unwrap_or(ends).max(ends);
        let margin = SignedDuration::from_mins(2);
        let there: Vec<(Pass, bool)> = (passes.iter())
            .filter(|p| p.pass.from < goes_on + margin && p.pass.to > begins - margin)
            .map(|p| {
                let is_of_day = p.date == date;
                let judged = p.own && is_of_day;
                let pass = p.pass.clone();
                (Pass { judged, ..pass }, is_of_day)
            })
            .collect();
        let minutes = Minutes {
            from: begins,
            counts: &of.counts[first..of.place(goes_on + margin)],
            pulse,
            day: last - first,
        };
        let there_are: Vec<Pass> = there.iter().map(|(pass, _)| pass.clone()).collect();
        let (whose, found) = watch.day(&minutes, &there_are);
        let idle: u32 = whose.idle.iter().map(|idle| idle.pulses).sum();
        let with_taken = there.iter().zip(&whose.passes);
        days.push(WatchedDay {
            date,
            ran: there_are
                .iter()
                .filter(|p| p.judged)
                .map(|p| p.zone)
                .collect(),
            found,
            told_anew,
            taken: with_taken
                .filter(|((_, is_of_day), _)| *is_of_day)
                .map(|((pass, _), taken)| ZoneTaken {
                    zone: pass.zone,
                    taken: *taken,
                    judged: pass.judged,
                })
                .collect(),
            nobody: Volume::from_l(f64::from(idle) * pulse.l()),
            idle_l_h: whose.idle_l_h,
            heard_min: whose.heard_min,
        });
    }
    days
}

/// A quick test by the meter of what a zone's last passes took, without what leaks; `None`: too little of them was heard since its rate was told.
#[must_use]
pub fn metered_test(days: &[WatchedDay], zone: usize, area: Area) -> Option<QuickTest> {
    let since = days.iter().rposition(|day| day.told_anew.contains(&zone));
    let passes = days[since.unwrap_or(0)..].iter().rev().flat_map(|day| {
        let of_day = day.taken.iter().rev();
        of_day.filter_map(move |t| {
            let heard = t.taken.heard_min >= HEARD * t.taken.length_min;
            let leaked = day.idle_l_h / 60.0 * t.taken.heard_min;
            (t.zone == zone && t.judged && heard)
                .then_some((t.taken.litres.l() - leaked, t.taken.heard_min))
        })
    });
    let passes: Vec<(f64, f64)> = passes.take(TESTED).collect();
    let litres: f64 = passes.iter().map(|(litres, _)| litres).sum();
    let test = QuickTest::Meter {
        before_l: 0.0,
        after_l: litres,
        minutes: passes.iter().map(|(_, minutes)| minutes).sum(),
        area_m2: area.m2(),
    };
    (passes.len() == TESTED && test.validate().is_ok()).then_some(test)
}
