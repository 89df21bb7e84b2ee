//! `fresh-meadow et0`: reference ET row by row.

use std::fmt::Write;
use std::path::PathBuf;

use clap::{Args, ValueEnum};
use lawn::ranges;
use science::reference_et::{Choice, Place, Station};

use super::{Failure, flag, input};

#[derive(Debug, Clone, Copy, ValueEnum)]
enum MethodArgument {
    Auto,
    PenmanMonteith,
    Hargreaves,
}

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    /// Weather file: date, tmin_c, tmax_c and what else was measured (docs/formats/weather.md).
    #[arg(long, value_name = "FILE.csv")]
    weather: PathBuf,
    /// Latitude, degrees, south negative.
    #[arg(long, value_name = "DEG", allow_negative_numbers = true)]
    latitude: f64,
    /// Elevation above sea level, m.
    #[arg(long, value_name = "M", allow_negative_numbers = true)]
    elevation: f64,
    /// Height of the anemometer above ground, m.
    #[arg(long, value_name = "M", default_value_t = 2.0)]
    wind_height: f64,
    /// Penman–Monteith where humidity or radiation is given, else Hargreaves; or one of them always.
    #[arg(long, value_enum, default_value = "auto")]
    method: MethodArgument,
}

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let station = Station::new(&Place {
        latitude_deg: flag("--latitude", ranges::LATITUDE.check(a.latitude))?,
        elevation_m: flag("--elevation", ranges::ELEVATION.check(a.elevation))?,
        wind_height_m: flag("--wind-height", ranges::WIND_HEIGHT.check(a.wind_height))?,
    });
    let choice = match a.method {
        MethodArgument::Auto => Choice::Auto,
        MethodArgument::PenmanMonteith => Choice::PenmanMonteith,
        MethodArgument::Hargreaves => Choice::Hargreaves,
    };
    let file = input::weather_rows(&a.weather)?;
    let mut text = String::from("date,et0_mm,method\n");
    for row in &file.rows {
        let fail = |what: &str, column: &str| {
            Failure(format!(
                "{}: line {}, column {column}: {what}",
                a.weather.display(),
                row.line
            ))
        };
        let column = if row.day.tmin_c.is_none() {
            "tmin_c"
        } else {
            "tmax_c"
        };
        let et = row
            .day
            .reference_et(&station, choice)
            .map_err(|error| fail(&error.to_string(), column))?
            .ok_or_else(|| fail("missing; reference ET needs both temperatures", column))?;
        writeln!(
            text,
            "{},{:.6},{}",
            row.day.date,
            et.et0_mm,
            et.method.name()
        )?;
    }
    Ok(text)
}
