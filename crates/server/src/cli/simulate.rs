//! `fresh-meadow simulate`: the daily balance under the replayed morning decisions.

use std::ffi::OsStr;
use std::fmt::Write;
use std::path::PathBuf;

use clap::builder::{OsStringValueParser, TypedValueParser};
use clap::{Args, ValueEnum};
use lawn::engine::replay::{Error, Foresight, Row, replay};
use lawn::engine::surface_day::SurfaceDay;
use lawn::quantity::Depth;
use lawn::site::{EveryOtherDay, FixedInterval, School, WeeklyTarget};

use super::{Failure, input};

/// What each morning knows of the days ahead.
#[derive(Debug, Clone)]
enum ForecastArgument {
    None,
    Perfect,
    File(PathBuf),
}

impl From<&OsStr> for ForecastArgument {
    fn from(typed: &OsStr) -> Self {
        match typed.to_str() {
            Some("none") => Self::None,
            Some("perfect") => Self::Perfect,
            _ => Self::File(typed.into()),
        }
    }
}

/// A school as it is usually set.
#[derive(Debug, Clone, Copy, ValueEnum)]
enum SchoolArgument {
    /// Deep and seldom, by the balance of the root zone.
    WaterBalance,
    /// 25 mm net a week less rain, in two soaks; none while dormant with cold.
    WeeklyTarget,
    /// 12.7 mm net every third day.
    FixedInterval,
    /// 25 minutes every other day.
    EveryOtherDay,
}

impl From<SchoolArgument> for School {
    fn from(school: SchoolArgument) -> Self {
        match school {
            SchoolArgument::WaterBalance => Self::WaterBalance,
            SchoolArgument::WeeklyTarget => Self::WeeklyTarget(WeeklyTarget::default()),
            SchoolArgument::FixedInterval => Self::FixedInterval(FixedInterval::default()),
            SchoolArgument::EveryOtherDay => Self::EveryOtherDay(EveryOtherDay::default()),
        }
    }
}

#[derive(Debug, Args)]
pub(crate) struct Arguments {
    #[command(flatten)]
    of: input::Stretch,
    /// What each morning knows of the days ahead: nothing, the file's own days, or a file of forecasts as issued (docs/formats/weather.md).
    #[arg(long, value_name = "none|perfect|FILE.csv", default_value = "none", value_parser = OsStringValueParser::new().map(|typed| ForecastArgument::from(typed.as_os_str())))]
    forecast: ForecastArgument,
    /// Water every established zone by one school, as it is usually set, whatever the site says.
    #[arg(long, value_name = "SCHOOL", value_enum)]
    school: Option<SchoolArgument>,
}

const HEADER: &str = "date,zone,et0_mm,etc_mm,eta_mm,rain_mm,effective_rain_mm,irrigation_net_mm,irrigation_gross_mm,runoff_mm,drainage_mm,adjustment_mm,depletion_start_mm,depletion_mm,taw_mm,raw_mm,ks,regime,surface_depletion_start_mm,surface_depletion_mm,tew_mm,rew_mm,evaporation_mm\n";

pub(crate) fn run(a: &Arguments) -> Result<String, Failure> {
    let (mut document, record) = a.of.read()?;
    if let Some(school) = a.school {
        document = document.with_school(school.into());
    }
    let issued;
    let foresight = match &a.forecast {
        ForecastArgument::None => Foresight::None,
        ForecastArgument::Perfect => Foresight::Perfect,
        ForecastArgument::File(path) => {
            issued = input::issued(path)?;
            Foresight::Issued(&issued)
        }
    };
    let rows = replay(&document, &record, a.of.from, a.of.to, foresight).map_err(|error| {
        let file = match (&error, &a.forecast) {
            (Error::Forecast(_), ForecastArgument::File(path)) => path,
            _ => &a.of.weather,
        };
        Failure(format!("{}: {error}", file.display()))
    })?;
    let mut text = String::with_capacity(rows.len() * 160);
    text.push_str(HEADER);
    for row in &rows {
        line(&mut text, row)?;
    }
    Ok(text)
}

fn line(text: &mut String, row: &Row) -> Result<(), Failure> {
    let b = &row.balance;
    write!(text, "{},{}", row.date, lawn::text::csv_cell(row.zone))?;
    for depth in [
        row.et0,
        b.etc,
        b.eta,
        b.rain,
        b.effective_rain,
        b.irrigation.net,
        b.irrigation.gross,
        b.rain_runoff + b.irrigation.runoff,
        b.drainage,
        b.adjustment,
        b.start,
        b.end,
        row.taw,
        b.raw,
    ] {
        // All digits, so that the identity holds on the printed line; + 0 turns −0 into 0.
        write!(text, ",{}", depth.mm() + 0.0)?;
    }
    let regime = row.regime.name();
    write!(text, ",{},{regime}", b.ks)?;
    // Empty where no surface store runs.
    let surface = b.surface.as_ref();
    let of: [fn(&SurfaceDay) -> Depth; 5] = [
        |s| s.start,
        |s| s.end,
        |s| s.tew,
        |s| s.rew,
        |s| s.evaporation,
    ];
    for of in of {
        match surface.map(of) {
            Some(depth) => write!(text, ",{}", depth.mm() + 0.0)?,
            None => text.push(','),
        }
    }
    text.push('\n');
    Ok(())
}
