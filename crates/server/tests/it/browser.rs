//! The interface in headless Chromium, by role and visible text, with an accessibility scan of each view.

mod accessibility;
mod bad_days;
mod days;
mod driver;
pub use driver::Screen;
mod journey;
pub mod page;
mod people;
mod narrow;
mod sprinklers;
mod states;
mod units;
mod week;
