//! The water book, and what water costs.

mod caps;
mod days;
mod findings;
mod savings;
mod show;
mod tariffs;

pub(super) use caps::*;
pub(super) use days::*;
pub(super) use findings::*;
pub(super) use savings::*;
pub(super) use show::*;
pub(super) use tariffs::*;
