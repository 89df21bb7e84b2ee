//! `fresh-meadow budget`: what water offices allow a site over a span of days.

use std::path::PathBuf;

use clap::Args;
use jiff::civil::Date;
use lawn::record::budget::budgets;
use lawn::weather::{Gaps, place, stretch};

use super::{Failure, input};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Site document (docs/formats/site.md).
    #[arg(long, value_name = "SITE.json")]
    site: PathBuf,
    /// Weather file that covers the span (docs/formats/weather.md).
    #[arg(long, value_name = "FILE.csv")]
    weather: PathBuf,
    /// First day.
    #[arg(long, value_name = "DATE", value_parser = input::day)]
    from: Date,
    /// Last day.
    #[arg(long, value_name = "DATE", value_parser = input::day)]
    to: Date,
    /// Fill days without weather by the mean ET0 of the week before, without rain; where the site has normals, by these.
    #[arg(long)]
    fill: bool,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let document = input::site(&a.site)?;
    let file = input::weather_record(&a.weather)?;
    let gaps = match a.fill {
        true => Gaps::filled(&document.site),
        false => Gaps::Refuse,
    };
    let place = place(&document.site);
    let record = input::series(&a.weather, &file, &place, &[], gaps, |_| true)?;
    let span = stretch::of(&record, a.from, a.to)
        .map_err(|error| Failure(format!("{}: {error}", a.weather.display())))?;
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
