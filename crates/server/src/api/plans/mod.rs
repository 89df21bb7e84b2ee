//! Plans and the record of runs.

mod create;
mod runs;
mod show;

pub(super) use create::*;
pub(super) use runs::*;
pub(super) use show::*;
