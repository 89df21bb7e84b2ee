//! New grass: when it is sown, planned backwards from frost, what it takes, its stages until it is a lawn, and how it went.

pub mod backwards;
pub mod materials;
pub mod method;
pub mod season;
pub mod stages;
pub mod stand;
pub mod weeks;
