//! The week's plan: a pure function of what is known, with its reasons. What people and files see.

use jiff::{Timestamp, ToSpan};

use crate::engine::morning::{self, Facts};
use crate::engine::rationing::CappedBy;
use crate::engine::schools::{Keeping, School};
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::{HORIZON, closed_to, openings, zone_days};
use crate::engine::zone_model::is_planned;
use crate::quantity::{Depth, Volume};
pub use crate::record::known::{DryDay, Known, RainHold, Run};
use crate::record::on_controller;
use crate::record::programme::{Hours, Programme};
use crate::site::SiteDocument;
use crate::site::calendar;
use crate::site::rules::Says;
use crate::view::coming::{at_dawn, dawn, next_watering};
pub use crate::view::days::PAST_DAYS;
use crate::view::days::{notes, plan_days};
use crate::view::published::{AsPublished, Zones, as_published};
use crate::view::setting::{self, Setting};
pub use crate::view::setting::{Error, Past};
use crate::view::site_view::SiteView;
use crate::view::week_plan::{
    BeyondController, NightRemedy, Totals, VERSION, VolumeUse, WeekPlan, ZonePlan,
};
use crate::view::worth::{self, Weighed, WorthMeasuring};
use crate::weather::{AheadDay, DailyWeather};

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
    setting::within(known, past, |setting| week_of(known, setting, worth))
}

/// The week that is decided from its setting.
fn week_of(known: &Known, setting: &Setting, worth: Option<&[WorthMeasuring]>) -> Plan {
    let document = known.document;
    let Setting {
        facts,
        state,
        weather,
        zones,
        ..
    } = *setting;
    let week = morning::decide(facts, state, weather);
    let by_balance = all_by_balance(facts).map(|facts| morning::decide(&facts, state, weather));

    let worth_measuring = match worth {
        Some(worth) => worth.to_vec(),
        None => worth_of(known, setting),
    };
    let ahead: [AheadDay; HORIZON] = std::array::from_fn(|day| setting.beyond[day]);
    let ids: Vec<&str> = zones.iter().map(|z| z.zone.id.as_str()).collect();
    let now_s = known.now.map_or(i64::MIN, Timestamp::as_second);
    let windows = setting.slotted[PAST_DAYS..PAST_DAYS + HORIZON].iter();
    let windows = windows.flat_map(|day| day.windows.iter().filter(|w| w.end_s > now_s));
    let windows = windows.copied().map(Hours::of).collect();
    let programme = Programme::new(&ids, &ahead, windows, &facts.openings, &week);
    let site = SiteView {
        known,
        first: setting.first,
        planned: facts.zones.iter().map(|z| z.planned).collect(),
        days: zones
            .iter()
            .map(|z| zone_days(z.model, weather.days))
            .collect(),
        hours: &facts.hours,
        slotted: setting.slotted,
        weather,
        calendar: setting.calendar,
        time_zone: setting.time_zone,
        asked: setting.asked,
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
            planned: zones,
            calendar: setting.calendar,
            openings: &facts.openings,
        };
        as_published(&edits, published.last, &week, facts, state, weather, zones)
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
    let rooted = |opening: usize| {
        let mut zones = setting.zones.iter().zip(&facts.zones);
        zones.any(|(z, of)| z.bed.is_none() && !of.barred.contains(&opening))
    };
    let dawn = dawn(&facts.openings, known.today, rooted);
    let date_of = |opening: usize| setting.calendar[facts.openings[opening].day].date;
    let remedies = week.remedies.iter().map(|remedy| NightRemedy {
        date: date_of(remedy.opening),
        zone: ids[remedy.zone].to_owned(),
        remedy: remedy.by.into(),
        saves_s: remedy.saves_s,
    });
    let remedies = remedies.collect();
    let volumes = volumes(known, facts, &week);
    let week = WeekPlan {
        version: VERSION,
        today: known.today,
        time_zone: document.site.time_zone.clone(),
        days: plan_days(
            known.today,
            &setting.whole[..PAST_DAYS + HORIZON],
            setting.observed,
            &ahead,
        ),
        next: next_watering(&zones, &week, known.today),
        dawn,
        at_dawn: at_dawn(&zones, dawn),
        zones,
        totals,
        notes: notes(known, setting.observed, &ahead),
        worth_measuring,
        remedies,
        volumes,
        beyond_controller: beyond_controller(document, &programme),
    };
    Plan {
        programme,
        week,
        as_published,
    }
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
fn worth_of(known: &Known, setting: &Setting) -> Vec<WorthMeasuring> {
    let Setting {
        zones, time_zone, ..
    } = *setting;
    let ahead: Vec<DailyWeather> = setting.beyond.iter().map(|day| day.weather).collect();
    let days = worth::course_days(&ahead);
    let calendar = calendar::days(known.document, time_zone, known.today, worth::COURSE_DAYS);
    let openings = openings(&calendar, None);
    let planned = zones
        .iter()
        .filter(|z| is_planned(known.document, z.zone, z.model, known.today))
        .filter(|z| !z.model.is_asleep() && z.bed.is_none());
    let weighed: Vec<Weighed> = planned
        .map(|z| Weighed {
            zone: z.zone,
            barred: closed_to(&calendar, &openings, z.place, z.zone),
            begins: z.depletion / z.model.taw,
        })
        .collect();
    worth::worth(known.document, &weighed, &days, &openings)
}

/// The same facts with every zone that is not let go watered by the water balance; `None`: they are.
fn all_by_balance<'a, C: Copy>(facts: &Facts<'a, C>) -> Option<Facts<'a, C>> {
    if facts
        .zones
        .iter()
        .all(|z| z.keeping.is_water_balance() || !z.keeping.is_by_school())
    {
        return None;
    }
    let mut facts = facts.clone();
    for zone in facts
        .zones
        .iter_mut()
        .filter(|zone| zone.keeping.is_by_school())
    {
        zone.keeping = Keeping::School(School::WaterBalance);
    }
    Some(facts)
}
