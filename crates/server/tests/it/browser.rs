//! The interface in headless Chromium, by role and visible text, with an accessibility scan of each view.

mod accessibility;
mod bad_days;
mod begin;
mod book;
mod days;
mod driver;
mod edits;
mod entries;
mod facts;
mod files;
pub use driver::Screen;
mod journey;
mod narrow;
mod new_grass;
pub mod page;
mod people;
mod publishing;
mod rules;
mod schools;
mod soil;
mod sprinklers;
mod states;
mod stress;
mod units;
mod week;
