//! The water book, and what water costs.

mod findings;
mod show;
mod tariffs;

pub(super) use findings::*;
pub(super) use show::*;
pub(super) use tariffs::*;
