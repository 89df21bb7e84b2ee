//! The rules against published figures, corner cases and properties.
#![allow(clippy::unwrap_used)] // a test that panics has failed, as it should

mod asked;
mod book;
mod budget;
mod calendar;
mod can_test;
mod changes;
mod corner_cases;
mod corrections;
mod document;
mod drafts;
mod edits;
mod fixture;
mod floors;
mod foreign_csv;
mod issued;
mod kept;
mod normals;
mod parsers;
mod plan;
mod properties;
mod published;
mod quick_test;
mod rain;
mod readings;
mod rule_properties;
mod rules;
mod schools;
mod six_zones;
mod slots;
mod soil_tests;
mod supply;
mod tariff;
mod week_sum;
mod worth;
mod zone_plan;
