//! `fresh-meadow audit`: what the sprinklers put down and how evenly, from a file of cans.

use std::path::PathBuf;

use clap::Args;
use lawn::measure::cans::file as can_file;
use lawn::ranges;
use science::catch_can;

use super::{Failure, flag, input};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Cans: can, optional x_m and y_m, and depth_mm or volume_ml (docs/formats/cans.md).
    #[arg(long, value_name = "FILE.csv")]
    cans: PathBuf,
    /// Minutes that the zone ran.
    #[arg(long, value_name = "N", allow_negative_numbers = true)]
    minutes: f64,
    /// Area of the can's mouth, cm², where volumes were read.
    #[arg(long, value_name = "A", allow_negative_numbers = true)]
    throat_cm2: Option<f64>,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let minutes = flag("--minutes", ranges::TEST_MINUTES.check(a.minutes))?;
    let throat = a.throat_cm2.map(|throat| ranges::THROAT.check(throat));
    let throat = flag("--throat-cm2", throat.transpose())?;
    let cans = can_file::read(&input::text(&a.cans)?, throat)
        .map_err(|error| Failure(format!("{}: {error}", a.cans.display())))?;
    let audit = catch_can::audit(&cans, minutes)
        .ok_or_else(|| Failure(format!("{}: holds no can", a.cans.display())))?;
    let driest = catch_can::scheduling_coefficient(&cans, &|_, _| true);
    // An infinite coefficient (a dry place) has no number in JSON: null.
    let text = serde_json::to_string_pretty(&serde_json::json!({
        "n": audit.n,
        "mean_mm": audit.mean_mm,
        "precipitation_rate_mm_h": audit.precipitation_rate_mm_h,
        "du_lq": audit.du_lq,
        "cu_pct": audit.cu_pct,
        "scheduling_coefficient": driest.filter(|sc| sc.is_finite()),
        "run_time_multiplier": audit.run_time_multiplier,
    }))?;
    Ok(text + "\n")
}
