//! A zone as a plan finds it: its past up to today, what was seen of it, how long it was held.

use jiff::ToSpan;
use jiff::civil::Date;
use jiff::tz::TimeZone;

use crate::engine::correction::{Correction, Doubt};
use crate::engine::dawn::Dawn;
use crate::engine::history::ZoneHistory;
use crate::engine::lately::Lately;
use crate::engine::root_zone::{DayBalance, Given};
use crate::engine::schools::Crowns;
use crate::engine::seedbed::BedNow;
use crate::engine::seedling::Seedling;
use crate::engine::slot::{closed_to, openings};
use crate::engine::zone_model::ZoneModel;
use crate::measure::seen::Seen;
use crate::quantity::Depth;
use crate::record::known::Known;
use crate::record::past::{self, PastDay, carry_on};
use crate::site::soil_counting::ZoneSeen;
use crate::site::{Zone, calendar};
use crate::weather::DailyWeather;

/// A zone of the plan.
pub(super) struct Planned<'a> {
    /// Its place in the site.
    pub place: usize,
    /// As it is today.
    pub zone: &'a Zone,
    pub model: &'a ZoneModel,
    pub history: &'a ZoneHistory,
    /// What grows anew.
    pub seedling: Option<Seedling>,
    /// The surface of new grass, where it has a store.
    pub bed: Option<BedNow>,
    /// Its days before today.
    pub past: Vec<(Date, DayBalance)>,
    /// At today's dawn.
    pub depletion: Depth,
    /// What ran today.
    pub today: Given,
    /// What readings have taught: what the turf uses beyond the book, share.
    pub drift: f64,
    /// What was seen in the days before today and today, with what it changed; in time order.
    pub seen: Vec<(Date, Seen, Correction)>,
}

impl Planned<'_> {
    /// What the zone got lately, what ran today included.
    pub(super) fn lately(&self, today: Date) -> Lately {
        let mut lately = Lately::new(Crowns::of(self.zone).depth);
        for (date, balance) in &self.past {
            lately.water(*date, &balance.irrigation);
            lately.rain(*date, balance.effective_rain);
        }
        lately.water(today, &self.today.all());
        lately
    }
}

/// Days that holds running are looked for: two opportunities of a site that waters once a week, and a little more.
const HELD_DAYS: usize = 21;

/// Opportunities running, up to yesterday, at which a zone was held for rain.
pub(super) fn held(known: &Known, of: &Planned, time_zone: &TimeZone) -> u32 {
    let zone = of.zone;
    let count = u32::try_from(
        known
            .holds
            .iter()
            .filter(|h| h.zone == zone.id && h.date < known.today)
            .count(),
    )
    .unwrap_or(u32::MAX);
    if count == 0 {
        return 0;
    }
    let back = HELD_DAYS;
    let first = known
        .today
        .saturating_sub(i64::try_from(back).unwrap_or(0).days());
    let days = calendar::days(known.document, time_zone, first, back);
    let openings = openings(&days, None);
    let closed = closed_to(&days, &openings, of.place, zone);
    let mut own: Vec<usize> = openings
        .iter()
        .enumerate()
        .filter(|(place, _)| !closed.contains(place))
        .map(|(_, opening)| opening.day)
        .collect();
    own.dedup();
    let mut running = 0;
    for day in own.into_iter().rev().map(|day| &days[day]) {
        if !known
            .holds
            .iter()
            .any(|h| h.zone == zone.id && h.date == day.date)
        {
            break;
        }
        running += 1;
    }
    running
}

/// A zone's days up to yesterday that are not kept, whose weather may have been filled, and today's dawn.
pub(super) struct Begun<'a> {
    days: Vec<PastDay>,
    pub dawn: Dawn<'a>,
}

/// A zone's past up to today's dawn, from what is kept of it.
pub(super) fn begun<'a>(
    known: &Known,
    place: usize,
    history: &'a ZoneHistory,
    kept: &[PastDay],
    observed: &[DailyWeather],
) -> Begun<'a> {
    let zone = &known.document.zones[place];
    let after = kept
        .last()
        .map_or(0, |last| observed.partition_point(|d| d.date <= last.date));
    let days = carry_on(zone, history, kept.last(), &observed[after..], known.runs);
    let last = days.last().or(kept.last()).map(PastDay::left);
    let initial = zone.initial_depletion_mm;
    let today = zone.seen.iter().filter(|kept| kept.date == known.today);
    let today = today.map(|kept| &kept.seen);
    Begun {
        dawn: Dawn::of(history, initial, last.as_ref(), known.today, today),
        days,
    }
}

/// A zone with its past up to yesterday, and what ran and was seen today.
pub(super) fn planned<'a>(
    known: &Known,
    place: usize,
    history: &'a ZoneHistory,
    kept: &[PastDay],
    begun: &'a Begun,
    today: &DailyWeather,
) -> Planned<'a> {
    let zone = &known.document.zones[place];
    let Begun { days, dawn } = begun;
    let then = &dawn.then;
    let runs = known.runs.iter();
    let runs = runs.filter(|r| r.zone == zone.id && r.date == known.today);
    let given = past::given(then, runs.clone(), dawn.now());
    let before = days.last().or(kept.last());
    let doubt = before.map_or(Doubt::of_book(&then.model), |last| last.doubt);
    let past = kept.iter().chain(days);
    let mut seen = seen_before(zone, history, past.clone());
    let (bed, depletion, drift) = match dawn.bed {
        Some((bed, surface)) => {
            let ran = past::ran_by_hour(then, runs, dawn.now() + surface);
            let now = BedNow { bed, surface, ran };
            (Some(now), dawn.now(), 0.0)
        }
        None => {
            let drifted = dawn.now() + doubt.drifts(then.model.etc(today));
            let depletion = drifted.max(Depth::ZERO).min(then.model.taw);
            let now = zone.seen.iter().filter(|kept| kept.date == known.today);
            let corrected = past::corrected(now, &then.model, depletion, today, &given, doubt);
            let by = corrected.by.iter();
            seen.extend(by.map(|(seen, c)| (known.today, *seen, *c)));
            (
                None,
                depletion + corrected.adjustment,
                corrected.doubt.drift,
            )
        }
    };
    Planned {
        place,
        zone: &then.zone,
        model: &then.model,
        history,
        seedling: dawn.seedling,
        bed,
        past: past.map(|d| (d.date, d.balance)).collect(),
        depletion,
        today: given,
        drift,
        seen,
    }
}

/// What was seen on past days that corrected their dawns.
fn seen_before<'a>(
    zone: &Zone,
    history: &ZoneHistory,
    days: impl Iterator<Item = &'a PastDay>,
) -> Vec<(Date, Seen, Correction)> {
    if zone.seen.is_empty() {
        return Vec::new();
    }
    let mut found = Vec::new();
    let mut before: Option<Doubt> = None;
    for day in days {
        let model = &history.on(day.date).model;
        let on_day: Vec<&ZoneSeen> = zone.seen.iter().filter(|k| k.date == day.date).collect();
        if let Some(doubt) = before.filter(|_| !on_day.is_empty()) {
            let balance = &day.balance;
            let by = past::corrected_by(on_day, model, balance, doubt);
            found.extend(by.into_iter().map(|(seen, c)| (day.date, seen, c)));
        }
        before = Some(day.doubt);
    }
    found
}
