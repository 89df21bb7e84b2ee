//! Schools of watering, compared on a site's own weather, and tried on a zone's week.

mod compare;
mod preview;

pub(super) use compare::*;
pub(super) use preview::*;
