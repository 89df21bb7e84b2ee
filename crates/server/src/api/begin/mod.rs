//! The first ten minutes: the first account, the site and its zones as answers to questions.

mod account;
mod grass;
mod places;
mod site;
mod zone;

pub(super) use account::*;
pub(super) use grass::*;
pub(super) use places::*;
pub(super) use site::*;
pub(super) use zone::*;
