//! The week's plan: a pure function of what is known, with its reasons. What people and files see.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use serde::Serialize;
use thiserror::Error;

use crate::engine::dose;
use crate::engine::history::ZoneHistory;
use crate::engine::lately::Lately;
use crate::engine::morning::{self, Ahead, Facts, WaterIn, ZoneFacts, ZoneState};
use crate::engine::rationing::{CappedBy, caps};
use crate::engine::reserve;
use crate::engine::schools::{Keeping, School};
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::{HORIZON, LOOKED_AHEAD, Opening, closed_to, openings, zone_days};
use crate::engine::zone_model::{is_planned, takes};
use crate::quantity::{Depth, Volume};
use crate::record::asked::{Asked, asked};
use crate::record::constraint::{self, Asks};
use crate::record::edit::standings;
pub use crate::record::known::{DryDay, Known, RainHold, Run};
use crate::record::on_controller;
use crate::record::past::{PastDay, carry_on};
use crate::record::programme::{Hours, Programme};
use crate::site::calendar::{self, CalendarDay};
use crate::site::rules::Says;
use crate::site::{Invalid, SiteDocument, Zone};
use crate::view::coming::{at_dawn, dawn, next_watering};
pub use crate::view::days::PAST_DAYS;
use crate::view::days::{notes, plan_days, up_to_yesterday};
use crate::view::planned::{Planned, held, planned};
use crate::view::published::{AsPublished, Zones, as_published};
use crate::view::site_view::SiteView;
use crate::view::week_plan::{
    BeyondController, NightRemedy, Totals, VERSION, VolumeUse, WeekPlan, ZonePlan,
};
use crate::view::worth::{self, Weighed, WorthMeasuring};
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
            let history = ZoneHistory::new(zone, &document.controller, document.site.latitude);
            carry_on(zone, &history, None, observed, known.runs)
        });
        Self {
            zones: zones.collect(),
            climatology: Climatology::of(observed),
        }
    }
}

/// A plan: what is to run, and what people read about it.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// What is to run.
    pub programme: Programme,
    /// What people read.
    pub week: WeekPlan,
    /// What comes of the published week if it stays in force; `None`: none is published.
    pub as_published: Option<AsPublished>,
}

/// Plans the week, as people read it.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn plan_week(known: &Known) -> Result<WeekPlan, Error> {
    plan(known).map(|plan| plan.week)
}

/// Plans the week from all of a record.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn plan(known: &Known) -> Result<Plan, Error> {
    known.document.validate()?;
    plan_from(known, &Past::of_record(known))
}

/// Plans the week from the past that is kept: of the weather only the last ten days are read, of the runs those since two days ago.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn plan_from(known: &Known, past: &Past) -> Result<Plan, Error> {
    plan_with(known, past, None)
}

/// [`plan_from`], with what is worth measuring where that is known: it follows from the site, its tests, the weather, the past and the day alone, whatever ran today, and
/// whatever people ask, change or publish.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn plan_with(
    known: &Known,
    past: &Past,
    worth: Option<&[WorthMeasuring]>,
) -> Result<Plan, Error> {
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
    let whole = calendar::days(document, &time_zone, first, PAST_DAYS + LOOKED_AHEAD);
    let whole = calendar::cut(whole, &constraint::cuts(known.constraints));
    let calendar = calendar::from_now(whole[PAST_DAYS..].to_vec(), known.now);
    let openings = openings(&calendar, known.committed.map(Timestamp::as_second));

    let shown: Vec<usize> = (0..document.zones.len())
        .filter(|&i| document.zones[i].active_to.is_none_or(|to| first <= to))
        .collect();
    let histories: Vec<ZoneHistory> = shown
        .iter()
        .map(|&i| {
            ZoneHistory::new(
                &document.zones[i],
                &document.controller,
                document.site.latitude,
            )
        })
        .collect();
    let zones: Vec<Planned> = shown
        .iter()
        .zip(&histories)
        .map(|(&i, history)| {
            let kept = past.zones.get(i).map_or(&[][..], Vec::as_slice);
            planned(known, i, history, kept, &observed, &weather_ahead[0])
        })
        .collect();
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
        capacity: |zone: usize, window_s| dose::capacity(zones[zone].model, window_s),
    };
    let state: Vec<ZoneState> = zones
        .iter()
        .zip(&lately)
        .map(|(z, lately)| ZoneState {
            depletion: z.depletion,
            already: z.today,
            held: held(known, z, &time_zone),
            lately: *lately,
        })
        .collect();
    let weather = Ahead {
        days: &weather_ahead,
        outlook: Some(&outlook),
        yesterday,
    };
    let week = morning::decide(&facts, &state, &weather);
    let by_balance = all_by_balance(&facts).map(|facts| morning::decide(&facts, &state, &weather));

    let worth_measuring = match worth {
        Some(worth) => worth.to_vec(),
        None => worth_of(known, &zones, &beyond, &time_zone),
    };
    let ids: Vec<&str> = zones.iter().map(|z| z.zone.id.as_str()).collect();
    let now_s = known.now.map_or(i64::MIN, Timestamp::as_second);
    let windows = whole[PAST_DAYS..PAST_DAYS + HORIZON].iter();
    let windows = windows.flat_map(|day| day.windows.iter().filter(|w| w.end_s > now_s));
    let windows = windows.copied().map(Hours::of).collect();
    let programme = Programme::new(&ids, &ahead, windows, &facts.openings, &week);
    let site = SiteView {
        known,
        first,
        planned: facts.zones.iter().map(|z| z.planned).collect(),
        days: zones
            .iter()
            .map(|z| zone_days(z.model, &weather_ahead))
            .collect(),
        calendar: &calendar,
        time_zone: &time_zone,
        asked: &asked,
        openings: &facts.openings,
        week: &week,
        by_balance: by_balance.as_ref(),
    };
    let as_published = known.published.map(|published| {
        let from = known.committed.or(known.now);
        let edits = published.as_edits(
            ids.iter().copied(),
            known.today,
            from.unwrap_or(Timestamp::MIN),
        );
        let zones = Zones {
            planned: &zones,
            calendar: &calendar,
            openings: &openings,
        };
        as_published(
            &edits,
            published.last,
            &week,
            &facts,
            &state,
            &weather,
            zones,
        )
    });
    let zones: Vec<ZonePlan> = zones
        .iter()
        .enumerate()
        .map(|(index, zone)| site.zone_plan(index, zone))
        .collect();
    let mut totals = Totals::default();
    for zone in &zones {
        totals.run_s += zone.totals.run_s;
        totals.volume_l = totals.volume_l + zone.totals.volume_l;
        totals.expected_l = totals.expected_l + zone.totals.expected_l;
    }
    let area: f64 = document.zones.iter().map(|z| z.area_m2.m2()).sum();
    if area > 0.0 {
        // Over all the lawn, as a depth.
        totals.gross_mm = Depth::from_mm(totals.volume_l.l() / area);
        totals.net_mm = zones
            .iter()
            .map(|z| z.totals.net_mm * (z.area_m2.m2() / area))
            .sum();
    }
    totals.price(document.site.price_per_m3);
    let dawn = dawn(&facts.openings, known.today);
    let date_of = |opening: usize| calendar[facts.openings[opening].day].date;
    let remedies = week.remedies.iter().map(|remedy| NightRemedy {
        date: date_of(remedy.opening),
        zone: ids[remedy.zone].to_owned(),
        remedy: remedy.by.into(),
        saves_s: remedy.saves_s,
    });
    let remedies = remedies.collect();
    let volumes = volumes(known, &facts, &week);
    let week = WeekPlan {
        version: VERSION,
        today: known.today,
        time_zone: document.site.time_zone.clone(),
        days: plan_days(
            known.today,
            &whole[..PAST_DAYS + HORIZON],
            &observed,
            &ahead,
        ),
        next: next_watering(&zones, &week, known.today),
        dawn,
        at_dawn: at_dawn(&zones, dawn),
        zones,
        totals,
        notes: notes(known, &observed, &ahead),
        worth_measuring,
        remedies,
        volumes,
        beyond_controller: beyond_controller(document, &programme),
    };
    Ok(Plan {
        programme,
        week,
        as_published,
    })
}

/// How much is used of the volumes of the time that holds today.
fn volumes<C>(known: &Known, facts: &Facts<C>, week: &SiteWeek) -> Vec<VolumeUse> {
    let gross_l = |zone: usize, to: usize| -> f64 {
        let proposals = week.zones[zone].proposals.iter();
        let until = proposals.filter(|p| p.slot.day <= to);
        let doses = until.filter_map(|p| p.dose());
        doses
            .map(|d| (d.irrigation.gross * facts.zones[zone].area).l())
            .sum()
    };
    let today_and = |days: usize| {
        let days = i64::try_from(days).unwrap_or(0).days();
        known.today.saturating_add(days)
    };
    let now = facts.caps.iter().filter(|cap| cap.from == 0);
    now.filter_map(|cap| {
        let CappedBy::Rule(rule) = cap.by else {
            return None;
        };
        let rule = known.document.rules.list.get(rule)?;
        let Says::AtMost(most) = &rule.says else {
            return None;
        };
        let about = cap.about.iter().enumerate().filter(|(_, about)| **about);
        Some(VolumeUse {
            rule: rule.name.clone(),
            until: today_and(cap.to),
            most_l: Volume::from_l(most.volume_l),
            used_l: Volume::from_l(most.volume_l - cap.left.l()),
            planned_l: Volume::from_l(about.map(|(zone, _)| gross_l(zone, cap.to)).sum()),
        })
    })
    .collect()
}

/// What of a week cannot be set on the site's controller.
fn beyond_controller(document: &SiteDocument, programme: &Programme) -> Option<BeyondController> {
    let controller = &document.controller;
    let needs = on_controller::needs(programme, controller);
    let name = |id: &String| {
        let zone = document.zones.iter().find(|z| z.id == *id)?;
        Some(zone.name.clone())
    };
    (!needs.fits(controller)).then(|| BeyondController {
        programmes_needed: u32::try_from(needs.programmes).unwrap_or(u32::MAX),
        programmes: controller.programmes,
        no_pattern: needs.no_pattern.iter().filter_map(name).collect(),
    })
}

/// What is worth measuring on the zones that take part.
fn worth_of(
    known: &Known,
    zones: &[Planned],
    beyond: &[AheadDay],
    time_zone: &TimeZone,
) -> Vec<WorthMeasuring> {
    let ahead: Vec<DailyWeather> = beyond.iter().map(|day| day.weather).collect();
    let days = worth::course_days(&ahead);
    let calendar = calendar::days(known.document, time_zone, known.today, worth::COURSE_DAYS);
    let openings = openings(&calendar, None);
    let planned = zones
        .iter()
        .filter(|z| is_planned(known.document, z.zone, z.model, known.today))
        .filter(|z| !z.model.is_asleep());
    let weighed: Vec<Weighed> = planned
        .map(|z| Weighed {
            zone: z.zone,
            barred: closed_to(&calendar, &openings, z.place, z.zone),
            begins: z.depletion / z.model.taw,
        })
        .collect();
    worth::worth(known.document, &weighed, &days, &openings)
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

/// The same facts with every zone that is not let go watered by the water balance; `None`: they are.
fn all_by_balance<'a, C: Copy>(facts: &Facts<'a, C>) -> Option<Facts<'a, C>> {
    if facts
        .zones
        .iter()
        .all(|z| z.keeping.is_water_balance() || z.keeping.is_crowns())
    {
        return None;
    }
    let mut facts = facts.clone();
    for zone in facts
        .zones
        .iter_mut()
        .filter(|zone| !zone.keeping.is_crowns())
    {
        zone.keeping = Keeping::School(School::WaterBalance);
    }
    Some(facts)
}
