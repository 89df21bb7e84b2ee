//! Wet checks: walks with each zone on for two minutes.

mod add;
mod list;

pub(super) use add::*;
pub(super) use list::*;
