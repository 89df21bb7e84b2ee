//! The week's plan: a pure function of what is known, with its reasons. What people and files see.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use thiserror::Error;

use crate::engine::chance_to_run::Likely;
use crate::engine::decision::{HORIZON, RainAhead, Verdict, ZoneWeek, zone_days};
use crate::engine::dose::{self, Dose};
use crate::engine::root_zone::{self, DayBalance, Irrigation};
use crate::engine::site_week::{self, Member, SiteWeek};
use crate::engine::skip::{self, Skip};
use crate::engine::timetable::Timetable;
use crate::engine::zone_model::ZoneModel;
use crate::quantity::Depth;
pub use crate::record::known::{DryDay, Known, RainHold, Run};
use crate::site::calendar::{self, CalendarDay, Interval};
use crate::site::{Invalid, Regime, Zone};
use crate::view::coming::{dawn, next_watering};
use crate::view::explain::{self, Ledger};
use crate::view::reason::Reason;
use crate::view::week_plan::{
    Cell, EtSource, PlanDay, PlanWindow, PlannedRun, State, Totals, WeekPlan, ZonePlan,
};
use crate::weather::outlook::{Climatology, OUTLOOK_DAYS, Outlook};
use crate::weather::{self, AheadDay, DailyWeather};

/// Days before today that a plan shows.
pub const PAST_DAYS: usize = 2;
/// Days that holds running are looked for: two opportunities of a site that waters once a week, and a little more.
const HELD_DAYS: usize = 21;

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

/// A zone's balance before today, and what ran today.
struct Past {
    balances: Vec<(Date, DayBalance)>,
    depletion: Depth,
    today: Irrigation,
}

/// Plans the week.
///
/// # Errors
/// [`Error::NoWeather`], [`Error::Site`].
pub fn plan_week(known: &Known) -> Result<WeekPlan, Error> {
    let document = known.document;
    document.validate()?;
    let time_zone = document.site.zone()?;
    let (observed, filled) = up_to_yesterday(known)?;
    let beyond: [AheadDay; OUTLOOK_DAYS] = weather::ahead(&observed, known.forecast, known.today);
    let ahead: [AheadDay; HORIZON] = std::array::from_fn(|day| beyond[day]);
    let weather_ahead = ahead.map(|d| d.weather);
    let outlook = Outlook::new(&beyond, &Climatology::of(&observed));
    let first = known
        .today
        .saturating_sub(i64::try_from(PAST_DAYS).unwrap_or(2).days());
    let whole = calendar::days(document, &time_zone, first, PAST_DAYS + HORIZON);
    let by_hand = calendar::from_now(whole[PAST_DAYS..].to_vec(), known.now);
    let calendar = calendar::from_now(by_hand.clone(), known.committed);

    let zones: Vec<&Zone> = document
        .zones
        .iter()
        .filter(|z| z.active_to.is_none_or(|to| first <= to))
        .collect();
    let models: Vec<ZoneModel> = zones
        .iter()
        .map(|z| ZoneModel::new(z, &document.supply, document.site.latitude))
        .collect();
    let pasts: Vec<Past> = zones
        .iter()
        .zip(&models)
        .map(|(zone, model)| past(known, zone, model, &observed))
        .collect();
    // A day that was filled has no rain; one that only the gauge knows has.
    let yesterday = observed.last();
    let members: Vec<Member> = zones
        .iter()
        .zip(&models)
        .zip(&pasts)
        .map(|((zone, model), past)| Member {
            model,
            start: past.depletion,
            already: past.today,
            days: zone_days(model, &weather_ahead),
            skips: skips(known, zone, model, &weather_ahead, yesterday),
            priority: zone.priority,
            by_hand: zone.by_hand(),
            today_window_s: zone.by_hand().then(|| by_hand[0].longest_window_s()),
            planned: site_week::is_planned(document, zone, model, known.today),
            rain: RainAhead {
                outlook: Some(&outlook),
                held: held(known, zone, &time_zone),
            },
        })
        .collect();
    let capacity = |zone: usize, window_s| dose::capacity(&models[zone], window_s);
    let week = site_week::plan_site(&members, &calendar, &capacity);
    let likely: Vec<Option<Likely>> = (0..members.len())
        .map(|zone| site_week::likely(&members, &week, &calendar, zone, &capacity))
        .collect();
    let timetables: Vec<Timetable> = (0..HORIZON)
        .map(|day| site_week::timetable(&members, &week, &calendar, day))
        .collect();

    let site = SiteView {
        known,
        first,
        members: &members,
        calendar: &calendar,
        week: &week,
        timetables: &timetables,
        likely: &likely,
    };
    let zones: Vec<ZonePlan> = zones
        .iter()
        .zip(&pasts)
        .enumerate()
        .map(|(index, (zone, past))| site.zone_plan(index, zone, past))
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
    Ok(WeekPlan {
        today: known.today,
        time_zone: document.site.time_zone.clone(),
        days: plan_days(known.today, &whole, &observed, &ahead),
        next: next_watering(&zones, &likely, known.today),
        dawn: dawn(&calendar, known.today),
        zones,
        totals,
        notes: notes(&observed, filled, &ahead),
    })
}

/// What forbids watering a zone, by day: a person's word before the weather.
fn skips(
    known: &Known,
    zone: &Zone,
    model: &ZoneModel,
    ahead: &[DailyWeather; HORIZON],
    yesterday: Option<&DailyWeather>,
) -> [Option<Skip>; HORIZON] {
    let mut skips = skip::skips(model, ahead, yesterday);
    for (day, skip) in ahead.iter().zip(&mut skips) {
        if known.is_dry_day(zone, day.date) {
            *skip = Some(Skip::KeptDry);
        }
    }
    skips
}

/// The observed days, filled up to yesterday where the record ends before; and how many were filled.
fn up_to_yesterday(known: &Known) -> Result<(Vec<DailyWeather>, u32), Error> {
    let yesterday = explain::before(known.today);
    let mut observed: Vec<DailyWeather> = known
        .observed
        .iter()
        .filter(|d| d.date <= yesterday)
        .copied()
        .collect();
    let Some(&last) = observed.last() else {
        if known.forecast.iter().any(|d| d.method.is_some()) {
            return Ok((observed, 0));
        }
        return Err(Error::NoWeather { today: known.today });
    };
    let mean = weather::mean_et0(&observed);
    let mut date = last.date;
    while date < yesterday {
        date = date.saturating_add(1.day());
        observed.push(DailyWeather {
            date,
            et0: mean,
            method: None,
            rain: Depth::ZERO,
            tmin_c: None,
            wind_m_s: None,
            smoothed_c: last.smoothed_c,
            rain_probability_pct: None,
        });
    }
    let recent = observed.len().saturating_sub(weather::MEAN_DAYS);
    let filled = observed[recent..]
        .iter()
        .filter(|d| d.method.is_none())
        .count();
    Ok((observed, u32::try_from(filled).unwrap_or(u32::MAX)))
}

/// Opportunities running, up to yesterday, at which a zone was held for rain.
fn held(known: &Known, zone: &Zone, time_zone: &TimeZone) -> u32 {
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
    let mut running = 0;
    for day in calendar::days(known.document, time_zone, first, back)
        .iter()
        .rev()
        .filter(|day| !day.windows.is_empty())
    {
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

/// Runs the balance of a zone from its first day, or the record's, to yesterday.
fn past(known: &Known, zone: &Zone, model: &ZoneModel, observed: &[DailyWeather]) -> Past {
    let mut by_date: BTreeMap<Date, Vec<&Run>> = BTreeMap::new();
    for run in known.runs.iter().filter(|r| r.zone == zone.id) {
        by_date.entry(run.date).or_default().push(run);
    }
    let given = |date: Date, depletion: Depth| {
        let mut day = Irrigation::default();
        for run in by_date.get(&date).into_iter().flatten() {
            day += run.irrigation(zone, model, depletion);
        }
        day
    };
    let mut depletion = zone
        .initial_depletion_mm
        .unwrap_or(Depth::ZERO)
        .min(model.taw);
    let mut balances = Vec::with_capacity(observed.len() + HORIZON);
    for weather in observed {
        if zone.active_from.is_some_and(|from| weather.date < from) {
            continue;
        }
        let irrigation = given(weather.date, depletion);
        let balance = root_zone::day(model, depletion, weather, irrigation);
        depletion = balance.end;
        balances.push((weather.date, balance));
    }
    Past {
        balances,
        depletion,
        today: given(known.today, depletion),
    }
}

/// What all zones of a plan share while they are written out.
struct SiteView<'a> {
    known: &'a Known<'a>,
    first: Date,
    members: &'a [Member<'a>],
    calendar: &'a [CalendarDay],
    week: &'a SiteWeek,
    timetables: &'a [Timetable],
    likely: &'a [Option<Likely>],
}

impl SiteView<'_> {
    fn zone_plan(&self, index: usize, zone: &Zone, past: &Past) -> ZonePlan {
        let member = &self.members[index];
        let week = &self.week.zones[index];
        let mut balances = past.balances.clone();
        let today = balances.len();
        balances.extend(
            self.calendar
                .iter()
                .zip(&week.balances)
                .map(|(c, b)| (c.date, *b)),
        );
        let more_s: Vec<i64> = (0..HORIZON)
            .map(|day| site_week::missing_s(self.members, self.week, self.calendar, index, day))
            .collect();
        let ledger = Ledger {
            zone,
            model: member.model,
            balances: &balances,
            today,
            days: &member.days,
            week,
            calendar: self.calendar,
            pulled: &self.week.pulled,
            index,
            more_s: &more_s,
            outlook: member.rain.outlook,
        };
        let mut cells = self.past_cells(zone, member.model, past);
        cells.extend((0..HORIZON).map(|day| self.cell(zone, past, week, &ledger, day)));

        let mut totals = Totals::default();
        for run in cells.iter().filter_map(|c| c.run.as_ref()) {
            totals.run_s += run.run_s * i64::from(run.settings);
            totals.net_mm += run.net_mm;
            totals.gross_mm += run.gross_mm;
            totals.volume_l = totals.volume_l + run.volume_l;
        }
        totals.expected_l = match &self.likely[index] {
            Some(likely) => member.model.gross_of_net(likely.net) * zone.area_m2,
            None => totals.volume_l,
        };
        let grass = zone.grass.profile();
        ZonePlan {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            grass: zone.grass,
            soil: zone.soil,
            sprinkler: zone.sprinkler,
            regime: zone.regime,
            by_hand: zone.by_hand(),
            area_m2: zone.area_m2,
            root_depth_mm: member.model.root_depth.value,
            mowing_mm: Depth::from_mm(f64::midpoint(grass.mowing_mm[0], grass.mowing_mm[1])),
            rate_mm_h: member.model.rate.value,
            taw_mm: member.model.taw,
            cells,
            totals,
        }
    }

    /// The days before today.
    fn past_cells(&self, zone: &Zone, model: &ZoneModel, past: &Past) -> Vec<Cell> {
        (0..PAST_DAYS)
            .map(|back| {
                let date = self
                    .first
                    .saturating_add(i64::try_from(back).unwrap_or(0).days());
                let balance = past
                    .balances
                    .iter()
                    .rev()
                    .find(|(d, _)| *d == date)
                    .map(|(_, b)| *b);
                let at_dawn = balance.map_or(Depth::ZERO, |b| b.start);
                let ran = self.ran(zone, model, date, at_dawn);
                let state = match (&balance, ran.is_empty()) {
                    (None, _) => State::Absent,
                    (Some(_), false) => State::Ran,
                    (Some(_), true) => State::Past,
                };
                cell(date, state, &balance.unwrap_or_default(), ran)
            })
            .collect()
    }

    /// Reasons for the runs of a day that are in the record.
    fn ran(&self, zone: &Zone, model: &ZoneModel, date: Date, at_dawn: Depth) -> Vec<Reason> {
        self.known
            .runs
            .iter()
            .filter(|r| r.zone == zone.id && r.date == date)
            .map(|r| Reason::Ran {
                seconds: r.run_s,
                net_mm: r.irrigation(zone, model, at_dawn).net,
                assumed: r.assumed,
                watered: r.watered,
            })
            .collect()
    }

    /// A day of the horizon.
    fn cell(&self, zone: &Zone, past: &Past, week: &ZoneWeek, ledger: &Ledger, day: usize) -> Cell {
        let date = self.calendar[day].date;
        let balance = &week.balances[day];
        let member = &self.members[ledger.index];
        let ran = if day == 0 {
            self.ran(zone, member.model, date, past.depletion)
        } else {
            Vec::new()
        };
        if !zone.is_active(date) {
            return cell(date, State::Absent, balance, ran);
        }
        match zone.regime {
            Regime::Established => {}
            Regime::Seedbed => return cell(date, State::NewSeed, balance, vec![Reason::NewSeed]),
            Regime::Off => return cell(date, State::Off, balance, vec![Reason::SwitchedOff]),
        }
        let mut reasons = ran;
        if let Some(supply_l_min) = self.known.document.supply.flow_l_min
            && !member.planned
        {
            reasons.push(Reason::FlowAboveSupply {
                flow_l_min: member.model.flow_l_min,
                supply_l_min,
            });
        }
        if self.known.is_dry_day(zone, date) {
            reasons.push(Reason::KeptDry);
        }
        let has_run = !reasons.is_empty() && past.today.gross > Depth::ZERO && day == 0;
        reasons.extend(ledger.reasons(day));
        let state = match week.on(day).map(|d| &d.verdict) {
            Some(Verdict::Water(_)) => State::Water,
            _ if has_run => State::Ran,
            Some(Verdict::Hold(_)) => State::Hold,
            Some(Verdict::Skip(_)) => State::Skip,
            None => State::NoWindow,
        };
        Cell {
            run: week
                .dose_on(day)
                .map(|dose| self.planned_run(ledger.index, zone, day, dose)),
            ..cell(date, state, balance, reasons)
        }
    }

    fn planned_run(&self, index: usize, zone: &Zone, day: usize, dose: &Dose) -> PlannedRun {
        let starts = self.timetables[day]
            .placed
            .iter()
            .find(|p| p.task.zone == index)
            .map(|p| p.starts_s.iter().copied().map(instant).collect())
            .unwrap_or_default();
        PlannedRun {
            passes: dose.passes,
            pass_s: dose.pass_s,
            soak_s: dose.soak_s,
            run_s: dose.run_s(),
            settings: self.members[index].model.settings,
            chance_pct: self.likely[index].map_or(100.0, |l| l.runs[day].pct()),
            starts,
            net_mm: dose.irrigation.net,
            gross_mm: dose.irrigation.gross,
            runoff_mm: dose.irrigation.runoff,
            volume_l: dose.irrigation.gross * zone.area_m2,
        }
    }
}

fn cell(date: Date, state: State, balance: &DayBalance, reasons: Vec<Reason>) -> Cell {
    Cell {
        date,
        state,
        depletion_start_mm: balance.start,
        depletion_mm: balance.end,
        raw_mm: balance.raw,
        eta_mm: balance.eta,
        ks: balance.ks,
        irrigation_net_mm: balance.irrigation.net,
        run: None,
        reasons,
    }
}

fn instant(s: i64) -> Timestamp {
    // Civil days of the plan lie far within what a timestamp can say.
    Timestamp::from_second(s).unwrap_or(Timestamp::UNIX_EPOCH)
}

fn plan_days(
    today: Date,
    calendar: &[CalendarDay],
    observed: &[DailyWeather],
    ahead: &[AheadDay],
) -> Vec<PlanDay> {
    calendar
        .iter()
        .enumerate()
        .map(|(index, c)| {
            let windows = c.windows.iter().map(|w: &Interval| PlanWindow {
                opens: instant(w.start_s),
                closes: instant(w.end_s),
            });
            let mut day = PlanDay {
                date: c.date,
                et0_mm: Depth::ZERO,
                et0_from: EtSource::Filled,
                rain_mm: None,
                forecast_rain_mm: None,
                rain_probability_pct: None,
                windows: windows.collect(),
                sunrise: c.sunrise_s.map(instant),
            };
            if c.date < today {
                if let Ok(i) = observed.binary_search_by_key(&c.date, |d| d.date) {
                    day.et0_mm = observed[i].et0;
                    day.et0_from = observed[i].method.into();
                    day.rain_mm = Some(observed[i].rain);
                }
            } else if let Some(a) = ahead.get(index - PAST_DAYS) {
                day.et0_mm = a.weather.et0;
                day.et0_from = if a.from_forecast {
                    EtSource::Forecast
                } else {
                    EtSource::RecentMean
                };
                day.forecast_rain_mm = a.forecast_rain;
                day.rain_probability_pct =
                    a.forecast_rain.map(|_| 100.0 * a.forecast_probability());
            }
            day
        })
        .collect()
}

fn notes(observed: &[DailyWeather], filled: u32, ahead: &[AheadDay]) -> Vec<Reason> {
    let mut notes = Vec::new();
    let known = observed.iter().rev().find(|d| d.method.is_some());
    if filled > 0
        && let Some(last) = known
    {
        notes.push(Reason::WeatherFilled {
            days: filled,
            last_known: last.date,
        });
    }
    let forecast_days = ahead.iter().filter(|d| d.from_forecast).count();
    notes.push(Reason::EtAhead {
        forecast_days: u32::try_from(forecast_days).unwrap_or(0),
        mean_et0_mm: weather::mean_et0(observed),
    });
    notes
}
