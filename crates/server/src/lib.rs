//! Fresh Meadow: HTTP API, PostgreSQL, sign-in, command line, built front end. The rules themselves are in `lawn`.

pub mod account;
pub mod api;
pub mod cli;
pub mod clock;
mod computing;
pub mod controller_service;
pub mod controlling;
pub mod db;
pub mod demo;
pub mod first_account;
pub mod flow;
pub mod guessing;
pub mod http;
pub mod ledger;
pub mod outside;
pub mod password;
mod past_year;
mod photo;
pub mod planning;
pub mod publishing;
pub mod rounds;
pub mod serve;
pub mod settings;
pub mod tls;
pub mod water_book;
pub mod weather_service;
pub mod web;
