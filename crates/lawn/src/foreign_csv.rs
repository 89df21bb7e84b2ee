//! Weather files of other shapes: columns, units and the form of dates are chosen by a person, and remembered.
//!
//! The file is turned into ours line by line ([`crate::weather_csv`]), so that every check and every line number is the same.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::ranges::{self, Range};
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

    fn takes(self, unit: Unit) -> bool {
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

/// The heading of a file: what it is remembered by, its columns, and the first rows.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Heading {
    /// Columns as they are headed.
    pub columns: Vec<String>,
    /// The first row's cells, as an example.
    pub example: Vec<String>,
    /// The first lines after the heading, as they stand in the file.
    pub lines: Vec<String>,
    /// Rows that a guess looks at.
    #[serde(skip)]
    rows: Vec<Vec<String>>,
}

/// Lines of a file that stand beside the choices.
const LINES_SHOWN: usize = 4;
/// Rows that a guess of the dates' form looks at.
const ROWS_LOOKED_AT: usize = 60;

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
    let rows: Vec<Vec<String>> = reader
        .records()
        .map_while(Result::ok)
        .take(ROWS_LOOKED_AT)
        .take_while(|record| limits.fits(2, record))
        .map(|record| record.iter().map(str::to_owned).collect())
        .collect();
    let lines = text.lines().skip(1).filter(|l| !l.trim().is_empty());
    Ok((columns.len() > 1).then(|| Heading {
        columns,
        example: rows.first().cloned().unwrap_or_default(),
        lines: lines
            .take(LINES_SHOWN.min(rows.len()))
            .map(crate::text::shortened)
            .collect(),
        rows,
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
    // 6/7/2026 may be either; the rows after it tell.
    let dated = heading.columns.iter().enumerate().find_map(|(i, column)| {
        let cells = || heading.rows.iter().filter_map(move |row| row.get(i));
        cells().next()?;
        let form = forms
            .into_iter()
            .find(|form| cells().all(|cell| date(cell, *form).is_some()))
            .or_else(|| {
                let first = heading.example.get(i)?;
                forms.into_iter().find(|form| date(first, *form).is_some())
            })?;
        Some((column.clone(), form))
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
                unit: usual(figure, false),
            });
        }
    }
    let said: Vec<Option<Unit>> = columns
        .iter()
        .map(|c| unit_said(c.figure, &c.column.to_lowercase()))
        .collect();
    // Who writes degrees Fahrenheit writes inches and miles.
    let us = said.contains(&Some(Unit::Fahrenheit));
    for (column, said) in columns.iter_mut().zip(said) {
        column.unit = said.unwrap_or_else(|| usual(column.figure, us));
    }
    Mapping {
        date_column,
        date_form,
        columns,
    }
}

/// The unit that a heading in lower case names as a word of its own: "Rain" ends in "in" and names none.
fn unit_said(figure: Figure, heading: &str) -> Option<Unit> {
    // Words that are units; two-part ones first.
    const SAID: [(&str, Unit); 29] = [
        ("km_h", Unit::KmH),
        ("w_m2", Unit::WM2),
        ("mj_m2", Unit::MjM2),
        ("m_s", Unit::MS),
        ("°f", Unit::Fahrenheit),
        ("f", Unit::Fahrenheit),
        ("degf", Unit::Fahrenheit),
        ("fahrenheit", Unit::Fahrenheit),
        ("°c", Unit::Celsius),
        ("c", Unit::Celsius),
        ("degc", Unit::Celsius),
        ("celsius", Unit::Celsius),
        ("in", Unit::Inch),
        ("inch", Unit::Inch),
        ("inches", Unit::Inch),
        ("mm", Unit::Mm),
        ("mph", Unit::Mph),
        ("km/h", Unit::KmH),
        ("kmh", Unit::KmH),
        ("kph", Unit::KmH),
        ("m/s", Unit::MS),
        ("kn", Unit::Knots),
        ("kt", Unit::Knots),
        ("knots", Unit::Knots),
        ("hpa", Unit::Hpa),
        ("mbar", Unit::Hpa),
        ("kpa", Unit::Kpa),
        ("w/m2", Unit::WM2),
        ("w/m²", Unit::WM2),
    ];
    let words: Vec<&str> = heading
        .split([' ', '(', ')', '[', ']', ',', ';', ':', '.'])
        .flat_map(|part| std::iter::once(part).chain(part.split('_')))
        .collect();
    SAID.iter()
        .find(|(word, unit)| {
            let two_part = word.contains('_') && heading.ends_with(word);
            figure.takes(*unit) && (two_part || words.contains(word))
        })
        .map(|(_, unit)| *unit)
}

/// The unit of a figure whose heading names none.
fn usual(figure: Figure, us: bool) -> Unit {
    match figure {
        Figure::Rain if us => Unit::Inch,
        Figure::Wind if us => Unit::Mph,
        Figure::Tmin | Figure::Tmax | Figure::Dewpoint if us => Unit::Fahrenheit,
        _ => Figure::ALL
            .iter()
            .find(|(f, ..)| *f == figure)
            .and_then(|(_, _, units)| units.first().copied())
            .unwrap_or(Unit::Mm),
    }
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

/// What files write for rain too little to measure.
const TRACE: &str = "t";
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
        weather_csv::out_of_range(range, cell, column.unit.name(), |x| column.unit.to_ours(x))
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
            let message = weather_csv::above_highest(what, cell(*low_at), cell(*high_at));
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
