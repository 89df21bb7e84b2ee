//! The rules of the job, pure: "today" and the weather are arguments; no clock, no I/O.
//!
//! The way of the data, one module a step:
//!
//! | step | module |
//! |---|---|
//! | what is known of a site | [`site`], [`document`], [`sourced`], [`ranges`], [`days`], [`text`], [`invalid`] |
//! | weather: files, gaps, reference ET by day | [`weather_csv`], [`foreign_csv`], [`foreign_guess`], [`ghcn`], [`weather`] |
//! | tests of sprinklers: zone and cans, what they say, files | [`zone_outline`], [`can_layout`], [`can_test`], [`quick_test`], [`sprinkler_test`], [`test_result`], [`can_pattern`], [`depth_map`], [`unevenness`], [`can_csv`] |
//! | what is wrong with heads | [`head_fault`] |
//! | a zone's figures with their sources | [`zone_model`] |
//! | root zone, day by day | [`root_zone`] |
//! | allowed hours, sunrise | [`calendar`] |
//! | what weather may come, as scenarios | [`outlook`] |
//! | water, hold or skip, and how much | [`opportunity`], [`decision`], [`skip`], [`rain_and_dose`] |
//! | net to gross to minutes to passes | [`dose`] |
//! | what a run watered, and by what; runs files; figures that are asked about | [`watered`], [`runs_csv`], [`unlikely`] |
//! | the clock | [`timetable`] |
//! | the site's week, zones pulled earlier before any is dropped | [`site_week`] |
//! | how likely a run is to go ahead, what water to expect | [`chance_to_run`] |
//! | the week as people see it, with its reasons | [`known`], [`plan`], [`week_plan`], [`reason`] |
//! | what changed since yesterday's plan | [`changes`] |
//! | the same mornings over a past year | [`replay`] |
//! | how past forecasts turned out | [`verification`] |
//!
//! Quantities that could be mixed up are newtypes ([`quantity`]); rates cannot be added to depths.
#![deny(missing_docs)]

pub mod calendar;
pub mod can_csv;
pub mod can_layout;
pub mod can_pattern;
pub mod can_test;
pub mod catalogue;
pub mod chance_to_run;
pub mod changes;
mod coming;
pub mod days;
pub mod decision;
pub mod depth_map;
pub mod document;
pub mod dose;
mod explain;
pub mod foreign_csv;
pub mod foreign_guess;
pub mod ghcn;
pub mod head_fault;
pub mod invalid;
pub mod known;
pub mod opportunity;
pub mod outlook;
pub mod plan;
pub mod quantity;
pub mod quick_test;
pub mod rain_and_dose;
pub mod ranges;
pub mod reason;
pub mod replay;
pub mod root_zone;
pub mod runs_csv;
pub mod site;
pub mod site_week;
pub mod skip;
pub mod sourced;
pub mod sprinkler_test;
pub mod test_result;
pub mod text;
pub mod timetable;
pub mod unevenness;
pub mod unlikely;
pub mod verification;
pub mod watered;
pub mod weather;
mod weather_cell;
pub mod weather_csv;
pub mod week_plan;
pub mod zone_model;
pub mod zone_outline;
