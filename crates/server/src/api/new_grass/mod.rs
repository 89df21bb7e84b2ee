//! New grass: when to sow, planned backwards from frost, what it takes, its stages, and seedlings that were counted.

mod count;
mod kept;
mod plan;
mod show;
mod weeks;

pub(super) use count::*;
pub(super) use kept::*;
pub(super) use plan::*;
pub(super) use show::*;
pub(super) use weeks::*;

/// Past years that are read.
const PAST_YEARS: i64 = 31;
