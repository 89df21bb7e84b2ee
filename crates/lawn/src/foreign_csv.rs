//! Weather files of other shapes: columns, units and the form of dates are chosen by a person, and remembered.
//!
//! The file is turned into ours line by line ([`crate::weather_csv`]), so that every check and every line number is the same.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::weather_csv::{self, CellError, File};

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

    fn takes(self, unit: Unit) -> bool {
        Self::ALL
            .iter()
            .any(|(figure, _, units)| *figure == self && units.contains(&unit))
    }
}

const TEMPERATURES: &[Unit] = &[Unit::Celsius, Unit::Fahrenheit, Unit::TenthsCelsius];

impl Unit {
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

/// The heading of a file: what it is remembered by, its columns, and the first row.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Heading {
    /// Columns as they are headed.
    pub columns: Vec<String>,
    /// The first row's cells, as an example.
    pub example: Vec<String>,
}

impl Heading {
    /// What a file is recognized by.
    #[must_use]
    pub fn signature(&self) -> String {
        self.columns.join("\u{1f}")
    }
}

/// Comma, semicolon or tab: whichever stands most often in the first line.
fn delimiter(text: &str) -> u8 {
    let first = text.lines().next().unwrap_or_default().as_bytes();
    let count = |d: u8| first.iter().filter(|b| **b == d).count();
    [b',', b';', b'\t']
        .into_iter()
        .max_by_key(|d| (count(*d), *d == b','))
        .unwrap_or(b',')
}

fn reader(text: &str) -> csv::Reader<&[u8]> {
    csv::ReaderBuilder::new()
        .flexible(true)
        .trim(csv::Trim::All)
        .delimiter(delimiter(text))
        .from_reader(text.as_bytes())
}

/// The heading of a file; `None` where there is none.
///
/// # Errors
/// A heading with more or longer columns than weather files have.
pub fn heading(text: &str) -> Result<Option<Heading>, CellError> {
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = reader(text);
    let Ok(headers) = reader.headers().cloned() else {
        return Ok(None);
    };
    let mut limits = File::default();
    if !limits.is_text(text) || !limits.fits(1, &headers) {
        return limits.errors.pop().map_or(Ok(None), Err);
    }
    let columns: Vec<String> = headers.iter().map(str::to_owned).collect();
    let example = reader.records().next().and_then(Result::ok);
    let example = example.filter(|record| limits.fits(2, record));
    Ok((columns.len() > 1).then(|| Heading {
        columns,
        example: example
            .map(|r| r.iter().map(str::to_owned).collect())
            .unwrap_or_default(),
    }))
}

/// A first guess for a person to mend: the date by its looks, figures by words in their headings.
#[must_use]
pub fn guess(heading: &Heading) -> Mapping {
    let forms = [
        DateForm::Iso,
        DateForm::Compact,
        DateForm::MonthFirst,
        DateForm::DayFirst,
    ];
    let dated = heading.example.iter().enumerate().find_map(|(i, cell)| {
        let form = forms.into_iter().find(|form| date(cell, *form).is_some())?;
        Some((heading.columns.get(i)?.clone(), form))
    });
    let (date_column, date_form) = dated.unwrap_or_else(|| {
        (
            heading.columns.first().cloned().unwrap_or_default(),
            DateForm::Iso,
        )
    });
    let mut columns: Vec<MappedColumn> = Vec::new();
    for column in &heading.columns {
        let lower = column.to_lowercase();
        let has = |words: &[&str]| words.iter().any(|w| lower.contains(w));
        let warm = has(&["temp", "tmin", "tmax", "tmn", "tmx"]);
        let figure = if has(&["prob", "chance"]) {
            Figure::RainProbability
        } else if has(&["rain", "prcp", "precip"]) {
            Figure::Rain
        } else if has(&["dew"]) {
            Figure::Dewpoint
        } else if has(&["wind"]) {
            Figure::Wind
        } else if has(&["solar", "radiation"]) {
            Figure::Solar
        } else if has(&["sun"]) {
            Figure::Sunshine
        } else if has(&["hum", "rh"]) && has(&["min", "low"]) {
            Figure::RhMin
        } else if has(&["hum", "rh"]) && has(&["max", "high"]) {
            Figure::RhMax
        } else if (warm || has(&["low"])) && has(&["min", "low", "tmn"]) {
            Figure::Tmin
        } else if (warm || has(&["high"])) && has(&["max", "high", "tmx"]) {
            Figure::Tmax
        } else {
            continue;
        };
        if column != &date_column && columns.iter().all(|c| c.figure != figure) {
            columns.push(MappedColumn {
                figure,
                column: column.clone(),
                unit: guess_unit(figure, &lower),
            });
        }
    }
    Mapping {
        date_column,
        date_form,
        columns,
    }
}

fn guess_unit(figure: Figure, heading: &str) -> Unit {
    let ends = |words: &[&str]| {
        words
            .iter()
            .any(|w| heading.ends_with(w) || heading.contains(&format!("({w})")))
    };
    let guess = if ends(&["_f", "°f", "f", "fahrenheit"]) {
        Unit::Fahrenheit
    } else if ends(&["_in", "in", "inch", "inches"]) {
        Unit::Inch
    } else if ends(&["mph"]) {
        Unit::Mph
    } else if ends(&["km/h", "kmh", "km_h"]) {
        Unit::KmH
    } else if ends(&["kn", "knots"]) {
        Unit::Knots
    } else if ends(&["hpa", "mbar"]) {
        Unit::Hpa
    } else if ends(&["w/m2", "w/m²", "w_m2"]) {
        Unit::WM2
    } else {
        Unit::Mm
    };
    if figure.takes(guess) {
        return guess;
    }
    Figure::ALL
        .iter()
        .find(|(f, ..)| *f == figure)
        .and_then(|(_, _, units)| units.first().copied())
        .unwrap_or(guess)
}

fn date(cell: &str, form: DateForm) -> Option<Date> {
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

/// What files write where they know nothing.
const UNKNOWN: [&str; 7] = ["", "na", "n/a", "nan", "null", "-", "-9999"];

/// Reads a file by a mapping; errors name the file's own columns.
#[must_use]
pub fn read(text: &str, mapping: &Mapping) -> File {
    let text = text.trim_start_matches('\u{feff}');
    let mut reader = reader(text);
    let headers = match reader.headers() {
        Ok(headers) => headers.clone(),
        Err(_) => return weather_csv::read(text),
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
        let day = date(day, mapping.date_form).map_or_else(|| day.to_owned(), |d| d.to_string());
        let cells = columns.iter().map(|(at, column)| {
            let text = cell(*at);
            if UNKNOWN.contains(&text.to_lowercase().as_str()) {
                return String::new();
            }
            // A comma may be a decimal one where it does not part columns.
            match text.replace(',', ".").parse::<f64>() {
                Ok(x) => column.unit.to_ours(x).to_string(),
                Err(_) => text.to_owned(),
            }
        });
        written &= ours.write_record(std::iter::once(day).chain(cells)).is_ok();
        lines.push(record.position().map_or(0, csv::Position::line));
    }
    let text = ours.into_inner().ok().filter(|_| written);
    let Some(text) = text.and_then(|bytes| String::from_utf8(bytes).ok()) else {
        file.error(1, "", "the file cannot be read as text in columns");
        return file;
    };
    let read = weather_csv::read(&text);
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

fn reader_line(record: &Result<csv::StringRecord, csv::Error>) -> u64 {
    match record {
        Ok(record) => record.position().map_or(0, csv::Position::line),
        Err(error) => error.position().map_or(0, csv::Position::line),
    }
}
