//! What water offices allow a site over a span of days, and what their formula estimates that it uses.

use jiff::civil::Date;
use science::water_budget::{
    ETAF_HOME, ETAF_OTHER, efficiency, etwu_l, mawa_l, plant_factor, watersense_allowance_l,
};
use serde::Serialize;
use utoipa::ToSchema;

use crate::quantity::{Depth, Volume};
use crate::site::{Regime, SiteDocument, Use};
use crate::weather::DailyWeather;

/// The budgets of a site over a span of days, L.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
pub struct Budgets {
    /// What WaterSense allows in the peak month of the span; `None`: the span holds no whole month.
    #[serde(rename = "watersense_allowance_l")]
    pub watersense_allowance: Option<Volume>,
    /// The first day of that month.
    pub peak_month: Option<Date>,
    /// California's maximum applied water allowance.
    #[serde(rename = "mawa_l")]
    pub mawa: Volume,
    /// California's estimated total water use.
    #[serde(rename = "etwu_l")]
    pub etwu: Volume,
    /// Rain as it fell.
    pub rain_mm: Depth,
    /// Reference ET.
    pub et0_mm: Depth,
}

/// A whole month of a record.
#[derive(Debug, Clone, Copy)]
struct Month {
    first: Date,
    et0: Depth,
    rain: Depth,
}

/// The whole months of a contiguous series, in order.
fn whole_months(days: &[DailyWeather]) -> Vec<Month> {
    let mut months = Vec::new();
    let mut rest = days;
    while let Some(first) = rest.first() {
        let of = |day: &&DailyWeather| {
            (day.date.year(), day.date.month()) == (first.date.year(), first.date.month())
        };
        let length = rest.iter().take_while(of).count();
        let (month, after) = rest.split_at(length);
        if length == usize::try_from(first.date.days_in_month()).unwrap_or(usize::MAX) {
            months.push(Month {
                first: first.date,
                et0: month.iter().map(|d| d.et0).sum(),
                rain: month.iter().map(|d| d.rain).sum(),
            });
        }
        rest = after;
    }
    months
}

/// The budgets of a site over the days of a contiguous series: of all its zones but those that are switched off on its last day.
#[must_use]
pub fn budgets(document: &SiteDocument, days: &[DailyWeather]) -> Budgets {
    let et0: Depth = days.iter().map(|d| d.et0).sum();
    let last = days.last().map(|d| d.date);
    let zones: Vec<_> = document
        .zones
        .iter()
        .map(|zone| last.map_or_else(|| zone.clone(), |last| zone.on(last)))
        .filter(|zone| zone.regime != Regime::Off)
        .collect();
    let area_m2: f64 = zones.iter().map(|z| z.area_m2.m2()).sum();
    let etaf = match document.site.used_as {
        Use::Home => ETAF_HOME,
        Use::Other => ETAF_OTHER,
    };
    // Of months alike the first.
    let peak = whole_months(days).into_iter().reduce(|peak, month| {
        if month.et0 - month.rain > peak.et0 - peak.rain {
            month
        } else {
            peak
        }
    });
    let etwu: f64 = zones
        .iter()
        .map(|zone| {
            etwu_l(
                et0.mm(),
                plant_factor(zone.grass.profile().season),
                zone.area_m2.m2(),
                efficiency(zone.sprinkler),
            )
        })
        .sum();
    Budgets {
        watersense_allowance: peak
            .map(|month| Volume::from_l(watersense_allowance_l(month.et0.mm(), area_m2))),
        peak_month: peak.map(|month| month.first),
        mawa: Volume::from_l(mawa_l(et0.mm(), etaf, area_m2, 0.0)),
        etwu: Volume::from_l(etwu),
        rain_mm: days.iter().map(|d| d.rain).sum(),
        et0_mm: et0,
    }
}
