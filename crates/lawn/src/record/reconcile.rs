//! Day by day and zone by zone: what was planned, what ran, what a flow meter counted, and what stays unexplained.

use std::collections::BTreeMap;

use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::Volume;
use crate::record::book::Sources;
use crate::record::flow_watch::{FlowFinding, Named};
use crate::record::watching::WatchedDay;
use crate::record::waterings::{costs, histories, waterings};
use crate::site::SiteDocument;
use crate::site::meter::Meter;
use crate::text::csv_cell;

/// A zone's day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReconciledZone)]
pub struct ZoneDay {
    /// The zone's identifier.
    pub zone: String,
    /// Its name.
    pub name: String,
    /// What plans asked for, L.
    pub planned_l: Volume,
    /// What ran by its rate and time, L.
    pub run_l: Volume,
    /// What the meter counted while it ran, L; `None`: no flow meter was heard.
    pub metered_l: Option<Volume>,
    /// Share of its time that the meter was heard, 0 to 1; `None`: it did not run.
    pub heard: Option<f64>,
    /// What it cost, without the month's fee; `None`: no tariff.
    pub cost: Option<f64>,
    /// Whether some of it is assumed, because nobody said otherwise.
    pub assumed: bool,
    /// Whether a hose watered of which nobody knows how much.
    pub unmeasured: bool,
}

/// What a flow meter says of a day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReconciledMeter)]
pub struct MeterDay {
    /// What it counted while something ran, L; of a run that goes on after midnight all of it.
    pub runs_l: Volume,
    /// What it counted with nothing on, L.
    pub nobody_l: Volume,
    /// What it counted beyond what ran by its rate and time, as far as that was heard, L; below 0: what is missing.
    pub not_explained_l: Volume,
    /// Minutes of the day that were heard.
    pub heard_min: u32,
    /// What explains it, the most water first.
    pub found: Vec<Found>,
}

/// What was named on a day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReconciledFinding)]
pub struct Found {
    /// What.
    pub named: Named,
    /// The identifier of the zone that it is about.
    pub zone: Option<String>,
    /// Its name.
    pub zone_name: Option<String>,
    /// Since when, as far as it can be told.
    pub since: Timestamp,
    /// Water of the day that it explains, L; below 0: what is missing.
    pub litres: Volume,
}

/// A day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
#[schema(as = ReconciledDay)]
pub struct Day {
    /// The day.
    pub date: Date,
    /// What plans asked for, L.
    pub planned_l: Volume,
    /// What ran by rates and times, L.
    pub run_l: Volume,
    /// What it cost, without the month's fee; `None`: no tariff.
    pub cost: Option<f64>,
    /// The meter; `None`: it was not heard, or there is none.
    pub metered: Option<MeterDay>,
    /// The zones that were planned or ran, in the site's order.
    pub zones: Vec<ZoneDay>,
}

/// The columns of a file of days.
const HEADING: &str = "date,zone,name,planned_l,run_l,metered_l,heard,cost,assumed,unmeasured";

/// Days as CSV, a line for each zone's day; what flowed with nothing on stands in a line without a zone.
#[must_use]
pub fn write(days: &[Day]) -> String {
    let mut text = format!("{HEADING}\n");
    let figure = |figure: Option<f64>| figure.map(|f| f.to_string()).unwrap_or_default();
    for day in days {
        for zone in &day.zones {
            let cells = [
                day.date.to_string(),
                csv_cell(&zone.zone),
                csv_cell(&zone.name),
                zone.planned_l.l().to_string(),
                zone.run_l.l().to_string(),
                figure(zone.metered_l.map(Volume::l)),
                figure(zone.heard),
                figure(zone.cost),
                zone.assumed.to_string(),
                zone.unmeasured.to_string(),
            ];
            text.push_str(&cells.join(","));
            text.push('\n');
        }
        if let Some(metered) = &day.metered {
            let nobody = metered.nobody_l.l();
            text.push_str(&format!("{},,,0,0,{nobody},,,false,false\n", day.date));
        }
    }
    text
}

impl Day {
    fn new(date: Date) -> Self {
        Self {
            date,
            planned_l: Volume::default(),
            run_l: Volume::default(),
            cost: None,
            metered: None,
            zones: Vec::new(),
        }
    }
}

fn add(sum: &mut Option<f64>, cost: Option<f64>) {
    if let Some(cost) = cost {
        *sum.get_or_insert(0.0) += cost;
    }
}

/// The days of a span, in time order, of the zones that a flow meter feeds and beside what it counted; without a meter of all zones.
#[must_use]
pub fn reconcile(sources: &Sources, meter: Option<(&Meter, &[WatchedDay])>) -> Vec<Day> {
    let document = sources.document;
    let all = waterings(document, sources.entries, &histories(document));
    let (costs, _) = costs(&all, &document.tariffs());
    let mut zones: BTreeMap<(Date, usize), ZoneDay> = BTreeMap::new();
    for (watering, cost) in all.iter().zip(costs) {
        let zone = &document.zones[watering.zone];
        let is_fed = meter.is_none_or(|(meter, _)| meter.feeds(&zone.id));
        let is_within = (sources.from..=sources.to).contains(&watering.date);
        if !is_fed || !is_within {
            continue;
        }
        let of = zones
            .entry((watering.date, watering.zone))
            .or_insert_with(|| ZoneDay {
                zone: zone.id.clone(),
                name: zone.name.clone(),
                planned_l: Volume::default(),
                run_l: Volume::default(),
                metered_l: None,
                heard: None,
                cost: None,
                assumed: false,
                unmeasured: false,
            });
        of.planned_l = of.planned_l + watering.planned;
        of.run_l = of.run_l + watering.run;
        of.assumed |= watering.assumed;
        of.unmeasured |= watering.unmeasured && watering.seconds > 0;
        add(&mut of.cost, cost);
    }
    let watched = meter.map_or(&[][..], |(_, days)| days);
    let mut days = Vec::new();
    for date in sources.from.series(jiff::Span::new().days(1)) {
        if date > sources.to {
            break;
        }
        let mut day = Day::new(date);
        let watched = watched.iter().find(|watched| watched.date == date);
        let of_day = zones.range_mut((date, 0)..=(date, usize::MAX));
        for ((_, place), zone) in of_day {
            day.planned_l = day.planned_l + zone.planned_l;
            day.run_l = day.run_l + zone.run_l;
            add(&mut day.cost, zone.cost);
            if let Some(watched) = watched {
                let passes = watched.taken.iter().filter(|taken| taken.zone == *place);
                let (mut litres, mut heard, mut length) = (0.0, 0.0, 0.0);
                for pass in passes {
                    litres += pass.taken.litres.l();
                    heard += pass.taken.heard_min;
                    length += pass.taken.length_min;
                }
                zone.metered_l = (heard > 0.0).then(|| Volume::from_l(litres));
                zone.heard = (length > 0.0).then(|| heard / length);
            }
            day.zones.push(zone.clone());
        }
        day.metered = watched.map(|watched| of_meter(document, watched, &day.zones));
        days.push(day);
    }
    days
}

fn of_meter(document: &SiteDocument, watched: &WatchedDay, zones: &[ZoneDay]) -> MeterDay {
    let runs_l: f64 = zones
        .iter()
        .filter_map(|z| z.metered_l)
        .map(Volume::l)
        .sum();
    let heard: f64 = zones
        .iter()
        .map(|z| z.run_l.l() * z.heard.unwrap_or_default())
        .sum();
    MeterDay {
        runs_l: Volume::from_l(runs_l),
        nobody_l: watched.nobody,
        not_explained_l: Volume::from_l(runs_l + watched.nobody.l() - heard),
        heard_min: watched.heard_min,
        found: named_once(document, &watched.found),
    }
}

/// What was named, each once: of a zone's passes their water together.
fn named_once(document: &SiteDocument, findings: &[FlowFinding]) -> Vec<Found> {
    let mut once: Vec<Found> = Vec::new();
    for finding in findings {
        if let Some(same) = once.iter_mut().find(|f| f.named.is_alike(&finding.named)) {
            same.litres = same.litres + finding.litres;
            same.since = same.since.min(finding.since);
            continue;
        }
        let place = finding.named.zone();
        let zone = place.and_then(|place| document.zones.get(place));
        once.push(Found {
            named: finding.named,
            zone: zone.map(|zone| zone.id.clone()),
            zone_name: zone.map(|zone| zone.name.clone()),
            since: finding.since,
            litres: finding.litres,
        });
    }
    once
}
