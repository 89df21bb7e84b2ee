//! Local rules of a site.

mod preview;
mod update;

pub(super) use preview::*;
pub(super) use update::*;
