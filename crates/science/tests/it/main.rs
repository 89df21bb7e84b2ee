//! Checks of the formulas against published worked examples, tables and independent libraries.
#![allow(clippy::unwrap_used)] // a test that panics has failed, as it should

mod catch_can;
mod cusum;
mod golden;
mod soil_water;
mod sun;
mod tables;
mod triangle;
mod unit_facts;
mod worked_examples;
