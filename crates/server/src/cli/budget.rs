//! `fresh-meadow budget`: what water offices allow a site over a span of days.

use clap::Args;
use lawn::record::budget::budgets;
use lawn::weather::stretch;

use super::{Failure, input};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    #[command(flatten)]
    of: input::Stretch,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let (document, record) = a.of.read()?;
    let span = stretch::of(&record, a.of.from, a.of.to)
        .map_err(|error| Failure(format!("{}: {error}", a.of.weather.display())))?;
    let found = budgets(&document, &record[span]);
    let text = serde_json::to_string_pretty(&serde_json::json!({
        "watersense_allowance_m3": found.watersense_allowance.map(|v| v.m3()),
        "mawa_m3": found.mawa.m3(),
        "etwu_m3": found.etwu.m3(),
        "rain_mm": found.rain_mm,
        "et0_mm": found.et0_mm,
    }))?;
    Ok(text + "\n")
}
