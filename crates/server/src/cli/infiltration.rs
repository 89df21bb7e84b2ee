//! `fresh-meadow infiltration`: how long a soil takes a steady rate before water stands, and what has entered by then or later.

use clap::Args;
use lawn::ranges;
use science::green_ampt::Soil;
use science::soil::Texture;
use serde::Deserialize;
use serde::de::IntoDeserializer;
use serde::de::value::Error;

use super::{Failure, flag};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Texture class, such as sandy_loam.
    #[arg(long, value_name = "T")]
    texture: String,
    /// Steady rate of rain or a sprinkler, mm/h.
    #[arg(long, value_name = "R", allow_negative_numbers = true)]
    rate: f64,
    /// Effective saturation at the start, 0 (dry) to 1 (full).
    #[arg(long, value_name = "E", allow_negative_numbers = true)]
    initial_saturation: f64,
    /// Hours after which to tell what has entered.
    #[arg(long, value_name = "H", allow_negative_numbers = true)]
    hours: f64,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let name = IntoDeserializer::<Error>::into_deserializer(a.texture.as_str());
    let texture =
        Texture::deserialize(name).map_err(|error| Failure(format!("--texture: {error}")))?;
    let rate = flag("--rate", ranges::FALL_RATE.check(a.rate))?;
    let saturation = flag(
        "--initial-saturation",
        ranges::EFFECTIVE_SATURATION.check(a.initial_saturation),
    )?;
    let hours = flag("--hours", ranges::HOURS.check(a.hours))?;
    let soil = Soil::of(texture);
    let entered = soil.infiltration(rate, saturation, hours);
    let text = serde_json::to_string_pretty(&serde_json::json!({
        "time_to_ponding_h": soil.time_to_ponding_h(rate, saturation),
        "infiltrated_mm": entered.infiltrated_mm,
        "rate_mm_h": entered.rate_mm_h,
    }))?;
    Ok(text + "\n")
}
