//! How long the zone's own sprinklers run until water stands or runs: the longest pass, as measured.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::{Says, measured};
use crate::invalid::Invalid;
use crate::ranges;
use crate::sourced::Source;

/// How far the minutes could be off, share: wetter ground runs sooner (common practice, no source).
const OFF: f64 = 0.25;

/// Minutes until the first puddle or runoff.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Runoff {
    /// From the start until water stood or ran, min.
    pub minutes: f64,
    /// From the stop until it had gone in, min, where that was waited for.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gone_minutes: Option<f64>,
}

impl Runoff {
    pub(super) fn validate(&self) -> Result<(), Invalid> {
        Invalid::unless_within("minutes", ranges::MINUTES_TO_RUNOFF, self.minutes)?;
        self.gone_minutes.map_or(Ok(()), |gone| {
            Invalid::unless_within("gone_minutes", ranges::SOAK_MINUTES, gone)
        })
    }

    pub(super) fn name(&self) -> String {
        "runoff test".to_owned()
    }

    pub(super) fn says(&self, source: Source) -> Says {
        let soak = self
            .gone_minutes
            .map(|gone| measured(gone, OFF, ranges::SOAK_MINUTES, source.clone()));
        let minutes = measured(self.minutes, OFF, ranges::MINUTES_TO_RUNOFF, source);
        Says {
            minutes_to_runoff: Some(minutes),
            soak_minutes: soak,
            ..Says::default()
        }
    }
}
