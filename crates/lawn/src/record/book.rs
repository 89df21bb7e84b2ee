//! The water book: what was planned, what ran, what fell, what it cost; by zone, week and month, from the runs and the ledger that are there.

use std::collections::BTreeMap;

use jiff::civil::Date;
use jiff::{Timestamp, ToSpan};
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::{Area, Depth, Volume};
use crate::record::budget::{Budgets, budgets};
use crate::record::past::PastDay;
use crate::record::readings::{Reading, used};
use crate::record::waterings::{Entry, Watering, costs, histories, run_between, waterings};
use crate::site::SiteDocument;
use crate::site::meter::Meter;
use crate::site::tariff;
use crate::weather::DailyWeather;

/// Volumes, depths and money of a stretch of days; depths are means over the area.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
#[schema(as = BookSums)]
pub struct Sums {
    /// Water that plans asked for, L.
    pub planned_l: Volume,
    /// Water out of the sprinklers and hoses, L.
    pub run_l: Volume,
    /// Of it what is assumed, because nobody said otherwise, L.
    pub assumed_l: Volume,
    /// What it cost, without the fees of the months; `None`: no tariff.
    pub cost: Option<f64>,
    /// Crop ET of a turf that lacks nothing.
    pub etc_mm: Depth,
    /// Crop ET as it was.
    pub eta_mm: Depth,
    /// Rain that entered the soil.
    pub effective_rain_mm: Depth,
    /// Irrigation that entered the soil.
    pub net_mm: Depth,
    /// Irrigation that ran off.
    pub runoff_mm: Depth,
    /// Water below the roots, of irrigation and rain.
    pub drainage_mm: Depth,
}

/// A zone's part of the book.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = BookZone)]
pub struct ZoneBook {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// Its area on the last day, m².
    #[schema(value_type = f64)]
    pub area_m2: Area,
    /// Its sums.
    pub sums: Sums,
    /// Days on which it was watered.
    pub watered_days: u32,
    /// Visits of a person who opened the water.
    pub visits: u32,
    /// How long they let it run, s.
    pub by_hand_s: i64,
    /// Waterings by hose of which nobody knows how much: no water is counted for them.
    pub unmeasured: u32,
}

/// A week or month of the book, as far as it lies in the span.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[schema(as = BookPeriod)]
pub struct Period {
    /// Its first day in the span.
    pub from: Date,
    /// Its last day in the span.
    pub to: Date,
    /// Reference ET.
    pub et0_mm: Depth,
    /// Rain as it fell.
    pub rain_mm: Depth,
    /// California's maximum applied water allowance for these days, L.
    pub mawa_l: Volume,
    /// The sums over all zones.
    pub sums: Sums,
}

/// What a meter says of the time between two readings, beside what ran.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = BookMetered)]
pub struct Metered {
    /// The meter's identifier.
    pub meter: String,
    /// When it was read before.
    pub from: Timestamp,
    /// When it was read.
    pub to: Timestamp,
    /// What flowed, L; `None`: the meter was changed and nobody read the old one.
    pub metered_l: Option<Volume>,
    /// What ran on its zones in that time, L.
    pub run_l: Volume,
}

/// The book of a span of days.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = WaterBook)]
pub struct Book {
    /// First day.
    pub from: Date,
    /// Last day.
    pub to: Date,
    /// The zones, in the site's order.
    pub zones: Vec<ZoneBook>,
    /// Its weeks, from Monday on.
    pub weeks: Vec<Period>,
    /// Its months.
    pub months: Vec<Period>,
    /// All of it.
    pub total: Sums,
    /// Fees of the months that begin in the span; `None`: no tariff.
    pub fees: Option<f64>,
    /// What the next cubic metre of the last day's month costs; `None`: no tariff.
    pub next_m3: Option<f64>,
    /// What a timer would have run that is set once, for the month that took the most, over the months of the season; `None`: it had fewer than three.
    pub timer_left_l: Option<Volume>,
    /// What water offices' formulas allow in the span.
    pub budgets: Budgets,
    /// The meters, between readings that touch the span, in time order.
    pub metered: Vec<Metered>,
}

/// What the book is made of.
#[derive(Debug, Clone, Copy)]
pub struct Sources<'a> {
    /// The site.
    pub document: &'a SiteDocument,
    /// First day of the span.
    pub from: Date,
    /// Last day of the span.
    pub to: Date,
    /// Runs since the first of the month of `from`, and since the reading before it; in time order.
    pub entries: &'a [Entry],
    /// Of each zone the days of its ledger within the span, in time order.
    pub ledger: &'a [Vec<PastDay>],
    /// Weather of the span, in time order.
    pub weather: &'a [DailyWeather],
    /// The meters that belong to the site, with their readings in time order.
    pub meters: &'a [(Meter, Vec<Reading>)],
}

impl Sums {
    fn money(&mut self, cost: Option<f64>) {
        if let Some(cost) = cost {
            *self.cost.get_or_insert(0.0) += cost;
        }
    }

    fn run(&mut self, run: &Watering) {
        self.planned_l = self.planned_l + run.planned;
        self.run_l = self.run_l + run.run;
        if run.assumed {
            self.assumed_l = self.assumed_l + run.run;
        }
    }

    /// Adds a day of a ledger, which counts for a share of the area.
    fn day(&mut self, day: &PastDay, share: f64) {
        let balance = &day.balance;
        self.etc_mm += balance.etc * share;
        self.eta_mm += balance.eta * share;
        self.effective_rain_mm += balance.effective_rain * share;
        self.net_mm += balance.irrigation.net * share;
        self.runoff_mm += balance.irrigation.runoff * share;
        self.drainage_mm += balance.drainage * share;
    }
}

fn monday(date: Date) -> Date {
    let since = i64::from(date.weekday().to_monday_zero_offset());
    date.saturating_sub(since.days())
}

/// The periods of a span, each by its first day: those of the days for which `begins` is the same.
fn periods(sources: &Sources, begins: impl Fn(Date) -> Date) -> BTreeMap<Date, Period> {
    let mut periods: BTreeMap<Date, Period> = BTreeMap::new();
    for date in sources
        .from
        .series(1.day())
        .take_while(|d| *d <= sources.to)
    {
        let period = periods.entry(begins(date)).or_insert(Period {
            from: date,
            to: date,
            et0_mm: Depth::ZERO,
            rain_mm: Depth::ZERO,
            mawa_l: Volume::default(),
            sums: Sums::default(),
        });
        period.to = date;
    }
    for period in periods.values_mut() {
        let from = sources.weather.partition_point(|d| d.date < period.from);
        let to = sources.weather.partition_point(|d| d.date <= period.to);
        let of = budgets(sources.document, &sources.weather[from..to]);
        period.et0_mm = of.et0_mm;
        period.rain_mm = of.rain_mm;
        period.mawa_l = of.mawa;
    }
    periods
}

/// Fewest months of a season for which a timer that is left alone says anything: spring, summer and autumn differ (no source).
const TIMER_MONTHS: usize = 3;
/// A month belongs to the season that took at least this share, a day, of the month that took the most: a timer is off before and after (no source).
const OF_SEASON: f64 = 0.1;

/// What a timer would have run that is set once, for the month that took the most a day, over the season.
fn timer_left(months: &[Period]) -> Option<Volume> {
    let days = |month: &Period| {
        let span = month.from.until(month.to).map_or(0, |span| span.get_days());
        f64::from(span + 1)
    };
    let a_day = |month: &Period| month.sums.run_l.l() / days(month);
    let most = months.iter().map(a_day).fold(0.0, f64::max);
    let season = months
        .iter()
        .filter(|month| a_day(month) > OF_SEASON * most);
    let season: Vec<&Period> = season.collect();
    (season.len() >= TIMER_MONTHS)
        .then(|| Volume::from_l(season.iter().map(|month| most * days(month)).sum()))
}

/// The book of a span of days.
#[must_use]
pub fn book(sources: &Sources) -> Book {
    let document = sources.document;
    let tariffs = document.tariffs();
    let histories = histories(document);
    let all = waterings(document, sources.entries, &histories);
    let (costs, of_days) = costs(&all, &tariffs);
    let span = sources.from..=sources.to;
    let mut total = Sums::default();
    let mut weeks = periods(sources, monday);
    let mut months = periods(sources, Date::first_of_month);
    let mut zones: Vec<ZoneBook> = (document.zones.iter().zip(&histories))
        .map(|(zone, history)| ZoneBook {
            zone: zone.id.clone(),
            name: zone.name.clone(),
            area_m2: history.on(sources.to).zone.area_m2,
            sums: Sums::default(),
            watered_days: 0,
            visits: 0,
            by_hand_s: 0,
            unmeasured: 0,
        })
        .collect();
    let mut watered: Vec<Option<Date>> = vec![None; zones.len()];
    for (watering, cost) in all.iter().zip(costs) {
        if !span.contains(&watering.date) {
            continue;
        }
        let zone = &mut zones[watering.zone];
        if watering.seconds > 0 && watered[watering.zone] != Some(watering.date) {
            watered[watering.zone] = Some(watering.date);
            zone.watered_days += 1;
        }
        if watering.visit {
            zone.visits += 1;
            zone.by_hand_s += watering.by_hand_s;
        }
        zone.unmeasured += u32::from(watering.unmeasured && watering.seconds > 0);
        let of_week = weeks.get_mut(&monday(watering.date)).map(|p| &mut p.sums);
        let of_month = months.get_mut(&watering.date.first_of_month());
        let sums = [
            Some(&mut zone.sums),
            Some(&mut total),
            of_week,
            of_month.map(|p| &mut p.sums),
        ];
        for sums in sums.into_iter().flatten() {
            sums.run(watering);
            sums.money(cost);
        }
    }
    // Depths of the site are means over the area of the zones that were there that day.
    let mut area_of: BTreeMap<Date, f64> = BTreeMap::new();
    for (i, days) in sources.ledger.iter().enumerate() {
        for day in days {
            *area_of.entry(day.date).or_default() += histories[i].on(day.date).zone.area_m2.m2();
        }
    }
    for (i, days) in sources.ledger.iter().enumerate() {
        for day in days.iter().filter(|day| span.contains(&day.date)) {
            let area = histories[i].on(day.date).zone.area_m2.m2();
            let share = area / area_of.get(&day.date).copied().unwrap_or(area);
            zones[i].sums.day(day, 1.0);
            total.day(day, share);
            if let Some(week) = weeks.get_mut(&monday(day.date)) {
                week.sums.day(day, share);
            }
            if let Some(month) = months.get_mut(&day.date.first_of_month()) {
                month.sums.day(day, share);
            }
        }
    }
    let of_month: f64 = of_days
        .range(sources.to.first_of_month()..=sources.to)
        .map(|(_, volume)| volume.l())
        .sum();
    let next_m3 = tariff::on(&tariffs, sources.to)
        .map(|tariff| tariff.next_m3(sources.to.month(), Volume::from_l(of_month)));
    let fees = (!tariffs.is_empty()).then(|| {
        let first_days = months.values().filter(|m| m.from.day() == 1);
        let of = first_days.filter_map(|m| tariff::on(&tariffs, m.from));
        of.map(|tariff| tariff.fixed_per_month).sum()
    });
    let mut metered: Vec<Metered> = sources
        .meters
        .iter()
        .flat_map(|(meter, readings)| {
            let all = &all;
            readings.windows(2).map(move |pair| Metered {
                meter: meter.id.clone(),
                from: pair[0].at,
                to: pair[1].at,
                metered_l: used(meter, &pair[0], &pair[1]),
                run_l: run_between(document, meter, all, pair[0].at, pair[1].at),
            })
        })
        .collect();
    metered.sort_by_key(|m| m.to);
    let months: Vec<Period> = months.into_values().collect();
    Book {
        from: sources.from,
        to: sources.to,
        zones,
        weeks: weeks.into_values().collect(),
        timer_left_l: timer_left(&months),
        months,
        total,
        fees,
        next_m3,
        budgets: budgets(document, sources.weather),
        metered,
    }
}
