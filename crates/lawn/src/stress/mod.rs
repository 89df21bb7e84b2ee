//! Heat and drought: how each zone stands them, and what is proposed.

pub mod decide;
pub mod dormancy;
pub mod heat;
pub mod recovery;
pub mod repair;
pub mod season;
pub mod walk;
