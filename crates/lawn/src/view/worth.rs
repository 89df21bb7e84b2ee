//! What is worth measuring next, for people: by zone and test, what costs most first.

use jiff::ToSpan;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::engine::slot::{HORIZON, Opening};
use crate::engine::trial::Course;
use crate::engine::uncertain::{Sharpen, ZoneFigure};
use crate::engine::worth_measuring::{TRIED_DAYS, tests_worth_doing, worth_measuring};
use crate::quantity::{Depth, Volume};
use crate::site::{SiteDocument, Zone};
use crate::sourced::Source;
use crate::weather::DailyWeather;

/// A test that is worth doing, and why.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
pub struct WorthMeasuring {
    /// The zone.
    pub zone: String,
    /// Which test.
    pub test: Sharpen,
    /// How long it keeps a person busy, min.
    pub minutes: u32,
    /// The figure that it is done for.
    pub figure: ZoneFigure,
    /// Where that comes from at present; a test that is over a year old counts as stale.
    pub source: Source,
    /// Running time of a week without rain, by what is believed, s.
    pub week_s: i64,
    /// The least that it is at any value that the figure could have.
    pub least_s: i64,
    /// The most.
    pub most_s: i64,
    /// What not knowing it costs a week, as a depth over the zone: what the turf misses, and what runs to waste.
    pub loss_mm: Depth,
    /// The same as a volume, L.
    pub loss_l: Volume,
    /// What the volume costs, in the site's currency; `null` without a price.
    pub loss_cost: Option<f64>,
}

/// Most tests that are named.
const MOST_NAMED: usize = 200;

/// Days that a trial reads.
pub(crate) const COURSE_DAYS: usize = TRIED_DAYS + HORIZON;

/// A zone whose figures are weighed.
pub(crate) struct Weighed<'a> {
    /// As it is today, with the figures of its tests.
    pub zone: &'a Zone,
    /// Openings from which rules bar it.
    pub barred: Vec<usize>,
    /// Depletion at today's dawn, share of TAW.
    pub begins: f64,
}

/// The days of a trial: those ahead without their rain, then more of the last of them.
pub(crate) fn course_days(ahead: &[DailyWeather]) -> Vec<DailyWeather> {
    let Some(last) = ahead.last() else {
        return Vec::new();
    };
    let dry = |day: &DailyWeather| DailyWeather {
        rain: Depth::ZERO,
        ..*day
    };
    let mut days: Vec<DailyWeather> = ahead.iter().take(COURSE_DAYS).map(dry).collect();
    while days.len() < COURSE_DAYS {
        let date = days
            .last()
            .map_or(last.date, |d| d.date.saturating_add(1.day()));
        days.push(DailyWeather { date, ..dry(last) });
    }
    days
}

/// What is worth measuring on a site's zones; by the volume that it costs and the zone's rank, the greatest first.
pub(crate) fn worth(
    document: &SiteDocument,
    zones: &[Weighed],
    days: &[DailyWeather],
    openings: &[Opening],
) -> Vec<WorthMeasuring> {
    let Some(today) = days.first().map(|d| d.date) else {
        return Vec::new();
    };
    let mut all: Vec<(f64, WorthMeasuring)> = Vec::new();
    for weighed in zones {
        let zone = weighed.zone;
        let open: Vec<Opening> = openings
            .iter()
            .enumerate()
            .filter(|(place, _)| !weighed.barred.contains(place))
            .map(|(_, opening)| *opening)
            .collect();
        let course = Course {
            days,
            openings: &open,
            by_hand: zone.by_hand(),
            begins: weighed.begins,
        };
        let worth = worth_measuring(
            zone,
            &document.controller,
            document.site.latitude,
            &course,
            today,
        );
        let rank = f64::from(10 - zone.priority.min(9)) / 5.0;
        for doing in tests_worth_doing(&worth) {
            let Some(of) = worth.iter().find(|w| w.figure == doing.figure) else {
                continue;
            };
            // What is not watered in a dry week, whatever the figure is, costs no water.
            if of.most_s == 0 {
                continue;
            }
            let loss_l = doing.loss * zone.area_m2;
            let named = WorthMeasuring {
                zone: zone.id.clone(),
                test: doing.test,
                minutes: doing.test.minutes(),
                figure: doing.figure,
                source: of.source.clone(),
                week_s: of.week_s,
                least_s: of.least_s,
                most_s: of.most_s,
                loss_mm: doing.loss,
                loss_l,
                loss_cost: document
                    .site
                    .price_per_m3
                    .map(|price| loss_l.cost_at(price)),
            };
            all.push((loss_l.l() * rank, named));
        }
    }
    all.sort_by(|a, b| b.0.total_cmp(&a.0));
    all.truncate(MOST_NAMED);
    all.into_iter().map(|(_, worth)| worth).collect()
}
