//! What people and files see.

pub mod catalogue;
pub mod changes;
mod coming;
mod explain;
pub mod plan;
pub mod reason;
pub mod week_plan;
