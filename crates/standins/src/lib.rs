//! Simulated stand-ins of outside services, for the demo and the tests. Nothing here is measured.
//!
//! | what | module |
//! |---|---|
//! | five climates | [`climate`] |
//! | observed days, a pure function of seed, climate, place and date | [`weather`] |
//! | forecasts as issued, a pure function of the same and the day of issue | [`forecast`] |
//! | the weather service over HTTP | [`service`] |
//! | the irrigation controller over HTTP, one device a site | [`controller`] |
#![deny(missing_docs)]

pub mod climate;
pub mod controller;
pub mod forecast;
mod noise;
pub mod service;
pub mod weather;
