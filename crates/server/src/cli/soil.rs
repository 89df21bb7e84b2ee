//! `fresh-meadow soil`: what a soil of known shares is called and how much water it holds.

use clap::Args;
use lawn::ranges;
use science::saxton_rawls::{SoilWater, USUAL_ORGANIC_PCT, soil_water};
use science::soil_triangle;

use super::{Failure, flag};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Sand, % of the mineral part.
    #[arg(long, value_name = "S", allow_negative_numbers = true)]
    sand: f64,
    /// Clay, % of the mineral part; the rest is silt.
    #[arg(long, value_name = "C", allow_negative_numbers = true)]
    clay: f64,
    /// Organic matter, % by weight, at most 8.
    #[arg(long, value_name = "O", default_value_t = USUAL_ORGANIC_PCT, allow_negative_numbers = true)]
    organic: f64,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let sand = flag("--sand", ranges::SAND.check(a.sand))?;
    let clay = flag("--clay", ranges::CLAY.check(a.clay))?;
    let organic = flag("--organic", ranges::ORGANIC.check(a.organic))?;
    let texture = soil_triangle::texture(sand, clay).ok_or_else(|| {
        Failure(format!(
            "--sand {sand} and --clay {clay} make more than 100 %"
        ))
    })?;
    let water = soil_water(sand, clay, organic);
    let text = serde_json::to_string_pretty(&serde_json::json!({
        "texture": texture,
        "wilting_point": water.map(|w| w.wilting_point),
        "field_capacity": water.map(|w| w.field_capacity),
        "saturation": water.and_then(|w| w.saturation),
        "available_mm_per_mm": water.as_ref().map(SoilWater::available_mm_per_mm),
        "ks_mm_h": water.and_then(|w| w.ks_mm_h),
    }))?;
    Ok(text + "\n")
}
