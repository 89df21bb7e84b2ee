//! What is to run, what ran, and what it gave.

pub mod known;
pub mod past;
pub mod programme;
pub mod runs_file;
pub mod watered;
