//! Reading the open files of the command line, with errors that name file, line and column or key.

use std::fmt::Display;
use std::path::{Path, PathBuf};

use clap::Args;
use jiff::civil::Date;
use lawn::days;
use lawn::record::runs_file;
use lawn::site::SiteDocument;
use lawn::view::plan::Run;
use lawn::weather::file as weather_file;
use lawn::weather::issued::Issued;
use lawn::weather::{self, DailyWeather, Gaps};
use science::reference_et::Place;

use super::Failure;

/// A site and its weather over a stretch of days.
#[derive(Debug, Args)]
pub(crate) struct Stretch {
    /// Site document (docs/formats/site.md).
    #[arg(long, value_name = "SITE.json")]
    site: PathBuf,
    /// Weather file that covers the stretch (docs/formats/weather.md).
    #[arg(long, value_name = "FILE.csv")]
    pub(crate) weather: PathBuf,
    /// First day; a replay starts each zone there from its initial depletion.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) from: Date,
    /// Last day.
    #[arg(long, value_name = "DATE", value_parser = day)]
    pub(crate) to: Date,
    /// Fill days without weather by the mean ET0 of the week before, without rain; where the site has normals, by these.
    #[arg(long)]
    fill: bool,
}

impl Stretch {
    /// The site, and all of its weather file as a contiguous record.
    pub(crate) fn read(&self) -> Result<(SiteDocument, Vec<DailyWeather>), Failure> {
        let document = site(&self.site)?;
        let file = weather_record(&self.weather)?;
        let gaps = match self.fill {
            true => Gaps::filled(&document.site),
            false => Gaps::Refuse,
        };
        let place = weather::place(&document.site);
        let record = series(&self.weather, &file, &place, &[], gaps, |_| true)?;
        Ok((document, record))
    }
}

/// A day of the command line, 1900 to 2199.
pub(crate) fn day(text: &str) -> Result<Date, String> {
    let day = Date::strptime("%Y-%m-%d", text)
        .map_err(|_| format!("\"{text}\" is not a date, YYYY-MM-DD"))?;
    days::check("date", day, days::LAST).map_err(|error| error.message)?;
    Ok(day)
}

pub(crate) fn text(path: &Path) -> Result<String, Failure> {
    let bytes = std::fs::read(path).map_err(|e| Failure(format!("{}: {e}", path.display())))?;
    String::from_utf8(bytes).map_err(|_| Failure(format!("{}: is not UTF-8 text", path.display())))
}

/// The rows of a weather file, all of which hold; dates may repeat and come in any order.
pub(crate) fn weather_rows(path: &Path) -> Result<weather_file::File, Failure> {
    let mut file = weather_file::read(&text(path)?);
    let outside = file.outside(days::LAST);
    file.errors.extend(outside);
    match file.errors.first() {
        Some(error) => Err(Failure(format!("{}: {error}", path.display()))),
        None => Ok(file),
    }
}

/// Forecasts as they were issued.
pub(crate) fn issued(path: &Path) -> Result<Issued, Failure> {
    let mut file = weather_file::read_issued(&text(path)?);
    let outside = file.outside(days::LAST);
    file.errors.extend(outside);
    let repeated = file.repeated();
    match file.errors.first().or(repeated.first()) {
        Some(error) => Err(Failure(format!("{}: {error}", path.display()))),
        None => Ok(Issued::of_file(&file)),
    }
}

/// The rows of a weather file, each date once.
pub(crate) fn weather_record(path: &Path) -> Result<weather_file::File, Failure> {
    let mut file = weather_rows(path)?;
    if let Some(error) = file.repeated().first() {
        return Err(Failure(format!("{}: {error}", path.display())));
    }
    file.rows.sort_by_key(|row| row.day.date);
    Ok(file)
}

/// A contiguous series of the rows that `wanted` picks, which goes on from earlier days; a gap is refused, naming the line before it,
/// unless `gaps` fills it.
pub(crate) fn series(
    path: &Path,
    file: &weather_file::File,
    place: &Place,
    before: &[DailyWeather],
    gaps: Gaps<'_>,
    wanted: impl Fn(Date) -> bool,
) -> Result<Vec<DailyWeather>, Failure> {
    let days: Vec<_> = file
        .rows
        .iter()
        .filter(|row| wanted(row.day.date))
        .map(|row| row.day.clone())
        .collect();
    if days.is_empty() {
        return Ok(Vec::new());
    }
    weather::continued(place, before, &days, gaps).map_err(|error| {
        let line = match &error {
            weather::Error::Gap { date } | weather::Error::Day { date, .. } => file
                .rows
                .iter()
                .rev()
                .find(|row| row.day.date <= *date)
                .map(|row| row.line),
            weather::Error::Empty => None,
        };
        let at = line.map_or_else(String::new, |line| format!("line {line}, column date: "));
        Failure(format!("{}: {at}{error}", path.display()))
    })
}

pub(crate) fn site(path: &Path) -> Result<SiteDocument, Failure> {
    lawn::site::document::read(&text(path)?)
        .map_err(|error| Failure(format!("{}: {error}", path.display())))
}

/// Reads a runs file (docs/formats/runs.md).
pub(crate) fn runs(path: &Path, document: &SiteDocument) -> Result<Vec<Run>, Failure> {
    let fail = |error: &dyn Display| Failure(format!("{}: {error}", path.display()));
    let clock = document.site.zone().map_err(|error| fail(&error))?;
    let filed = runs_file::read(&text(path)?, document).map_err(|faults| match faults.first() {
        Some(first) => fail(first),
        None => fail(&"cannot be read"),
    })?;
    Ok(filed
        .iter()
        .filter_map(|(_, run)| run.run(&clock))
        .collect())
}
