//! Schools of watering that practitioners defend, and what each is set to.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::number;
use crate::invalid::Invalid;
use crate::quantity::{Depth, RunTime};
use crate::ranges;

/// By which school a zone is watered. All but the first go by the calendar.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum School {
    /// Deep and seldom, by the balance of the root zone.
    #[default]
    WaterBalance,
    /// A depth each week from Monday on, rain counted.
    WeeklyTarget(WeeklyTarget),
    /// The same depth every few days.
    FixedInterval(FixedInterval),
    /// The same minutes every other day.
    EveryOtherDay(EveryOtherDay),
}

/// So much a week, rain counted.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct WeeklyTarget {
    /// Net depth of a week in which the grass grows, mm.
    #[schema(value_type = f64)]
    pub target_mm: Depth,
    /// The same while the mean of the last weeks is 25 °C or more, mm; absent: no more than else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<f64>)]
    pub hot_target_mm: Option<Depth>,
    /// The same while the grass is dormant with cold, mm: 0 waters it not at all.
    #[schema(value_type = f64)]
    pub dormant_target_mm: Depth,
    /// In how many soaks, 1 to 3.
    pub soaks: u8,
}

impl Default for WeeklyTarget {
    /// An inch less rain in two soaks, none while dormant (common practice, no source).
    fn default() -> Self {
        Self {
            target_mm: Depth::from_mm(25.0),
            hot_target_mm: None,
            dormant_target_mm: Depth::ZERO,
            soaks: 2,
        }
    }
}

/// The same depth every few days.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct FixedInterval {
    /// Net depth of a watering, mm.
    #[schema(value_type = f64)]
    pub depth_mm: Depth,
    /// Days from a watering to the next, at least.
    pub every_days: u8,
}

impl Default for FixedInterval {
    /// Half an inch every third day (common practice, no source).
    fn default() -> Self {
        Self {
            depth_mm: Depth::from_mm(12.7),
            every_days: 3,
        }
    }
}

/// The same minutes every other day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields, default)]
pub struct EveryOtherDay {
    /// Time that water runs, min.
    pub run_minutes: f64,
    /// Days from a watering to the next, at least.
    pub every_days: u8,
}

impl Default for EveryOtherDay {
    /// The middle of 20 to 30 minutes (common practice, no source).
    fn default() -> Self {
        Self {
            run_minutes: 25.0,
            every_days: 2,
        }
    }
}

impl EveryOtherDay {
    /// The minutes as a run time.
    #[must_use]
    pub fn run(&self) -> RunTime {
        RunTime::from_minutes(self.run_minutes)
    }
}

impl School {
    /// Every school as it is usually set, the default first.
    #[must_use]
    pub fn usual() -> [Self; 4] {
        [
            Self::WaterBalance,
            Self::WeeklyTarget(WeeklyTarget::default()),
            Self::FixedInterval(FixedInterval::default()),
            Self::EveryOtherDay(EveryOtherDay::default()),
        ]
    }

    /// Its name in files and in the API.
    #[must_use]
    pub const fn name(&self) -> &'static str {
        match self {
            Self::WaterBalance => "water_balance",
            Self::WeeklyTarget(_) => "weekly_target",
            Self::FixedInterval(_) => "fixed_interval",
            Self::EveryOtherDay(_) => "every_other_day",
        }
    }

    /// Whether it is the water balance.
    #[must_use]
    #[allow(clippy::trivially_copy_pass_by_ref)] // as serde calls it
    pub const fn is_water_balance(&self) -> bool {
        matches!(self, Self::WaterBalance)
    }

    /// Checks every figure; `path` goes before the field's name.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub(super) fn validate(&self, path: &str) -> Result<(), Invalid> {
        let at = format!("{path}school.");
        let every = |days: u8| number(&at, ranges::EVERY_DAYS, f64::from(days));
        match self {
            Self::WaterBalance => Ok(()),
            Self::WeeklyTarget(week) => {
                number(&at, ranges::WEEKLY_TARGET, week.target_mm.mm())?;
                if let Some(hot) = week.hot_target_mm {
                    number(&at, ranges::HOT_TARGET, hot.mm())?;
                }
                number(&at, ranges::DORMANT_TARGET, week.dormant_target_mm.mm())?;
                number(&at, ranges::SOAKS, f64::from(week.soaks))
            }
            Self::FixedInterval(interval) => {
                number(&at, ranges::INTERVAL_DEPTH, interval.depth_mm.mm())?;
                every(interval.every_days)
            }
            Self::EveryOtherDay(minutes) => {
                number(&at, ranges::RUN_MINUTES, minutes.run_minutes)?;
                every(minutes.every_days)
            }
        }
    }
}
