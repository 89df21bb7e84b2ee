//! Checks of the formulas against published worked examples, tables and independent libraries.

mod golden;
mod sun;
mod tables;
mod unit_facts;
mod worked_examples;
