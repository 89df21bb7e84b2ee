//! The water book, and what water costs.

mod show;
mod tariffs;

pub(super) use show::*;
pub(super) use tariffs::*;
