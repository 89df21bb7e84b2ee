//! Zones that wake: what is done when, which patches live, and what closes the dead ones.

mod note;
mod photo;
mod repaired;
mod show;

pub(super) use note::*;
pub(super) use photo::*;
pub(super) use repaired::*;
pub(super) use show::*;
