//! Plans.

mod create;
mod show;

pub(super) use create::*;
pub(super) use show::*;
