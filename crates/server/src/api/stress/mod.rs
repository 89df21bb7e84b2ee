//! Heat and drought: how each zone stands them, and who is let go.

mod decision;
mod regime;
mod scarcity;
mod show;

pub(super) use decision::*;
pub(super) use regime::*;
pub(super) use scarcity::*;
pub(super) use show::*;
