//! The surface of new grass over a day, as it is kept beside the balance of the root zone.

use serde::{Deserialize, Serialize};

use crate::quantity::Depth;

/// The surface store over a day, as it is kept.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct SurfaceDay {
    /// What the surface lacks of field capacity when the day begins.
    pub start: Depth,
    /// The same when it ends.
    pub end: Depth,
    /// Total evaporable water.
    pub tew: Depth,
    /// Readily evaporable water.
    pub rew: Depth,
    /// What evaporated; the rest of ETa the seedlings drank.
    pub evaporation: Depth,
    /// How dry the surface may become at this stage; `None`: it no longer matters by itself.
    pub limit: Option<Depth>,
    /// The driest that it is at the end of an hour.
    pub driest: Depth,
    /// The hours at whose end it is drier than the limit.
    pub dry: DryHours,
    /// Share of TEW that it lacks at the end of each hour, %.
    #[serde(default)]
    pub lacks_pct: [u8; 24],
}

/// Beyond its limit by less of TEW than this, as most evenings, is no reason to worry (common practice, no source).
pub const WORTH_SAYING_SHARE: f64 = 0.1;

impl SurfaceDay {
    /// The hours at whose end it lacks more than the limit by so much that it is worth saying.
    #[must_use]
    pub fn too_dry(&self) -> Vec<u8> {
        let Some(limit) = self.limit else {
            return Vec::new();
        };
        let most_pct = (limit / self.tew + WORTH_SAYING_SHARE) * 100.0;
        let hours = self.dry.hours().filter(|hour| {
            let lacks = self.lacks_pct.get(usize::from(*hour));
            lacks.is_some_and(|pct| f64::from(*pct) >= most_pct)
        });
        hours.collect()
    }
}

/// Hours of a day in which a surface is too dry, a bit each.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(transparent)]
pub struct DryHours(u32);

impl DryHours {
    /// None.
    pub(crate) const NONE: Self = Self(0);

    pub(crate) const fn add(&mut self, hour: usize) {
        self.0 |= 1 << hour;
    }

    /// The same from an hour on.
    #[must_use]
    pub const fn since(self, hour: u8) -> Self {
        Self(self.0 >> hour << hour)
    }

    /// They, from 0 to 23, in order.
    pub fn hours(self) -> impl Iterator<Item = u8> {
        (0..24).filter(move |hour| self.0 >> hour & 1 == 1)
    }

    /// How many.
    #[must_use]
    pub fn count(self) -> u8 {
        u8::try_from(self.0.count_ones()).unwrap_or(24)
    }

    /// The first; `None`: there is none.
    #[must_use]
    pub fn first(self) -> Option<u8> {
        self.hours().next()
    }
}
