//! What water there is, and what opens the valves.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::figures::number;
use crate::invalid::Invalid;
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
}

impl Supply {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
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

/// What the controller can do.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Controller {
    /// Step of its clock, s; run times are whole steps.
    #[serde(default = "a_minute")]
    pub step_s: u32,
    /// Its longest run, min; absent: as long as the window.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub longest_run_min: Option<f64>,
    /// Programmes that it can hold, 1 to 12; absent: not known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub programmes: Option<u8>,
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
        }
    }
}

impl Controller {
    /// Checks every figure.
    ///
    /// # Errors
    /// The first field that does not hold.
    pub fn validate(&self) -> Result<(), Invalid> {
        let figures = [
            (ranges::STEP, Some(f64::from(self.step_s))),
            (ranges::LONGEST_RUN, self.longest_run_min),
            (ranges::PROGRAMMES, self.programmes.map(f64::from)),
        ];
        for (range, value) in figures {
            if let Some(value) = value {
                number("controller.", range, value)?;
            }
        }
        Ok(())
    }
}
