//! What water there is, and what opens the valves.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::number;
use crate::invalid::Invalid;
use crate::quantity::RunTime;
use crate::ranges;

/// What water there is.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Supply {
    /// Flow that the supply gives, L/min; absent: enough for any zone.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub flow_l_min: Option<f64>,
    /// Whether zones may run together, as far as the flow allows; absent: one at a time.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub together: bool,
    /// The tank, or the well that recovers slowly, from which it comes; absent: it never runs dry.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub store: Option<Store>,
}

/// A tank, or a well with what stands in it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
#[schema(as = SupplyStore)]
pub struct Store {
    /// What can be drawn from it when it is full, L.
    pub holds_l: f64,
    /// What runs back into it, day and night, L/min.
    pub refill_l_min: f64,
}

impl Supply {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        if let Some(store) = &self.store {
            number("supply.store.", ranges::STORE, store.holds_l)?;
            number("supply.store.", ranges::REFILL, store.refill_l_min)?;
        }
        match self.flow_l_min {
            Some(flow) => number("supply.", ranges::FLOW, flow),
            None if self.together => Err(Invalid::new(
                "supply.flow_l_min",
                "zones run together as far as the flow allows: say what the supply gives",
            )),
            None => Ok(()),
        }
    }
}

/// Days on which a controller's programme can be told to run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DayPattern {
    /// Any days of the week.
    Weekdays,
    /// Odd dates, or even ones.
    OddEven,
    /// Every n-th day.
    EveryNth,
}

/// What the controller can do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Controller {
    /// Step of its clock, s; run times that are set on it are whole steps.
    #[serde(default = "a_minute")]
    pub step_s: u32,
    /// Its longest run, min; absent: as long as the window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longest_run_min: Option<f64>,
    /// Programmes that it can hold, 1 to 12; absent: not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub programmes: Option<u8>,
    /// Starts that a programme can have on a day, 1 to 24: a zone has no more passes; absent: as many as it takes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub starts: Option<u8>,
    /// Which days its programmes can be told; none: any.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub patterns: Vec<DayPattern>,
    /// The seasonal adjust that stands on it, %: what runs is what is set times this; absent: as set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seasonal_adjust_pct: Option<u16>,
}

const fn a_minute() -> u32 {
    60
}

impl Default for Controller {
    fn default() -> Self {
        Self {
            step_s: a_minute(),
            longest_run_min: None,
            programmes: None,
            starts: None,
            patterns: Vec::new(),
            seasonal_adjust_pct: None,
        }
    }
}

impl Controller {
    /// The step of what runs, s: a step that is set, by the seasonal adjust, to the nearest second.
    #[must_use]
    pub fn running_step_s(&self) -> i64 {
        let set = RunTime::from_whole_s(i64::from(self.step_s)).s();
        let share = f64::from(self.seasonal_adjust_pct.unwrap_or(100)) / 100.0;
        RunTime::from_s(set * share).round_s().max(1)
    }

    /// What must be set so that a run comes out as long, s; whole steps where the run is.
    #[must_use]
    pub fn set_s(&self, run_s: i64) -> i64 {
        run_s / self.running_step_s() * i64::from(self.step_s)
    }

    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        let figures = [
            (ranges::STEP, Some(f64::from(self.step_s))),
            (ranges::LONGEST_RUN, self.longest_run_min),
            (ranges::PROGRAMMES, self.programmes.map(f64::from)),
            (ranges::STARTS, self.starts.map(f64::from)),
            (
                ranges::SEASONAL_ADJUST,
                self.seasonal_adjust_pct.map(f64::from),
            ),
        ];
        for (range, value) in figures {
            if let Some(value) = value {
                number("controller.", range, value)?;
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_set_comes_out_as_long_as_it_should() {
        let controller = Controller {
            seasonal_adjust_pct: Some(80),
            ..Controller::default()
        };
        assert_eq!(controller.running_step_s(), 48);
        // 25 min set run for 20.
        assert_eq!(controller.set_s(20 * 60), 25 * 60);
        assert_eq!(Controller::default().set_s(600), 600);
    }
}
