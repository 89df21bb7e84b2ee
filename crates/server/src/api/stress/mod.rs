//! Heat and drought: how each zone stands them, and who is let go.

mod regime;
mod show;

pub(super) use regime::*;
pub(super) use show::*;
