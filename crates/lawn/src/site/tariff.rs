//! What water costs: tiers of a month, rates of a season, a share that is charged as sewage, a surcharge in drought, a fee of the month.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::number;
use crate::days;
use crate::invalid::Invalid;
use crate::quantity::Volume;
use crate::ranges;

/// Most tariffs of a site, one after another.
const MOST_TARIFFS: usize = 100;
/// Most tiers of a month.
const MOST_TIERS: usize = 10;
/// Most seasons of a year with rates of their own.
const MOST_SEASONS: usize = 6;

/// What water costs from a day on, in the site's currency. Months are those of the calendar.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tariff {
    /// Its first day.
    pub from: Date,
    /// What a month costs before any water.
    #[serde(default)]
    pub fixed_per_month: f64,
    /// What the house uses of the same bill each month, m³: it fills the first tiers, the lawn's water comes on top.
    #[serde(default)]
    pub house_m3: f64,
    /// The rates, cheapest use first; the last tier has no end.
    pub tiers: Vec<Tier>,
    /// Months in which other rates hold; of several that hold a month the first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub seasons: Vec<SeasonRates>,
    /// What is charged for sewage; absent: nothing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sewer: Option<Sewer>,
    /// Surcharge on the price of water in drought, %.
    #[serde(default)]
    pub surcharge_pct: f64,
}

/// A tier of a month's use.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tier {
    /// Use of the month up to which it holds, m³; absent: without end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub up_to_m3: Option<f64>,
    /// Its price.
    pub price_per_m3: f64,
}

/// Rates of some months.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SeasonRates {
    /// Its first month, 1 to 12.
    pub first_month: i8,
    /// Its last month, 1 to 12; before the first: over the turn of the year.
    pub last_month: i8,
    /// The rates.
    pub tiers: Vec<Tier>,
}

/// What is charged for sewage.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Sewer {
    /// Share of the water that is charged, 0 to 1; 0 for a meter of the lawn's own, in most towns.
    pub share: f64,
    /// Its price.
    pub price_per_m3: f64,
}

fn validate_tiers(path: &str, tiers: &[Tier]) -> Result<(), Invalid> {
    if tiers.is_empty() || tiers.len() > MOST_TIERS {
        return Err(Invalid::new(
            path.to_owned(),
            format!("one to {MOST_TIERS} tiers, not {}", tiers.len()),
        ));
    }
    let mut before = 0.0;
    for (i, tier) in tiers.iter().enumerate() {
        let at = format!("{path}[{i}].");
        number(&at, ranges::PRICE, tier.price_per_m3)?;
        match (tier.up_to_m3, i + 1 == tiers.len()) {
            (None, true) => {}
            (Some(_), true) => {
                return Err(Invalid::new(
                    format!("{at}up_to_m3"),
                    "the last tier has no end: leave it out".to_owned(),
                ));
            }
            (None, false) => {
                return Err(Invalid::new(
                    format!("{at}up_to_m3"),
                    "only the last tier has no end".to_owned(),
                ));
            }
            (Some(up_to), false) => {
                number(&at, ranges::TIER_END, up_to)?;
                if up_to <= before {
                    return Err(Invalid::new(
                        format!("{at}up_to_m3"),
                        format!("{up_to} m³ is not above where the tier begins, {before} m³"),
                    ));
                }
                before = up_to;
            }
        }
    }
    Ok(())
}

impl SeasonRates {
    fn holds(&self, month: i8) -> bool {
        if self.first_month <= self.last_month {
            (self.first_month..=self.last_month).contains(&month)
        } else {
            month >= self.first_month || month <= self.last_month
        }
    }
}

impl Tariff {
    /// One price and nothing else.
    #[must_use]
    pub fn flat(from: Date, price_per_m3: f64) -> Self {
        Self {
            from,
            fixed_per_month: 0.0,
            house_m3: 0.0,
            tiers: vec![Tier {
                up_to_m3: None,
                price_per_m3,
            }],
            seasons: Vec::new(),
            sewer: None,
            surcharge_pct: 0.0,
        }
    }

    fn validate(&self, path: &str) -> Result<(), Invalid> {
        days::check(&format!("{path}from"), self.from, days::LAST)?;
        number(path, ranges::FIXED_FEE, self.fixed_per_month)?;
        number(path, ranges::HOUSE_USE, self.house_m3)?;
        number(path, ranges::SURCHARGE, self.surcharge_pct)?;
        validate_tiers(&format!("{path}tiers"), &self.tiers)?;
        if self.seasons.len() > MOST_SEASONS {
            return Err(Invalid::new(
                format!("{path}seasons"),
                format!("at most {MOST_SEASONS} seasons"),
            ));
        }
        for (i, season) in self.seasons.iter().enumerate() {
            let at = format!("{path}seasons[{i}].");
            for (name, month) in [
                ("first_month", season.first_month),
                ("last_month", season.last_month),
            ] {
                if !(1..=12).contains(&month) {
                    return Err(Invalid::new(
                        format!("{at}{name}"),
                        format!("a month is 1 to 12, not {month}"),
                    ));
                }
            }
            validate_tiers(&format!("{at}tiers"), &season.tiers)?;
        }
        if let Some(sewer) = &self.sewer {
            let at = format!("{path}sewer.");
            number(&at, ranges::SEWER_SHARE, sewer.share)?;
            number(&at, ranges::PRICE, sewer.price_per_m3)?;
        }
        Ok(())
    }

    fn tiers(&self, month: i8) -> &[Tier] {
        let season = self.seasons.iter().find(|s| s.holds(month));
        season.map_or(&self.tiers, |s| &s.tiers)
    }

    /// A cubic metre in a tier, with surcharge and sewage.
    fn with_charges(&self, price_per_m3: f64) -> f64 {
        let sewer = self.sewer.map_or(0.0, |s| s.share * s.price_per_m3);
        price_per_m3 * (1.0 + self.surcharge_pct / 100.0) + sewer
    }

    /// What the next water of a month costs, per m³, after the lawn has used so much of it.
    #[must_use]
    pub fn next_m3(&self, month: i8, used: Volume) -> f64 {
        let at = self.house_m3 + used.m3();
        let tiers = self.tiers(month);
        let tier = tiers
            .iter()
            .find(|t| t.up_to_m3.is_none_or(|end| at < end))
            .or(tiers.last());
        self.with_charges(tier.map_or(0.0, |t| t.price_per_m3))
    }

    /// What more water of a month costs, after the lawn has used so much of it, without the fee of the month.
    #[must_use]
    pub fn cost(&self, month: i8, used: Volume, more: Volume) -> f64 {
        let from = self.house_m3 + used.m3();
        let to = from + more.m3();
        let mut begins = 0.0;
        let mut cost = 0.0;
        for tier in self.tiers(month) {
            let ends = tier.up_to_m3.unwrap_or(f64::INFINITY);
            let within = (to.min(ends) - from.max(begins)).max(0.0);
            cost += within * self.with_charges(tier.price_per_m3);
            begins = ends;
        }
        cost
    }
}

/// Checks tariffs: each holds, and they come in order of their days.
///
/// # Errors
/// The first field that does not hold.
pub fn validate(tariffs: &[Tariff]) -> Result<(), Invalid> {
    if tariffs.len() > MOST_TARIFFS {
        return Err(Invalid::new(
            "tariffs",
            format!("a site has at most {MOST_TARIFFS} tariffs"),
        ));
    }
    for (i, tariff) in tariffs.iter().enumerate() {
        tariff.validate(&format!("tariffs[{i}]."))?;
        if i > 0 && tariff.from <= tariffs[i - 1].from {
            return Err(Invalid::new(
                format!("tariffs[{i}].from"),
                format!(
                    "{} is not after the tariff before it, {}",
                    tariff.from,
                    tariffs[i - 1].from
                ),
            ));
        }
    }
    Ok(())
}

/// The tariff that holds on a day.
#[must_use]
pub fn on(tariffs: &[Tariff], date: Date) -> Option<&Tariff> {
    tariffs.iter().rev().find(|t| t.from <= date)
}
