#![allow(clippy::unwrap_used)]

mod climates;
mod forecasts;
