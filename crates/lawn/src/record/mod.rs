//! What is to run, what ran, and what it gave.

pub mod allowed;
pub mod asked;
pub mod book;
pub mod budget;
pub mod constraint;
pub mod edit;
pub mod findings;
pub mod flow;
pub mod flow_findings;
pub mod flow_watch;
pub mod known;
mod lines;
pub mod meant;
pub mod on_controller;
pub mod past;
pub mod programme;
pub mod published;
pub mod readings;
pub mod readings_file;
pub mod reconcile;
pub mod runs_file;
pub mod runs_import;
pub mod said;
pub mod told_minutes;
pub mod watching;
pub mod watered;
pub mod waterings;
