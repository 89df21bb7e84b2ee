//! What set-up, demo and tests share: guarded child processes and private PostgreSQL clusters.

pub mod guard;
pub mod postgres;
