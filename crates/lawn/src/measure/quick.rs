//! Quick tests: the rate without the evenness, in a few minutes. The cruder the test, the wider its range (common practice, no source).

use jiff::civil::Date;
use science::sprinkler::{
    TRIANGULAR_ROWS, flow_at_pressure_l_min, rate_from_flow_mm_h, rate_from_nozzle_mm_h,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::quantity::{Rate, count};
use crate::ranges;
use crate::sourced::{Source, Sourced};

/// A nozzle's pressures.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pressures {
    /// At which the chart tells the flow, kPa.
    pub chart_kpa: f64,
    /// At the head, kPa.
    pub here_kpa: f64,
}

/// A quick test as it was done.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "way", rename_all = "snake_case", deny_unknown_fields)]
pub enum QuickTest {
    /// A few straight-sided cans and a watch: how long each took to a mark.
    ToDepth {
        /// The mark, mm.
        mark_mm: f64,
        /// What each can took, min; 1 to 24 cans.
        minutes: Vec<f64>,
    },
    /// The water meter, with the zone alone running.
    Meter {
        /// Reading before, L.
        before_l: f64,
        /// Reading after, L.
        after_l: f64,
        /// How long the zone ran, min.
        minutes: f64,
        /// The area that it waters, m².
        area_m2: f64,
    },
    /// The nozzle's chart and the spacing of the heads.
    Nozzle {
        /// Flow of one nozzle, L/min.
        flow_l_min: f64,
        /// Arc that it waters, degrees.
        arc_degrees: f64,
        /// Between heads along a row, m.
        head_spacing_m: f64,
        /// Between rows, m; `None`: the heads stand in equal triangles.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        row_spacing_m: Option<f64>,
        /// Corrects the flow for the pressure; `None`: as the chart says.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        pressures: Option<Pressures>,
    },
}

/// Most cans of a quick test.
const MOST_CANS: usize = 24;

/// What each way could be off, share: area and what fell outside of it; a chart instead of this lawn, worn nozzles, unknown pressure.
const METER_OFF: f64 = 0.15;
const NOZZLE_OFF: f64 = 0.35;
const NOZZLE_AT_PRESSURE_OFF: f64 = 0.25;

/// By the number of cans: a few hit the wet or the dry places by chance.
const fn cans_off(cans: usize) -> f64 {
    match cans {
        0..=2 => 0.30,
        3..=5 => 0.20,
        _ => 0.15,
    }
}

impl QuickTest {
    /// Checks every figure, and that the rate is one that sprinklers have.
    ///
    /// # Errors
    /// The first field that does not hold, such as `minutes[1]`.
    pub fn validate(&self) -> Result<(), Invalid> {
        let last = match self {
            Self::ToDepth { mark_mm, minutes } => {
                Invalid::unless_within("mark_mm", ranges::MARK, *mark_mm)?;
                if minutes.is_empty() || minutes.len() > MOST_CANS {
                    return Err(Invalid::new(
                        "minutes",
                        format!("a quick test has 1 to {MOST_CANS} cans"),
                    ));
                }
                for (i, m) in minutes.iter().enumerate() {
                    Invalid::unless_within(format!("minutes[{i}]"), ranges::TEST_MINUTES, *m)?;
                }
                "minutes"
            }
            Self::Meter {
                before_l,
                after_l,
                minutes,
                area_m2,
            } => {
                Invalid::unless_within("before_l", ranges::METER, *before_l)?;
                Invalid::unless_within("after_l", ranges::METER, *after_l)?;
                Invalid::unless_within("minutes", ranges::TEST_MINUTES, *minutes)?;
                Invalid::unless_within("area_m2", ranges::AREA, *area_m2)?;
                if after_l <= before_l {
                    return Err(Invalid::new(
                        "after_l",
                        "the meter after is not above the meter before",
                    ));
                }
                "after_l"
            }
            Self::Nozzle {
                flow_l_min,
                arc_degrees,
                head_spacing_m,
                row_spacing_m,
                pressures,
            } => {
                Invalid::unless_within("flow_l_min", ranges::NOZZLE_FLOW, *flow_l_min)?;
                Invalid::unless_within("arc_degrees", ranges::ARC, *arc_degrees)?;
                Invalid::unless_within("head_spacing_m", ranges::SPACING, *head_spacing_m)?;
                if let Some(rows) = row_spacing_m {
                    Invalid::unless_within("row_spacing_m", ranges::SPACING, *rows)?;
                }
                if let Some(p) = pressures {
                    Invalid::unless_within("pressures.chart_kpa", ranges::PRESSURE, p.chart_kpa)?;
                    Invalid::unless_within("pressures.here_kpa", ranges::PRESSURE, p.here_kpa)?;
                }
                "flow_l_min"
            }
        };
        ranges::RATE
            .check(self.rate_mm_h())
            .map(|_| ())
            .map_err(|_| {
                Invalid::new(
                    last,
                    "these figures cannot be: no sprinkler has such a rate",
                )
            })
    }

    /// The rate, mm/h; of valid figures.
    #[must_use]
    pub fn rate_mm_h(&self) -> f64 {
        match self {
            Self::ToDepth { mark_mm, minutes } => {
                let rates = minutes.iter().map(|m| mark_mm * 60.0 / m);
                rates.sum::<f64>() / f64::from(count(minutes.len().max(1)))
            }
            Self::Meter {
                before_l,
                after_l,
                minutes,
                area_m2,
            } => rate_from_flow_mm_h((after_l - before_l) / minutes, *area_m2),
            Self::Nozzle {
                flow_l_min,
                arc_degrees,
                head_spacing_m,
                row_spacing_m,
                pressures,
            } => {
                let flow = pressures.map_or(*flow_l_min, |p| {
                    flow_at_pressure_l_min(*flow_l_min, p.chart_kpa, p.here_kpa)
                });
                let rows = row_spacing_m.unwrap_or(head_spacing_m * TRIANGULAR_ROWS);
                rate_from_nozzle_mm_h(flow, *arc_degrees, *head_spacing_m, rows)
            }
        }
    }

    /// How far the rate could be off, share; of cans also twice the standard error of their mean.
    fn off(&self) -> f64 {
        match self {
            Self::ToDepth { mark_mm, minutes } => {
                let (n, mean) = (f64::from(count(minutes.len())), self.rate_mm_h());
                let apart: f64 = minutes
                    .iter()
                    .map(|m| (mark_mm * 60.0 / m - mean).powi(2))
                    .sum();
                let error = 2.0 * (apart / n / n).sqrt() / mean;
                error.clamp(cans_off(minutes.len()), 0.6)
            }
            Self::Meter { .. } => METER_OFF,
            Self::Nozzle {
                pressures: None, ..
            } => NOZZLE_OFF,
            Self::Nozzle { .. } => NOZZLE_AT_PRESSURE_OFF,
        }
    }

    /// The rate with its range, measured on a date.
    #[must_use]
    pub fn rate(&self, date: Date) -> Sourced<Rate> {
        let (rate, off) = (self.rate_mm_h(), self.off());
        let test = match self {
            Self::ToDepth { minutes, .. } => match minutes.len() {
                1 => "quick test, 1 can and a watch".to_owned(),
                n => format!("quick test, {n} cans and a watch"),
            },
            Self::Meter { .. } => "quick test, meter over area".to_owned(),
            Self::Nozzle { .. } => "quick test, nozzle chart and spacing".to_owned(),
        };
        Sourced {
            value: Rate::from_mm_h(rate),
            low: Rate::from_mm_h(rate * (1.0 - off)),
            high: Rate::from_mm_h(rate * (1.0 + off)),
            source: Source::Measured { test, date },
        }
    }
}
