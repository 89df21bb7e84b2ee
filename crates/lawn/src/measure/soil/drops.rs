//! Drops of water on dry soil.

use science::water_drop::Repellency;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::invalid::Invalid;
use crate::ranges;

/// Most drops of a test.
const MOST_DROPS: usize = 30;

/// How long drops stood on dry soil, at several places or depths of the zone.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Drops {
    /// Of each drop, s; 1 to 30 drops.
    pub seconds: Vec<f64>,
}

impl Drops {
    pub(super) fn validate(&self) -> Result<(), Invalid> {
        if self.seconds.is_empty() || self.seconds.len() > MOST_DROPS {
            return Err(Invalid::new(
                "seconds",
                format!("a drop test has 1 to {MOST_DROPS} drops"),
            ));
        }
        for (i, seconds) in self.seconds.iter().enumerate() {
            Invalid::unless_within(format!("seconds[{i}]"), ranges::DROP, *seconds)?;
        }
        Ok(())
    }

    /// The class of the zone: that of the middle drop, of an even number the longer of the middle two; `None` without a drop.
    #[must_use]
    pub fn class(&self) -> Option<Repellency> {
        let mut sorted = self.seconds.clone();
        sorted.sort_by(f64::total_cmp);
        sorted
            .get(sorted.len() / 2)
            .map(|seconds| Repellency::of_drop(*seconds))
    }
}
