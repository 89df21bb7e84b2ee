//! The server from outside: HTTP API on a real PostgreSQL, the command line, the interface in a real browser.
#![allow(clippy::unwrap_used)] // a test that panics has failed, as it should

mod api;
mod backup;
mod begin;
mod browser;
mod cli;
mod documents;
mod door;
mod dry_days;
mod edits;
mod entries;
mod errors;
mod fuzz;
mod guessing;
mod harness;
mod invitations;
mod kill;
mod ledgers;
mod line;
mod midnights;
mod migrations;
mod neighbours;
mod odd_input;
mod people;
mod plans;
mod rights;
mod rounds;
mod runs;
mod screenshots;
mod site_documents;
mod soil;
mod sprinkler_tests;
mod tls;
mod told;
mod web_words;
mod windows;
