//! The week's plan: a pure function of what is known, with its reasons. What people and files see.

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};
use serde::Serialize;
use thiserror::Error;

use crate::engine::dose::{self, Dose};
use crate::engine::history::ZoneHistory;
use crate::engine::lately::Lately;
use crate::engine::morning::{self, Ahead, Facts, ZoneFacts, ZoneState};
use crate::engine::rationing::caps;
use crate::engine::root_zone::DayBalance;
use crate::engine::schools::{Act, Proposal, School};
use crate::engine::site_week::SiteWeek;
use crate::engine::slot::{
    HORIZON, LOOKED_AHEAD, Opening, ZoneDay, closed_to, openings, zone_days,
};
use crate::engine::zone_model::{is_planned, takes};
use crate::engine::zone_week::ZoneWeek;
use crate::quantity::Depth;
pub use crate::record::known::{DryDay, Known, RainHold, Run};
use crate::record::past::{PastDay, carry_on};
use crate::record::programme::Programme;
use crate::site::calendar::{self, CalendarDay};
use crate::site::{Invalid, Regime, Zone};
use crate::view::coming::{at_dawn, dawn, next_watering};
pub use crate::view::days::PAST_DAYS;
use crate::view::days::{instant, notes, plan_days, up_to_yesterday, window};
use crate::view::explain::Account;
use crate::view::ledger::Line;
use crate::view::planned::{Planned, held, planned};
use crate::view::verdict::Verdict;
use crate::view::week_plan::{
    BesideBalance, Cell, Expected, LaterRun, PlannedRun, State, Totals, VERSION, WeekPlan, ZonePlan,
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
    let facts = Facts {
        zones: zones
            .iter()
            .map(|z| ZoneFacts {
                barred: closed_to(&calendar, &openings, z.place, z.zone),
                model: z.model,
                school: z.zone.school,
                priority: z.zone.priority,
                area: z.zone.area_m2,
                takes: takes(&document.supply, z.model),
                by_hand: z.zone.by_hand(),
                planned: is_planned(document, z.zone, z.model, known.today),
                kept_dry: weather_ahead.map(|day| known.is_dry_day(z.zone, day.date)),
                fixed: Vec::new(),
            })
            .collect(),
        openings: openings.clone(),
        targets_s: std::array::from_fn(|day| calendar[day].sunrise_s),
        caps: caps(document, &zones_now, &lately, known.today),
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

    let worth_measuring = worth_of(known, &zones, &beyond, &time_zone);
    let ids: Vec<&str> = zones.iter().map(|z| z.zone.id.as_str()).collect();
    let programme = Programme::new(&ids, &ahead, &facts.openings, &week);
    let site = SiteView {
        known,
        first,
        planned: facts.zones.iter().map(|z| z.planned).collect(),
        days: zones
            .iter()
            .map(|z| zone_days(z.model, &weather_ahead))
            .collect(),
        calendar: &calendar,
        openings: &facts.openings,
        week: &week,
        by_balance: by_balance.as_ref(),
    };
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
    };
    Ok(Plan { programme, week })
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
        .filter(|z| is_planned(known.document, z.zone, z.model, known.today));
    let weighed: Vec<Weighed> = planned
        .map(|z| Weighed {
            zone: z.zone,
            barred: closed_to(&calendar, &openings, z.place, z.zone),
            begins: z.depletion / z.model.taw,
        })
        .collect();
    worth::worth(known.document, &weighed, &days, &openings)
}

/// The same facts with every zone watered by the water balance; `None`: they are.
fn all_by_balance<'a, C: Copy>(facts: &Facts<'a, C>) -> Option<Facts<'a, C>> {
    if facts.zones.iter().all(|z| z.school.is_water_balance()) {
        return None;
    }
    let mut facts = facts.clone();
    for zone in &mut facts.zones {
        zone.school = School::WaterBalance;
    }
    Some(facts)
}

/// What all zones of a plan share while they are written out.
struct SiteView<'a> {
    known: &'a Known<'a>,
    first: Date,
    planned: Vec<bool>,
    days: Vec<[ZoneDay; HORIZON]>,
    calendar: &'a [CalendarDay],
    openings: &'a [Opening],
    week: &'a SiteWeek,
    /// The same week if all zones were watered by the water balance; `None`: they are.
    by_balance: Option<&'a SiteWeek>,
}

impl SiteView<'_> {
    fn zone_plan(&self, index: usize, of: &Planned) -> ZonePlan {
        let (zone, model) = (of.zone, of.model);
        let price_per_m3 = self.known.document.site.price_per_m3;
        let week = &self.week.zones[index];
        let mut balances = of.past.clone();
        let today = balances.len();
        balances.extend(
            self.calendar
                .iter()
                .zip(&week.balances)
                .map(|(c, b)| (c.date, *b)),
        );
        let account = Account {
            zone,
            model,
            history: of.history,
            drift: of.drift,
            seen: &of.seen,
            balances: &balances,
            today,
            days: &self.days[index],
            week,
            site: self.week,
            calendar: self.calendar,
            openings: self.openings,
            index,
            place: of.place,
            rules: &self.known.document.rules.list,
            price_per_m3,
        };
        let mut cells = self.past_cells(of);
        cells.extend((0..HORIZON).map(|day| self.cell(of, week, &account, day)));

        let mut totals = Totals::default();
        for run in cells.iter().flat_map(Cell::runs) {
            totals.run_s += run.run_s * i64::from(run.settings);
            totals.net_mm += run.net_mm;
            totals.gross_mm += run.gross_mm;
            totals.volume_l = totals.volume_l + run.volume_l;
        }
        totals.expected_l = match &self.week.likely[index] {
            Some(likely) => model.gross_of_net(likely.net) * zone.area_m2,
            None => totals.volume_l,
        };
        totals.price(price_per_m3);
        let likely = |week: &SiteWeek| {
            let likely = week.likely.get(index)?.as_ref()?;
            Some(Expected {
                net_mm: likely.net,
                volume_l: model.gross_of_net(likely.net) * zone.area_m2,
                drained_mm: likely.drained,
                stress_days: likely.stress_days,
            })
        };
        let by_balance = self.by_balance.filter(|_| !zone.school.is_water_balance());
        let beside = by_balance
            .and_then(likely)
            .zip(likely(self.week))
            .map(|(balance, own)| BesideBalance { own, balance });
        let grass = zone.grass.profile();
        ZonePlan {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            grass: zone.grass,
            soil: zone.soil,
            sprinkler: zone.sprinkler,
            regime: zone.regime,
            school: zone.school,
            beside,
            by_hand: zone.by_hand(),
            area_m2: zone.area_m2,
            root_depth_mm: model.root_depth.value,
            mowing_mm: Depth::from_mm(f64::midpoint(grass.mowing_mm[0], grass.mowing_mm[1])),
            rate_mm_h: model.rate.value,
            taw_mm: model.taw,
            cells,
            totals,
        }
    }

    /// The days before today.
    fn past_cells(&self, of: &Planned) -> Vec<Cell> {
        (0..PAST_DAYS)
            .map(|back| {
                let date = self
                    .first
                    .saturating_add(i64::try_from(back).unwrap_or(0).days());
                let balance = of
                    .past
                    .iter()
                    .rev()
                    .find(|(d, _)| *d == date)
                    .map(|(_, b)| *b);
                let at_dawn = balance.map_or(Depth::ZERO, |b| b.start);
                let ran = self.ran(of, date, at_dawn);
                let state = match (&balance, ran.is_empty()) {
                    (None, _) => State::Absent,
                    (Some(_), false) => State::Ran,
                    (Some(_), true) => State::Past,
                };
                let verdict = match state {
                    State::Absent => Verdict::Absent,
                    _ => Verdict::Over,
                };
                cell(date, state, &balance.unwrap_or_default(), verdict, ran)
            })
            .collect()
    }

    /// The runs of a day that are in the record.
    fn ran(&self, of: &Planned, date: Date, at_dawn: Depth) -> Vec<Line> {
        let then = of.history.on(date);
        self.known
            .runs
            .iter()
            .filter(|r| r.zone == of.zone.id && r.date == date)
            .map(|r| Line::Ran {
                seconds: r.run_s,
                net_mm: r.irrigation(&then.zone, &then.model, at_dawn).net,
                assumed: r.assumed,
                watered: r.watered,
            })
            .collect()
    }

    /// A day of the horizon.
    fn cell(&self, of: &Planned, week: &ZoneWeek, account: &Account, day: usize) -> Cell {
        let zone = of.zone;
        let date = self.calendar[day].date;
        let balance = &week.balances[day];
        let mut ledger = if day == 0 {
            self.ran(of, date, of.depletion)
        } else {
            Vec::new()
        };
        if !zone.is_active(date) {
            return cell(date, State::Absent, balance, Verdict::Absent, ledger);
        }
        let off = match zone.regime {
            Regime::Established => None,
            Regime::Seedbed => Some((State::NewSeed, Verdict::NewSeed)),
            Regime::Off => Some((State::Off, Verdict::SwitchedOff)),
        };
        if let Some((state, verdict)) = off {
            return cell(date, state, balance, verdict, ledger);
        }
        let has_run = !ledger.is_empty() && of.today.all().gross > Depth::ZERO;
        if self.known.is_dry_day(zone, date) {
            ledger.push(Line::KeptDry);
        }
        let told = deciding(week, day);
        let (mut verdict, lines) = match told {
            Some(proposal) => account.slot(proposal),
            None => account.without_opportunity(day),
        };
        if let Some(supply_l_min) = self.known.document.supply.flow_l_min
            && !self.planned[account.index]
        {
            verdict = Verdict::FlowAboveSupply {
                flow_l_min: account.model.flow_l_min,
                supply_l_min,
            };
        }
        ledger.extend(lines);
        let state = match told.map(|p| p.act) {
            Some(Act::Water(_)) => State::Water,
            _ if has_run => State::Ran,
            Some(Act::Wait | Act::WaitForRain | Act::NoRoom) => State::Hold,
            Some(Act::Skip(_)) => State::Skip,
            None => State::NoWindow,
        };
        let run = |proposal: &Proposal| {
            let dose = proposal.dose()?;
            Some(self.planned_run(account, proposal, dose))
        };
        let opening = told.map(|p| p.slot.opening);
        Cell {
            run: told.and_then(run),
            later: week
                .on(day)
                .filter(|p| Some(p.slot.opening) > opening)
                .filter_map(|p| Some((p, run(p)?)))
                .map(|(proposal, run)| {
                    let (verdict, ledger) = account.slot(proposal);
                    LaterRun {
                        run,
                        verdict,
                        ledger,
                    }
                })
                .collect(),
            warnings: account.warnings(day),
            ..cell(date, state, balance, verdict, ledger)
        }
    }

    fn planned_run(&self, account: &Account, proposal: &Proposal, dose: &Dose) -> PlannedRun {
        let (index, zone) = (account.index, account.zone);
        let opening = proposal.slot.opening;
        let starts = self.week.placed[opening]
            .iter()
            .find(|p| p.task.zone == index)
            .map(|p| p.starts_s.iter().copied().map(instant).collect())
            .unwrap_or_default();
        let at = self.week.zones[index]
            .proposals
            .iter()
            .position(|p| p.slot.opening == opening);
        let chance = self.week.likely[index].as_ref().zip(at);
        PlannedRun {
            passes: dose.passes,
            pass_s: dose.pass_s,
            soak_s: dose.soak_s,
            run_s: dose.run_s(),
            settings: account.model.settings,
            chance_pct: chance.map_or(100.0, |(likely, at)| likely.runs[at].pct()),
            window: window(&self.openings[opening].window),
            starts,
            net_mm: dose.irrigation.net,
            gross_mm: dose.irrigation.gross,
            runoff_mm: dose.irrigation.runoff,
            volume_l: dose.irrigation.gross * zone.area_m2,
        }
    }
}

/// The slot that speaks for a day: the first that waters, else the first at which water is wanted, else the first.
fn deciding(week: &ZoneWeek, day: usize) -> Option<&Proposal> {
    let waters = week.on(day).find(|p| p.dose().is_some());
    waters
        .or_else(|| week.on(day).find(|p| p.act != Act::Wait))
        .or_else(|| week.on(day).next())
}

fn cell(
    date: Date,
    state: State,
    balance: &DayBalance,
    verdict: Verdict,
    ledger: Vec<Line>,
) -> Cell {
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
        later: Vec::new(),
        verdict,
        ledger,
        warnings: Vec::new(),
    }
}
