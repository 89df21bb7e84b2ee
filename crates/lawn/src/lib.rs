//! The rules of the job, pure: "today" and the weather are arguments; no clock, no I/O.
//!
//! Floors, the lowest first; a folder knows those before it (`tests/it/floors.rs`):
//!
//! | floor | what it holds |
//! |---|---|
//! | [`quantity`], [`ranges`], [`sourced`], [`spread`], [`days`], [`text`], [`invalid`] | figures, their limits and where they come from |
//! | [`measure`] | tests of sprinklers and what they say, heads, figures that are asked about |
//! | [`site`] | what is known of a site: its document with facts and tests, which of them counts, allowed hours, sunrise |
//! | [`weather`] | files, gaps, reference ET by day, what may come, how forecasts turned out |
//! | [`engine`] | a zone's figures, its root zone, opportunities, rain and dose, passes, the clock, the site's week, replays |
//! | [`record`] | what ran, by what, and what it gave |
//! | [`stress`] | heat and drought: the dormancy ledger, what is proposed |
//! | [`new_grass`] | when to sow by past years, planned backwards from frost, what it takes, its stages, how it went |
//! | [`view`] | the week as people and files see it, with reasons and changes |
//!
//! Quantities that could be mixed up are newtypes ([`quantity`]); rates cannot be added to depths.
#![deny(missing_docs)]

pub mod days;
pub mod engine;
pub mod invalid;
pub mod measure;
pub mod new_grass;
pub mod quantity;
pub mod ranges;
pub mod record;
pub mod site;
pub mod sourced;
pub mod spread;
pub mod stress;
pub mod text;
pub mod view;
pub mod wanted;
pub mod weather;
