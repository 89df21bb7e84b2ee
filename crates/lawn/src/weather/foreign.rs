//! Weather files of other shapes: columns, units and the form of dates are chosen by a person, and remembered.
//!
//! The file is turned into ours line by line ([`crate::weather::file`]), so that every check and every line number is the same.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::ranges::{self, Range};
use crate::weather::cell;
use crate::weather::file::{self, File};
use crate::weather::titles::read_over;

/// How a file writes its dates.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum DateForm {
    /// 2026-06-18, also with a time after it.
    Iso,
    /// 20260618.
    Compact,
    /// 6/18/2026.
    MonthFirst,
    /// 18/6/2026 or 18.6.2026.
    DayFirst,
}

impl DateForm {
    /// A day written so, for people.
    const fn example(self) -> &'static str {
        match self {
            Self::Iso => "2026-06-18",
            Self::Compact => "20260618",
            Self::MonthFirst => "6/18/2026",
            Self::DayFirst => "18.6.2026",
        }
    }
}

/// A figure of a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names of [`crate::weather::WeatherDay`]
pub enum Figure {
    Tmin,
    Tmax,
    RhMin,
    RhMax,
    Dewpoint,
    VapourPressure,
    Solar,
    Sunshine,
    Wind,
    Rain,
    RainProbability,
}

/// The unit of a column.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[allow(missing_docs)] // the names say it
pub enum Unit {
    Celsius,
    TenthsCelsius,
    Fahrenheit,
    Percent,
    Kpa,
    Hpa,
    /// MJ/m² a day.
    MjM2,
    /// Mean W/m² of the day.
    WM2,
    Hours,
    MS,
    KmH,
    Mph,
    Knots,
    Mm,
    TenthsMm,
    Inch,
}

impl Figure {
    /// All of them, with our name of the column and the units that make sense.
    pub const ALL: [(Self, &'static str, &'static [Unit]); 11] = [
        (Self::Tmin, "tmin_c", TEMPERATURES),
        (Self::Tmax, "tmax_c", TEMPERATURES),
        (
            Self::Rain,
            "rain_mm",
            &[Unit::Mm, Unit::TenthsMm, Unit::Inch],
        ),
        (
            Self::Wind,
            "wind_m_s",
            &[Unit::MS, Unit::KmH, Unit::Mph, Unit::Knots],
        ),
        (Self::RhMin, "rh_min_pct", &[Unit::Percent]),
        (Self::RhMax, "rh_max_pct", &[Unit::Percent]),
        (Self::Dewpoint, "dewpoint_c", TEMPERATURES),
        (
            Self::VapourPressure,
            "vapour_pressure_kpa",
            &[Unit::Kpa, Unit::Hpa],
        ),
        (Self::Solar, "solar_mj_m2", &[Unit::MjM2, Unit::WM2]),
        (Self::Sunshine, "sunshine_h", &[Unit::Hours]),
        (
            Self::RainProbability,
            "rain_probability_pct",
            &[Unit::Percent],
        ),
    ];

    /// Our name of the column.
    #[must_use]
    pub fn name(self) -> &'static str {
        Self::ALL
            .iter()
            .find(|(figure, ..)| *figure == self)
            .map_or("", |(_, name, _)| name)
    }

    /// The range that holds for it, in our unit.
    fn range(self) -> Option<Range> {
        let name = self.name();
        ranges::ALL.iter().find(|r| r.name == name).copied()
    }

    pub(crate) fn takes(self, unit: Unit) -> bool {
        Self::ALL
            .iter()
            .any(|(figure, _, units)| *figure == self && units.contains(&unit))
    }
}

const TEMPERATURES: &[Unit] = &[Unit::Celsius, Unit::Fahrenheit, Unit::TenthsCelsius];

impl Unit {
    /// Its name for people.
    const fn name(self) -> &'static str {
        match self {
            Self::Celsius => "°C",
            Self::TenthsCelsius => "tenths of °C",
            Self::Fahrenheit => "°F",
            Self::Percent => "%",
            Self::Kpa => "kPa",
            Self::Hpa => "hPa",
            Self::MjM2 => "MJ/m²",
            Self::WM2 => "W/m²",
            Self::Hours => "h",
            Self::MS => "m/s",
            Self::KmH => "km/h",
            Self::Mph => "mph",
            Self::Knots => "knots",
            Self::Mm => "mm",
            Self::TenthsMm => "tenths of mm",
            Self::Inch => "in",
        }
    }

    /// A figure of this unit in ours.
    fn to_ours(self, x: f64) -> f64 {
        match self {
            Self::TenthsCelsius | Self::TenthsMm | Self::Hpa => x / 10.0,
            Self::Fahrenheit => science::units::celsius_from_fahrenheit(x),
            // A day has 86 400 s.
            Self::WM2 => x * 0.0864,
            Self::KmH => x / 3.6,
            Self::Mph => x * 0.447_04,
            Self::Knots => x * 1852.0 / 3600.0,
            Self::Inch => x * 25.4,
            Self::Celsius
            | Self::Percent
            | Self::Kpa
            | Self::MjM2
            | Self::Hours
            | Self::MS
            | Self::Mm => x,
        }
    }
}

/// A column that is read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MappedColumn {
    /// What it says.
    pub figure: Figure,
    /// Its heading in the file.
    pub column: String,
    /// Its unit.
    pub unit: Unit,
}

/// How a file's columns are read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mapping {
    /// Heading of the column of dates.
    pub date_column: String,
    /// How they are written.
    pub date_form: DateForm,
    /// The other columns.
    pub columns: Vec<MappedColumn>,
}

/// Comma, semicolon or tab: whichever stands most often in the heading, the first line that is not empty.
fn delimiter(text: &str) -> u8 {
    let first = text
        .lines()
        .find(|line| !line.trim().is_empty())
        .unwrap_or_default()
        .as_bytes();
    let count = |d: u8| first.iter().filter(|b| **b == d).count();
    [b',', b';', b'\t']
        .into_iter()
        .max_by_key(|d| (count(*d), *d == b','))
        .unwrap_or(b',')
}

pub(crate) fn reader(text: &str) -> csv::Reader<&[u8]> {
    csv::ReaderBuilder::new()
        .flexible(true)
        .trim(csv::Trim::All)
        .delimiter(delimiter(text))
        .from_reader(text.as_bytes())
}

/// A day as a form of dates writes it.
pub(crate) fn date(cell: &str, form: DateForm) -> Option<Date> {
    let numbers = |separators: &[char]| -> Option<[i16; 3]> {
        let mut parts = cell.split(separators).map(str::parse);
        let found = [
            parts.next()?.ok()?,
            parts.next()?.ok()?,
            parts.next()?.ok()?,
        ];
        parts.next().is_none().then_some(found)
    };
    let of = |year: i16, month: i16, day: i16| {
        Date::new(year, i8::try_from(month).ok()?, i8::try_from(day).ok()?).ok()
    };
    match form {
        DateForm::Iso => {
            let day = cell.get(..10)?;
            let rest = cell.get(10..).unwrap_or_default();
            (rest.is_empty() || rest.starts_with(['T', ' ']))
                .then(|| Date::strptime("%Y-%m-%d", day).ok())?
        }
        DateForm::Compact => (cell.len() == 8).then(|| Date::strptime("%Y%m%d", cell).ok())?,
        DateForm::MonthFirst => {
            let [month, day, year] = numbers(&['/', '-'])?;
            of(year, month, day)
        }
        DateForm::DayFirst => {
            let [day, month, year] = numbers(&['/', '.', '-'])?;
            of(year, month, day)
        }
    }
}

/// What files write for rain too little to measure.
const TRACE: &str = "t";
/// What files write where they know nothing.
const UNKNOWN: [&str; 7] = ["", "na", "n/a", "nan", "null", "-", "-9999"];

/// Reads a file by a mapping; errors name the file's own columns.
#[must_use]
pub fn read(text: &str, mapping: &Mapping) -> File {
    let text = &*read_over(text);
    let mut reader = reader(text);
    let headers = match reader.headers() {
        Ok(headers) => headers.clone(),
        Err(_) => return file::read(text),
    };
    let mut file = File::default();
    if !file.is_text(text) || !file.fits(1, &headers) {
        return file;
    }
    let at = |name: &str| headers.iter().position(|h| h == name);
    let Some(date_at) = at(&mapping.date_column) else {
        file.error(1, &mapping.date_column, "no such column in the file");
        return file;
    };
    let mut columns = Vec::new();
    for (i, column) in mapping.columns.iter().enumerate() {
        if mapping.columns[..i]
            .iter()
            .any(|c| c.figure == column.figure)
        {
            file.error(
                1,
                &column.column,
                &format!("another column is {} already", column.figure.name()),
            );
        } else if !column.figure.takes(column.unit) {
            file.error(
                1,
                &column.column,
                &format!("{} has no such unit", column.figure.name()),
            );
        } else if let Some(at) = at(&column.column) {
            columns.push((at, column));
        } else {
            file.error(1, &column.column, "no such column in the file");
        }
    }
    if !file.errors.is_empty() {
        return file;
    }
    // Ours, one line for each of theirs; a cell that says no number stays as it is, for the error.
    let mut ours = csv::WriterBuilder::new()
        .flexible(true)
        .from_writer(Vec::new());
    let names = std::iter::once("date").chain(columns.iter().map(|(_, c)| c.figure.name()));
    let mut lines = vec![1];
    let mut written = ours.write_record(names).is_ok();
    for record in reader.records() {
        let Ok(record) = record else {
            let line = reader_line(&record);
            file.error(line, "", "the line cannot be read as text in columns");
            if file.is_hopeless() {
                break;
            }
            continue;
        };
        if record.iter().all(str::is_empty) {
            continue;
        }
        if file.is_hopeless() {
            break;
        }
        if !file.fits(record.position().map_or(0, csv::Position::line), &record) {
            continue;
        }
        let cell = |at: usize| record.get(at).unwrap_or_default();
        let day = cell(date_at);
        let line = record.position().map_or(0, csv::Position::line);
        let Some(day) = date(day, mapping.date_form) else {
            let message = format!(
                "\"{day}\" is not a date written like {}",
                mapping.date_form.example()
            );
            file.error(line, &mapping.date_column, &message);
            continue;
        };
        let errors_before = file.errors.len();
        let mut cells = vec![day.to_string()];
        for (at, column) in &columns {
            cells.push(converted(cell(*at), column, line, &mut file));
        }
        low_above_high(&columns, cell, line, &mut file);
        // What is wrong is said already, in the file's own unit and digits.
        if file.errors.len() > errors_before {
            continue;
        }
        written &= ours.write_record(cells).is_ok();
        lines.push(line);
    }
    let text = ours.into_inner().ok().filter(|_| written);
    let Some(text) = text.and_then(|bytes| String::from_utf8(bytes).ok()) else {
        file.error(1, "", "the file cannot be read as text in columns");
        return file;
    };
    let read = file::read(&text);
    let line_of = |line: u64| {
        usize::try_from(line)
            .ok()
            .and_then(|l| lines.get(l.checked_sub(1)?).copied())
            .unwrap_or(line)
    };
    let column_of = |name: &str| {
        if name == "date" {
            return mapping.date_column.clone();
        }
        let column = mapping.columns.iter().find(|c| c.figure.name() == name);
        column.map_or_else(|| name.to_owned(), |c| c.column.clone())
    };
    for mut row in read.rows {
        row.line = line_of(row.line);
        file.rows.push(row);
    }
    for mut error in read.errors {
        error.line = line_of(error.line);
        error.column = column_of(&error.column);
        file.errors.push(error);
    }
    file.ignored = headers
        .iter()
        .filter(|h| *h != mapping.date_column && mapping.columns.iter().all(|c| c.column != *h))
        .map(str::to_owned)
        .collect();
    file
}

/// A cell in our unit; what is out of range is said in the file's own.
fn converted(cell: &str, column: &MappedColumn, line: u64, file: &mut File) -> String {
    let lower = cell.to_lowercase();
    if UNKNOWN.contains(&lower.as_str()) {
        return String::new();
    }
    // A trace of rain, too little to measure.
    if lower == TRACE && column.figure == Figure::Rain {
        return "0".to_owned();
    }
    // A comma may be a decimal one where it does not part columns.
    let Ok(x) = cell.replace(',', ".").parse::<f64>() else {
        let message = format!("\"{cell}\" is not a number");
        file.error(line, &column.column, &message);
        return String::new();
    };
    let wrong = column.figure.range().and_then(|range| {
        cell::out_of_range(range, cell, column.unit.name(), |x| column.unit.to_ours(x))
    });
    if let Some(message) = wrong {
        file.error(line, &column.column, &message);
    }
    column.unit.to_ours(x).to_string()
}

/// Says where a day's low lies above its high, in the file's own digits, if both have one unit.
fn low_above_high<'a>(
    columns: &[(usize, &MappedColumn)],
    cell: impl Fn(usize) -> &'a str,
    line: u64,
    file: &mut File,
) {
    let of = |figure: Figure| columns.iter().find(|(_, c)| c.figure == figure);
    for (low, high, what) in [
        (Figure::Tmin, Figure::Tmax, "temperature"),
        (Figure::RhMin, Figure::RhMax, "humidity"),
    ] {
        let (Some((low_at, low)), Some((high_at, high))) = (of(low), of(high)) else {
            continue;
        };
        let number = |at: usize| cell(at).replace(',', ".").parse::<f64>().ok();
        if low.unit == high.unit
            && number(*low_at)
                .zip(number(*high_at))
                .is_some_and(|(low, high)| low > high)
        {
            let message = cell::above_highest(what, cell(*low_at), cell(*high_at));
            file.error(line, &low.column, &message);
        }
    }
}

fn reader_line(record: &Result<csv::StringRecord, csv::Error>) -> u64 {
    match record {
        Ok(record) => record.position().map_or(0, csv::Position::line),
        Err(error) => error.position().map_or(0, csv::Position::line),
    }
}
