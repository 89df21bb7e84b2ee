//! What a week is decided from: the zones as they stand, the days ahead, the openings, what rules and people ask.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use serde::Serialize;
use thiserror::Error;

use crate::engine::dose;
use crate::engine::history::ZoneHistory;
use crate::engine::lately::Lately;
use crate::engine::morning::{Ahead, Facts, WaterIn, ZoneFacts, ZoneState};
use crate::engine::rationing::caps;
use crate::engine::reserve;
use crate::engine::schools::Keeping;
use crate::engine::seedbed_hours::{Seedbed, with_slots};
use crate::engine::slot::{HORIZON, LOOKED_AHEAD, Opening, closed_to, openings};
use crate::engine::zone_model::{is_planned, takes};
use crate::quantity::{Depth, Volume};
use crate::record::asked::{Asked, asked};
use crate::record::constraint::{self, Asks};
use crate::record::edit::standings;
use crate::record::known::Known;
use crate::record::past::{PastDay, carry_on};
use crate::site::calendar::{self, CalendarDay};
use crate::site::daylight::Daylight;
use crate::site::{Invalid, Zone};
use crate::view::days::PAST_DAYS;
use crate::view::days::up_to_yesterday;
use crate::view::planned::{Begun, Planned, begun, held, planned};
use crate::weather::outlook::{Climatology, OUTLOOK_DAYS, Outlook};
use crate::weather::{self, AheadDay, DailyWeather};

/// Why there is no plan.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Error {
    /// Neither observed nor forecast weather.
    #[error("no weather before {today}, and no forecast: a plan needs at least one day of it")]
    NoWeather {
        /// The site's day.
        today: Date,
    },
    /// The site does not hold.
    #[error(transparent)]
    Site(#[from] Invalid),
}

/// The past of a site as a plan needs it.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
pub struct Past {
    /// Of each zone of the site its last days, in time order: a week of them, where there are so many.
    pub zones: Vec<Vec<PastDay>>,
    /// The rain of all its record.
    pub climatology: Climatology,
}

impl Past {
    /// From all of a record.
    #[must_use]
    pub fn of_record(known: &Known) -> Self {
        let document = known.document;
        let count = known.observed.partition_point(|d| d.date < known.today);
        let observed = &known.observed[..count];
        let zones = document.zones.iter().map(|zone| {
            let history = ZoneHistory::of(document, zone);
            carry_on(zone, &history, None, observed, known.runs)
        });
        Self {
            zones: zones.collect(),
            climatology: Climatology::of(observed),
        }
    }
}

/// What a window carries for a zone.
pub(super) type Capacity<'a> = &'a dyn Fn(usize, i64) -> Depth;

/// All that a week is decided from.
pub(super) struct Setting<'a> {
    pub time_zone: &'a TimeZone,
    /// The observed days, filled up to yesterday.
    pub observed: &'a [DailyWeather],
    /// The days from today on, as far as scenarios go.
    pub beyond: &'a [AheadDay; OUTLOOK_DAYS],
    /// The first day that a plan shows.
    pub first: Date,
    /// The days that a plan shows and looks ahead over, from `first` on.
    pub whole: &'a [CalendarDay],
    /// The same with the hours of new grass.
    pub slotted: &'a [CalendarDay],
    /// Those from today on, without what is past.
    pub calendar: &'a [CalendarDay],
    pub zones: &'a [Planned<'a>],
    /// What people ask of hours, by zone.
    pub asked: &'a [Vec<Asked>],
    pub facts: &'a Facts<'a, Capacity<'a>>,
    pub state: &'a [ZoneState],
    pub weather: &'a Ahead<'a>,
}

/// Sets a week up from what is known and hands it over.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub(super) fn within<R>(
    known: &Known,
    past: &Past,
    then: impl FnOnce(&Setting) -> R,
) -> Result<R, Error> {
    let document = known.document;
    document.validate()?;
    let time_zone = document.site.zone()?;
    let observed = up_to_yesterday(known).ok_or(Error::NoWeather { today: known.today })?;
    let beyond: [AheadDay; OUTLOOK_DAYS] =
        weather::ahead(&document.site, &observed, known.forecast, known.today);
    let ahead: [AheadDay; HORIZON] = std::array::from_fn(|day| beyond[day]);
    let weather_ahead = ahead.map(|d| d.weather);
    let outlook = Outlook::new(&beyond, &past.climatology, document.site.normals.as_ref());
    let first = known
        .today
        .saturating_sub(i64::try_from(PAST_DAYS).unwrap_or(2).days());
    let shown: Vec<usize> = (0..document.zones.len())
        .filter(|&i| document.zones[i].active_to.is_none_or(|to| first <= to))
        .collect();
    let histories: Vec<ZoneHistory> = shown
        .iter()
        .map(|&i| ZoneHistory::of(document, &document.zones[i]))
        .collect();
    let kept = |i: usize| past.zones.get(i).map_or(&[][..], Vec::as_slice);
    let begun: Vec<Begun> = shown
        .iter()
        .zip(&histories)
        .map(|(&i, history)| begun(known, i, history, kept(i), &observed))
        .collect();
    let zones: Vec<Planned> = shown
        .iter()
        .zip(&histories)
        .zip(&begun)
        .map(|((&i, history), begun)| planned(known, i, history, kept(i), begun, &weather_ahead[0]))
        .collect();
    let mut zones_then: Vec<&Zone> = document.zones.iter().collect();
    for zone in &zones {
        zones_then[zone.place] = zone.zone;
    }
    let days = PAST_DAYS + LOOKED_AHEAD;
    let whole = calendar::days_of(document, &zones_then, &time_zone, first, days);
    let whole = calendar::cut(whole, &constraint::cuts(known.constraints));
    let asks = zones.iter().filter_map(|z| {
        z.bed.filter(|_| z.zone.is_active(known.today))?;
        Some(Seedbed::of(z.place, z.zone, z.model, z.seedling.as_ref()?))
    });
    let seedbeds: Vec<Seedbed> = asks.collect();
    let open = |day: &CalendarDay, place: usize| {
        calendar::open_to_new_grass(document, &zones_then, &time_zone, day, place)
    };
    let slotted = with_slots(whole.clone(), &seedbeds, document.zones.len(), open);
    let calendar = calendar::from_now(slotted[PAST_DAYS..].to_vec(), known.now);
    let openings = openings(&calendar, known.committed.map(Timestamp::as_second));
    let hours = if zones.iter().all(|z| z.bed.is_none()) {
        Vec::new()
    } else {
        let daylight = Daylight::of(&document.site)?;
        let days = calendar.iter().take(HORIZON);
        days.map(|day| daylight.hours(day.date)).collect()
    };

    // A day that was filled has no rain; one that only the gauge knows has.
    let yesterday = observed.last();
    let zones_now: Vec<&Zone> = zones.iter().map(|z| z.zone).collect();
    let lately: Vec<Lately> = zones.iter().map(|z| z.lately(known.today)).collect();
    let asked: Vec<Vec<Asked>> = zones
        .iter()
        .map(|z| {
            let of_zone = known.constraints_of(z.zone);
            asked(of_zone, z.zone, z.model, known.runs, &time_zone, &openings)
        })
        .collect();
    let capacity = |zone: usize, window_s: i64| dose::capacity(zones[zone].model, window_s);
    let facts = Facts {
        zones: zones
            .iter()
            .enumerate()
            .map(|(i, z)| {
                let barred = closed_to(&calendar, &openings, z.place, z.zone);
                let edits = known.edits.iter().filter(|e| e.zone == z.zone.id);
                let by_hand = z.zone.by_hand();
                ZoneFacts {
                    fixed: standings(edits, z.model, by_hand, &calendar, &openings, &barred),
                    barred,
                    model: z.model,
                    keeping: Keeping::of(z.zone, z.model),
                    priority: z.zone.priority,
                    area: z.zone.area_m2,
                    takes: takes(&document.supply, z.model),
                    by_hand,
                    planned: is_planned(document, z.zone, z.model, known.today),
                    kept_dry: kept_dry(known, z.zone, &calendar, &openings),
                    water_in: asked[i].iter().map(WaterIn::from).collect(),
                }
            })
            .collect(),
        openings: openings.clone(),
        targets_s: std::array::from_fn(|day| calendar[day].sunrise_s),
        caps: caps(document, &zones_now, &lately, known.today),
        reserve: reserve::of_site(&document.supply, drawn(&zones, known.today), &calendar[0]),
        capacity: &capacity as Capacity,
        hours,
    };
    let state: Vec<ZoneState> = zones
        .iter()
        .zip(&lately)
        .map(|(z, lately)| ZoneState {
            depletion: z.depletion,
            already: z.today,
            held: held(known, z, &time_zone),
            lately: *lately,
            bed: z.bed,
        })
        .collect();
    let weather = Ahead {
        days: &weather_ahead,
        outlook: Some(&outlook),
        yesterday,
    };
    Ok(then(&Setting {
        time_zone: &time_zone,
        observed: &observed,
        beyond: &beyond,
        first,
        whole: &whole,
        slotted: &slotted,
        calendar: &calendar,
        zones: &zones,
        asked: &asked,
        facts: &facts,
        state: &state,
        weather: &weather,
    }))
}

/// What the zones drew of the supply on the days that are kept and today, in order of days.
fn drawn(zones: &[Planned], today: Date) -> BTreeMap<Date, Volume> {
    let mut drawn: BTreeMap<Date, Volume> = BTreeMap::new();
    for zone in zones {
        let past = zone
            .past
            .iter()
            .map(|(date, b)| (*date, b.irrigation.gross));
        for (date, gross) in past.chain([(today, zone.today.all().gross)]) {
            let of_day = drawn.entry(date).or_default();
            *of_day = *of_day + gross * zone.zone.area_m2;
        }
    }
    drawn
}

/// The openings in which a zone must stay dry: those of whole days, and of some hours.
fn kept_dry(
    known: &Known,
    zone: &Zone,
    calendar: &[CalendarDay],
    openings: &[Opening],
) -> Vec<usize> {
    let on_day = |o: &Opening| o.day < HORIZON && known.is_dry_day(zone, calendar[o.day].date);
    let all = openings.iter().enumerate();
    let mut dry: Vec<usize> = all.filter(|(_, o)| on_day(o)).map(|(at, _)| at).collect();
    let entries = known.constraints_of(zone);
    let entries = entries.filter(|c| c.asks == Asks::KeepDry);
    dry.extend(entries.flat_map(|c| c.openings(openings)));
    dry
}
