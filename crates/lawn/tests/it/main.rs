//! The rules against published figures, corner cases and properties.

mod calendar;
mod corner_cases;
mod document;
mod fixture;
mod floors;
mod plan;
mod properties;
mod six_zones;
