//! Writes a plan out: each zone's cells with their verdicts, ledgers and warnings.

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Timestamp, ToSpan};

use crate::engine::dose::Dose;
use crate::engine::morning::Ahead;
use crate::engine::root_zone::DayBalance;
use crate::engine::schools::{Act, Keeping, Proposal};
use crate::engine::site_week::SiteWeek;
use crate::engine::skip::Skip;
use crate::engine::slot::{HORIZON, Opening, ZoneDay};
use crate::engine::zone_week::ZoneWeek;
use crate::quantity::Depth;
use crate::record::asked::Asked;
use crate::record::constraint::Asks;
use crate::record::edit::Becomes;
use crate::record::known::Known;
use crate::site::calendar::CalendarDay;
use crate::site::daylight::DayHours;
use crate::site::{Regime, Zone};
use crate::view::days::{PAST_DAYS, instant, window};
use crate::view::explain::Account;
use crate::view::ledger::Line;
use crate::view::planned::Planned;
use crate::view::verdict::Verdict;
use crate::view::week_plan::{
    BesideBalance, Cell, Expected, LaterRun, PlannedRun, State, Totals, WeekSum, ZonePlan,
};

/// What all zones of a plan share while they are written out.
pub(super) struct SiteView<'a> {
    pub known: &'a Known<'a>,
    pub first: Date,
    pub planned: Vec<bool>,
    pub days: Vec<[ZoneDay; HORIZON]>,
    /// The hours of the days; none where there is no new grass.
    pub hours: &'a [DayHours],
    pub calendar: &'a [CalendarDay],
    /// The days that the plan shows, with the hours of new grass.
    pub slotted: &'a [CalendarDay],
    /// What may come.
    pub weather: &'a Ahead<'a>,
    pub time_zone: &'a TimeZone,
    /// What is to be watered in, by zone.
    pub asked: &'a [Vec<Asked>],
    pub openings: &'a [Opening],
    pub week: &'a SiteWeek,
    /// The same week if all zones were watered by the water balance; `None`: they are.
    pub by_balance: Option<&'a SiteWeek>,
}

impl SiteView<'_> {
    pub fn zone_plan(&self, index: usize, of: &Planned) -> ZonePlan {
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
            hours: self.hours,
            time_zone: self.time_zone,
            missed: self.missed(of),
            now_s: self.known.now.map(Timestamp::as_second),
            week,
            site: self.week,
            calendar: self.calendar,
            openings: self.openings,
            index,
            place: of.place,
            planned: self.planned[index],
            asked: &self.asked[index],
            controller: &self.known.document.controller,
            rules: &self.known.document.rules.list,
            edited: std::array::from_fn(|day| self.edit(zone, self.calendar[day].date)),
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
        let by_balance = self
            .by_balance
            .filter(|_| !zone.school.is_water_balance() && !model.is_asleep());
        let beside = by_balance
            .and_then(likely)
            .zip(likely(self.week))
            .map(|(balance, own)| BesideBalance { own, balance });
        let grass = zone.grass.profile();
        ZonePlan {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            grass: zone.grass,
            plants: zone.plants,
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
            this_week: self.week_sum(index, of, &cells),
            cells,
            totals,
            new_grass: self.new_grass(of),
            lawn_from: of
                .seedling
                .and_then(|seedling| of.history.lawn_from(self.known.today, &seedling)),
        }
    }

    /// What a zone got since Monday, and is to get until Sunday.
    fn week_sum(&self, index: usize, of: &Planned, cells: &[Cell]) -> WeekSum {
        let today = self.known.today;
        let week = of.lately(today).week(today);
        let got = week.given + week.rain;
        let next_monday = week.monday.saturating_add(7.days());
        let left = cells.iter().filter(|cell| cell.date < next_monday);
        let planned: Depth = left.flat_map(Cell::runs).map(|run| run.net_mm).sum();
        let target =
            Keeping::of(of.zone, of.model).week_target(of.model, &self.days[index][0].weather);
        WeekSum {
            since: week.monday,
            given_mm: week.given,
            rain_mm: week.rain,
            got_mm: got,
            of_mm: target.unwrap_or(got + planned),
            target: target.is_some(),
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
        if zone.regime == Regime::Off {
            let (state, verdict) = (State::Off, Verdict::SwitchedOff);
            return Cell {
                warnings: account.not_watered_in(day).collect(),
                ..cell(date, state, balance, verdict, ledger)
            };
        }
        let has_run = !ledger.is_empty() && of.today.all().gross > Depth::ZERO;
        if self.known.is_dry_day(zone, date) {
            ledger.push(Line::KeptDry);
        }
        ledger.extend(self.dry_hours(zone, date));
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
        let edit = self.edit(zone, date);
        let taken_out = edit == Some(Becomes::TakenOut);
        if taken_out && !has_run {
            let skip = Skip::TakenOut;
            verdict = Verdict::Skipped { skip };
        }
        let state = match told.map(|p| p.act) {
            Some(Act::Water(_)) => State::Water,
            _ if has_run => State::Ran,
            _ if taken_out => State::Skip,
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
            edit,
            ..cell(date, state, balance, verdict, ledger)
        }
    }

    /// What a person made of a zone's day.
    fn edit(&self, zone: &Zone, date: Date) -> Option<Becomes> {
        let mut edits = self.known.edits.iter();
        let edit = edits.find(|e| e.zone == zone.id && e.date == date)?;
        Some(edit.becomes)
    }

    /// The hours of a day in which a zone must stay dry.
    fn dry_hours(&self, zone: &Zone, date: Date) -> Vec<Line> {
        let entries = self.known.constraints_of(zone);
        let dry = entries.filter(|c| c.asks == Asks::KeepDry);
        let hours = dry.map(|c| c.local(self.time_zone));
        let on_day = hours.filter(move |h| h.start.date() <= date && date <= h.end.date());
        let lines = on_day.map(|hours| Line::KeptDryHours {
            from: hours.start,
            until: hours.end,
        });
        lines.collect()
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
        surface: balance.surface.map(Into::into),
        run: None,
        later: Vec::new(),
        verdict,
        ledger,
        warnings: Vec::new(),
        edit: None,
    }
}
