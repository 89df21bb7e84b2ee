//! `fresh-meadow plan`: the week as JSON.

use std::path::PathBuf;

use clap::Args;
use jiff::civil::Date;
use lawn::record::waterings::used_of_month;
use lawn::view::plan::{Known, plan_week};
use lawn::weather::{Gaps, place};

use super::{Failure, input};

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Site document (docs/formats/site.md).
    #[arg(long, value_name = "SITE.json")]
    site: PathBuf,
    /// Weather file; rows from --today on are a forecast (docs/formats/weather.md).
    #[arg(long, value_name = "FILE.csv")]
    weather: PathBuf,
    /// The site's day, at 00:00: its windows are open.
    #[arg(long, value_name = "DATE", value_parser = input::day)]
    today: Date,
    /// What ran before (docs/formats/runs.md); without it, nothing did.
    #[arg(long, value_name = "FILE.csv")]
    runs: Option<PathBuf>,
    /// Fill days without weather by the mean ET0 of the week before, without rain; where the site has normals, by these.
    #[arg(long)]
    fill: bool,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let document = input::site(&a.site)?;
    let file = input::weather_record(&a.weather)?;
    let place = place(&document.site);
    let filled = Gaps::filled(&document.site);
    let gaps = if a.fill { filled } else { Gaps::Refuse };
    let observed = input::series(&a.weather, &file, &place, &[], gaps, |d| d < a.today)?;
    // A forecast may leave out days or figures: the recent mean stands in.
    let forecast = input::series(&a.weather, &file, &place, &observed, filled, |d| {
        d >= a.today
    })?;
    if let Some(last) = observed.last()
        && last.date.tomorrow()? < a.today
        && !a.fill
    {
        return Err(Failure(format!(
            "{}: weather before {} ends on {}; give --fill to have the days between filled",
            a.weather.display(),
            a.today,
            last.date
        )));
    }
    let runs = match &a.runs {
        Some(path) => input::runs(path, &document)?,
        None => Vec::new(),
    };
    let used = used_of_month(&document, &runs, a.today);
    let document = document.priced(a.today, used);
    let plan = plan_week(&Known {
        forecast: &forecast,
        runs: &runs,
        ..Known::of_record(&document, &observed, a.today)
    })
    .map_err(|error| Failure(format!("{}: {error}", a.weather.display())))?;
    let mut text = serde_json::to_string_pretty(&plan)?;
    text.push('\n');
    Ok(text)
}
