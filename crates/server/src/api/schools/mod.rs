//! Schools of watering, compared on a site's own weather.

mod compare;

pub(super) use compare::*;
