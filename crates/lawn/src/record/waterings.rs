//! The runs of the record in litres and money: what was planned of each, what came out, what it cost.

use std::collections::BTreeMap;
use std::ops::RangeInclusive;

use jiff::Timestamp;
use jiff::civil::Date;

use crate::engine::history::{Stretch, ZoneHistory};
use crate::quantity::{Depth, Volume};
use crate::record::known::Run;
use crate::record::watered::{Passes, Watered};
use crate::site::SiteDocument;
use crate::site::meter::Meter;
use crate::site::tariff::{self, Tariff};

/// A run in the record with what was planned of it: also one that was denied, of no passes.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    /// The zone's identifier.
    pub zone: String,
    /// Local day of its first start.
    pub date: Date,
    /// Its first start.
    pub started_at: Timestamp,
    /// How long it ran; 0 passes: it was denied.
    pub ran: Passes,
    /// What it watered, and by what.
    pub watered: Watered,
    /// Whether it was taken from the plan in force because nobody said otherwise.
    pub assumed: bool,
    /// What a plan asked for; `None`: none did.
    pub planned: Option<Passes>,
    /// Whether a person opened the water, of a zone that has a valve.
    pub by_hand: bool,
}

/// The first day from which the runs are needed for a span: the first of its month, since tiers count from there.
#[must_use]
pub fn counted_from(from: Date) -> Date {
    from.first_of_month()
}

/// What a run comes to.
#[derive(Debug, Clone, Copy)]
pub(super) struct Watering {
    /// Its zone, by its place in the site's list.
    pub(super) zone: usize,
    pub(super) date: Date,
    pub(super) planned: Volume,
    pub(super) run: Volume,
    pub(super) assumed: bool,
    pub(super) visit: bool,
    pub(super) seconds: i64,
    /// How long a person was at it: a portable sprinkler is set again and again.
    pub(super) by_hand_s: i64,
    pub(super) unmeasured: bool,
    pub(super) started_at: Timestamp,
}

/// What passes of a zone come to, as it was on their day.
pub(super) fn volume(then: &Stretch, watered: &Watered, passes: Passes) -> Volume {
    let area = then.zone.area_m2;
    // Only what comes out counts here: that does not ask how dry the ground is.
    watered
        .irrigation(&then.model, area, passes, Depth::ZERO)
        .gross
        * area
}

/// What the lawn has used of a day's month, by the runs of the record: it says in which tier the next litre lies.
#[must_use]
pub fn used_of_month(document: &SiteDocument, runs: &[Run], today: Date) -> Volume {
    let month = today.first_of_month()..=today.last_of_month();
    let histories = histories(document);
    let of = |run: &Run| {
        let zone = document.zones.iter().position(|zone| zone.id == run.zone)?;
        let passes = Passes {
            passes: run.passes,
            run_s: run.run_s,
        };
        Some(volume(histories[zone].on(run.date), &run.watered, passes).l())
    };
    let runs = runs.iter().filter(|run| month.contains(&run.date));
    Volume::from_l(runs.filter_map(of).sum())
}

/// What each of the entries came to.
pub(super) fn waterings(
    document: &SiteDocument,
    entries: &[Entry],
    histories: &[ZoneHistory],
) -> Vec<Watering> {
    let zones: BTreeMap<&str, usize> = (document.zones.iter().enumerate())
        .map(|(i, zone)| (zone.id.as_str(), i))
        .collect();
    let of = |entry: &Entry| {
        let zone = *zones.get(entry.zone.as_str())?;
        let then = histories[zone].on(entry.date);
        let volume = |passes| volume(then, &entry.watered, passes);
        Some(Watering {
            zone,
            date: entry.date,
            planned: entry.planned.map(volume).unwrap_or_default(),
            run: volume(entry.ran),
            assumed: entry.assumed,
            visit: (entry.by_hand || then.zone.by_hand()) && entry.ran.passes > 0,
            seconds: entry.ran.run_s,
            by_hand_s: match entry.watered {
                Watered::Own { .. } => entry.ran.run_s * i64::from(then.model.settings),
                Watered::Hose { .. } | Watered::Unmeasured => entry.ran.run_s,
            },
            unmeasured: entry.watered == Watered::Unmeasured,
            started_at: entry.started_at,
        })
    };
    entries.iter().filter_map(of).collect()
}

/// What each run cost: a day's water is priced where the month's use stands by then, and its runs share that by their volumes.
pub(super) fn costs(
    waterings: &[Watering],
    tariffs: &[Tariff],
) -> (Vec<Option<f64>>, BTreeMap<Date, Volume>) {
    let mut of_days: BTreeMap<Date, Volume> = BTreeMap::new();
    for watering in waterings {
        let day = of_days.entry(watering.date).or_default();
        *day = *day + watering.run;
    }
    // Of each day the use of its month before it.
    let mut used = BTreeMap::new();
    let mut month = (Date::MIN, Volume::default());
    for (date, volume) in &of_days {
        if month.0 != date.first_of_month() {
            month = (date.first_of_month(), Volume::default());
        }
        used.insert(*date, month.1);
        month.1 = month.1 + *volume;
    }
    let costs = waterings.iter().map(|watering| {
        let date = watering.date;
        let tariff = tariff::on(tariffs, date)?;
        let whole = of_days.get(&date).copied().unwrap_or_default();
        if whole.l() <= 0.0 {
            return Some(0.0);
        }
        let before = used.get(&date).copied().unwrap_or_default();
        Some(tariff.cost(date.month(), before, whole) * (watering.run.l() / whole.l()))
    });
    (costs.collect(), of_days)
}

/// What ran on a meter's zones between two instants; of a run that lies across one its part.
pub(super) fn run_between(
    document: &SiteDocument,
    meter: &Meter,
    waterings: &[Watering],
    from: Timestamp,
    to: Timestamp,
) -> Volume {
    let litres = waterings
        .iter()
        .filter(|w| meter.feeds(&document.zones[w.zone].id))
        .map(|w| {
            let (start, end) = (
                w.started_at.as_second(),
                w.started_at.as_second() + w.seconds,
            );
            let within = end.min(to.as_second()) - start.max(from.as_second());
            #[allow(clippy::cast_precision_loss)] // at most a day of seconds
            let share = within.max(0) as f64 / w.seconds.max(1) as f64;
            w.run.l() * share
        });
    Volume::from_l(litres.sum())
}

/// What ran, ready to be asked for between many instants.
#[derive(Debug)]
pub struct Ran<'a> {
    document: &'a SiteDocument,
    waterings: Vec<Watering>,
}

impl<'a> Ran<'a> {
    /// Of the runs of the record.
    #[must_use]
    pub fn new(document: &'a SiteDocument, entries: &[Entry]) -> Self {
        let waterings = waterings(document, entries, &histories(document));
        Self {
            document,
            waterings,
        }
    }

    /// What ran on all zones on some days.
    #[must_use]
    pub fn on(&self, days: &RangeInclusive<Date>) -> Volume {
        let on = self.waterings.iter().filter(|w| days.contains(&w.date));
        Volume::from_l(on.map(|w| w.run.l()).sum())
    }

    /// What ran on a meter's zones between two instants; of a run that lies across one its part.
    #[must_use]
    pub fn between(&self, meter: &Meter, from: Timestamp, to: Timestamp) -> Volume {
        run_between(self.document, meter, &self.waterings, from, to)
    }
}

/// The zones as they were from day to day, in the site's order.
pub(crate) fn histories(document: &SiteDocument) -> Vec<ZoneHistory> {
    let zones = document.zones.iter();
    zones.map(|zone| ZoneHistory::of(document, zone)).collect()
}
